/** Times, sizes and counts in words. */
import { expect, test } from "vitest";
import { clock, day, lufs, playingTime, plural, size, timeLeft } from "./format";

test("times carry over to the next minute, and keep their sign", () => {
  expect([0, 59.4, 59.6, 62.4, 3600, -0.6].map((at) => clock(at))).toEqual([
    ...["0:00", "0:59", "1:00", "1:02", "60:00", "−0:01"],
  ]);
  expect([59.99, 62.45, -5.05].map((at) => clock(at, true))).toEqual(["0:59.9", "1:02.4", "−0:05.0"]);
  expect([59, 3540, 3600, 7380].map(playingTime)).toEqual(["1 min", "59 min", "1 h 00 min", "2 h 03 min"]);
});

test("what is left is told as roughly as it is known", () => {
  expect([null, 3, 42, 89, 100, 5000, 9000].map(timeLeft)).toEqual([
    ...["", "a few seconds left", "about 40 s left", "about 90 s left"],
    ...["about 2 min left", "about 83 min left", "about 3 h left"],
  ]);
});

test("sizes, loudness and counts", () => {
  expect([4_200_000, 42_000_000, 4_200_000_000].map(size)).toEqual(["4.2 MB", "42 MB", "4.2 GB"]);
  expect([-14.04, null].map(lufs)).toEqual(["−14.0", "–"]);
  expect([plural(1, "track"), plural(12_000, "track"), plural(2, "copy", "copies")]).toEqual([
    ...["1 track", "12,000 tracks", "2 copies"],
  ]);
});

test("a day of this year goes without its year", () => {
  const year = new Date().getFullYear();
  expect(day(`${year}-03-09T12:00:00`)).toBe("9 Mar");
  expect(day(`${year}-03-09`)).toBe("9 Mar");
  expect(day(`${year - 3}-03-09T12:00:00`)).toBe(`9 Mar ${String(year - 3).slice(2)}`);
});
