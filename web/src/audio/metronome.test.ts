/** Clicks on the very frames of the grid, and a count that holds the sound back. */
import { expect, test } from "vitest";
import { Metronome } from "./metronome";

/** The frames at which something begins to sound while the sound goes from one frame to another. */
function clicks(metronome: Metronome, from: number, to: number): number[] {
  const found: number[] = [];
  let silent = true;
  for (let frame = from; frame < to; frame++) {
    metronome.reach(frame);
    const left = new Float32Array(1);
    metronome.mix(left, new Float32Array(1), 0);
    const sounds = left[0] !== 0;
    if (sounds && silent) found.push(frame);
    silent = !sounds;
  }
  return found;
}

test("a click begins on each beat that the sound comes to, and on none that it jumped over", () => {
  const metronome = new Metronome();
  metronome.on = true;
  metronome.setGrid(Float64Array.of(100, 5000, 10000.4, 15000, 20000), Uint8Array.of(1, 0, 0, 0, 1), 0);
  expect(clicks(metronome, 0, 12000)).toEqual([100, 5000, 10000]);
  metronome.seek(19000);
  expect(clicks(metronome, 19000, 22000)).toEqual([20000]);
});

test("while it is off, beats pass in silence, and those to come are heard once it is on", () => {
  const metronome = new Metronome();
  metronome.setGrid(Float64Array.of(100, 5000), Uint8Array.of(1, 0), 0);
  expect(clicks(metronome, 0, 3000)).toEqual([]);
  metronome.on = true;
  expect(clicks(metronome, 3000, 6000)).toEqual([5000]);
});

test("a count of two bars holds the sound back for just its length", () => {
  const metronome = new Metronome();
  metronome.countIn({ clicks: 8, every: 2500.5, bar: 4 });
  let held = 0;
  const begun: number[] = [];
  let silent = true;
  while (metronome.holdsBack()) {
    const left = new Float32Array(1);
    metronome.mix(left, new Float32Array(1), 0);
    if (left[0] !== 0 && silent) begun.push(held);
    silent = left[0] === 0;
    held++;
  }
  expect(held).toBe(Math.ceil(8 * 2500.5));
  expect(begun).toEqual([0, 2501, 5001, 7502, 10002, 12503, 15003, 17504]);
  expect(metronome.holdsBack()).toBe(false);
});
