/** Waveforms and overviews as they come from the server and from a stick (docs/formats/waveform.md). */
import { expect, test } from "vitest";
import { parseOverview } from "../player/overview";
import { firstFrom, highest, levelFor, parseWaveform } from "./waveform";

const words = (...values: number[]) => new Uint8Array(new Uint32Array(values).buffer);
const text = (magic: string) => new TextEncoder().encode(magic);
const ramp = (count: number, from = 0) => Uint8Array.from({ length: count }, (_, i) => from + i);

function joined(...parts: Uint8Array[]): ArrayBuffer {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  parts.reduce((at, part) => (all.set(part, at), at + part.length), 0);
  return all.buffer;
}

/** Two levels of 16 and 2 steps, and three attacks. */
const WAVEFORM = joined(
  ...[text("VWF3"), words(44100, 2)],
  ...[words(256, 16), ramp(16, 100), ramp(16), ramp(16, 50)],
  ...[words(2048, 2), ramp(2, 107), ramp(2, 7), ramp(2, 57)],
  ...[ramp(16, 1), ramp(16, 201), words(3, 50_000, 100_000, 250_001)],
  ...[Uint8Array.of(9, 200, 0), Uint8Array.of(30, 20, 0)],
);

test("levels, attacks and their strengths are where the format says", () => {
  const { levels, onsetLow, onsetHigh, onsetTimes } = parseWaveform(WAVEFORM);
  expect(levels.map(({ rate }) => rate)).toEqual([44100 / 256, 44100 / 2048]);
  expect([...levels[0].peak.slice(0, 2), levels[0].body[15], levels[0].low[0]]).toEqual([100, 101, 15, 50]);
  expect([levels[1]?.peak[1], levels[1]?.low[1]]).toEqual([108, 58]);
  expect([onsetLow[0], onsetHigh[15]]).toEqual([1, 216]);
  expect([...onsetTimes.times]).toEqual([0.5, 1, 2.50001]);
  expect([...onsetTimes.strength]).toEqual([30, 200, 0]);
});

test("what is no waveform, or an empty one, says what to do", () => {
  expect(() => parseWaveform(joined(text("VWF2"), words(44100, 1)))).toThrow(/Reload the page/);
  expect(() => parseWaveform(joined(text("VWF3"), words(44100, 0)))).toThrow(/Analyse the track again/);
});

test("the coarsest level is drawn that has steps enough for each pixel", () => {
  const waveform = parseWaveform(WAVEFORM);
  const [fine, coarse] = waveform.levels;
  expect(levelFor(waveform, 0.001)).toBe(fine);
  expect(levelFor(waveform, 3 / (coarse?.rate ?? 1))).toBe(coarse);
  expect(levelFor(waveform, 2.9 / (coarse?.rate ?? 1))).toBe(fine);
});

test("the highest of a stretch is one of its values, however short it is or far outside", () => {
  const values = Uint8Array.of(3, 9, 4, 7);
  expect(highest(values, 10, 0, 0.2)).toBe(9);
  expect(highest(values, 10, 0.2, 0.2001)).toBe(4);
  expect(highest(values, 10, -5, 0.05)).toBe(3);
  expect(highest(values, 10, -5, -1)).toBe(0);
  expect(highest(values, 10, 0.35, 99)).toBe(7);
  expect(highest(values, 10, 5, 6)).toBe(0);
});

test("a place is found among sorted times, also before and behind all of them", () => {
  const times = Float64Array.of(0.5, 1, 1, 2);
  expect([0, 0.5, 0.6, 1, 1.5, 2, 3].map((least) => firstFrom(times, least))).toEqual([0, 0, 1, 1, 3, 3, 4]);
  expect(firstFrom(new Float64Array(), 1)).toBe(0);
});

test("a stick's overview is read, and one that is cut off or of another kind is none", () => {
  const whole = joined(text("VWO1"), words(44100, 2048, 4), ramp(4, 10), ramp(4), ramp(4, 90));
  const overview = parseOverview(whole);
  expect(overview?.step_s).toBeCloseTo(2048 / 44100);
  expect([overview?.peak[3], overview?.low[0]]).toEqual([13, 90]);
  expect(parseOverview(whole.slice(0, -1))).toBeNull();
  expect(parseOverview(whole.slice(0, 12))).toBeNull();
  expect(parseOverview(WAVEFORM)).toBeNull();
  expect(parseOverview(joined(text("VWO1"), words(0, 2048, 0)))).toBeNull();
});
