/** The chord of a key: its notes, whichever way its tonic is spelt, in the track's own tuning. */
import { expect, test } from "vitest";
import { chordHz } from "./drone";

const rounded = (key: string, voice: "chord" | "root" = "chord", cents = 0) =>
  chordHz(key, voice, cents).map((hz) => Math.round(hz * 100) / 100);

test("minor and major differ in the third, and the root alone is in two octaves", () => {
  expect(rounded("A minor")).toEqual([110, 130.81, 164.81, 220]);
  expect(rounded("A major")).toEqual([110, 138.59, 164.81, 220]);
  expect(rounded("C major", "root")).toEqual([130.81, 261.63]);
  expect(rounded("F# minor")).toEqual(rounded("Gb minor"));
  expect(chordHz("H minor", "chord")).toEqual([]);
});

test("a track that is tuned off has its chord tuned so too", () => {
  expect(rounded("A minor", "root", 100)[0]).toBeCloseTo(rounded("Bb minor", "root")[0] ?? 0, 1);
});
