/** Where each of two tracks is at a time of their mix, and how loud. */
import { expect, test } from "vitest";
import { gainAt, trackTime, wayOf, type Mix } from "./mix-way";

const SIDE = {
  duration_s: 200,
  beats_per_bar: 4,
  phrase_beats: 32,
  in_s: 0,
  main_s: 40,
  out_s: 90,
  points_s: [],
};
const MIX: Mix = {
  settings: { over_bars: 1 },
  out: SIDE,
  into: SIDE,
  // The incoming runs a tenth faster from the second beat on.
  knots: [-1, 0, 1, 2, 3, 4, 5].map((at) => [at, 90 + at, at < 1 ? at : 1 + 1.1 * (at - 1)]),
  bars_s: [0, 4],
  over_s: 4,
  fades: [
    [0, 1, 0],
    [2, 0.7, 0.7],
    [4, 0, 1],
  ],
  low_s: null,
  gain_db: 0,
  works: null,
};

test("between beats each runs on evenly, and beyond all that is laid out too", () => {
  expect(trackTime(MIX, "out", 1.5)).toBeCloseTo(91.5);
  expect(trackTime(MIX, "into", 2.5)).toBeCloseTo(2.65);
  expect(trackTime(MIX, "into", 7)).toBeCloseTo(7.6);
  expect(trackTime(MIX, "out", -3)).toBeCloseTo(89);
});

test("before the overlap only the outgoing is heard, and after it only the incoming", () => {
  expect([gainAt(MIX, "out", -8), gainAt(MIX, "into", -8)]).toEqual([1, 0]);
  expect(gainAt(MIX, "out", 1)).toBeCloseTo(0.85);
  expect([gainAt(MIX, "out", 30), gainAt(MIX, "into", 30)]).toEqual([0, 1]);
});

test("a way has a step a beat on the audio clock, and ends when the track is no longer heard", () => {
  const start = { from: -0.5, begun: 10, samplesFrom: 88, keyHeld: true };
  const way = wayOf(MIX, "out", start);
  expect(way[0]).toMatchObject({ active: false, output: 0 });
  expect(way[2]).toMatchObject({ active: true, output: 10.5, input: 2, rate: 1, semitones: 0 });
  expect(way.at(-1)).toMatchObject({ active: false, output: 14.5 });
  expect(way).toHaveLength(7);
  const faster = wayOf(MIX, "into", { ...start, samplesFrom: 0, keyHeld: false }).at(-2);
  expect(faster?.rate).toBeCloseTo(1.1);
  expect(faster?.semitones).toBeCloseTo(12 * Math.log2(1.1));
});
