/** Half speed: twice as long, at the same pitch, without holes. */
import { expect, test } from "vitest";
import { CHUNK_FRAMES, RATE } from "./pcm";
import { Pieces } from "./pieces";
import { Slow } from "./slow";

const HZ = 441;

function tone(seconds: number): Pieces {
  const pieces = new Pieces();
  for (let index = 0; index * CHUNK_FRAMES < seconds * RATE; index++) {
    const samples = new Int16Array(2 * CHUNK_FRAMES);
    for (let i = 0; i < CHUNK_FRAMES; i++) {
      const value = 16384 * Math.sin((2 * Math.PI * HZ * (index * CHUNK_FRAMES + i)) / RATE);
      samples[2 * i] = Math.round(value);
      samples[2 * i + 1] = Math.round(-value);
    }
    pieces.add(index, samples);
  }
  return pieces;
}

/** A second of output at half speed from a place in the source. */
function second(slow: Slow, pieces: Pieces, from: number): [number, number][] {
  return Array.from({ length: RATE }, (_, i) => slow.next(pieces, from + i / 2));
}

function rises(values: number[]): number {
  return values.filter((value, i) => i > 0 && value >= 0 && (values[i - 1] ?? 0) < 0).length;
}

test("a tone keeps its pitch and its level, on both sides", () => {
  const out = second(new Slow(), tone(4), RATE).slice(2048);
  const left = out.map(([value]) => value);
  expect(Math.abs(rises(left) - (HZ * left.length) / RATE)).toBeLessThanOrEqual(2);
  for (let start = 0; start + 200 < left.length; start += 200) {
    const most = Math.max(...left.slice(start, start + 200).map(Math.abs));
    expect(most).toBeGreaterThan(0.44);
    expect(most).toBeLessThan(0.56);
  }
  for (const [one, other] of out) expect(one + other).toBeCloseTo(0, 3);
});

test("after a jump nothing of the old place is heard", () => {
  const pieces = tone(1);
  const slow = new Slow();
  second(slow, pieces, 1000);
  slow.reset();
  const silent = second(slow, pieces, 10 * CHUNK_FRAMES);
  expect(Math.max(...silent.map(([value]) => Math.abs(value)))).toBe(0);
});
