/** What comes next of each setting of a mix. */
import { expect, test } from "vitest";
import { barsNext, nextFade, nextLow, nextMeet } from "./mix-changes";

test("an overlap is doubled and halved down to a cut, from any number", () => {
  expect([barsNext(16, 1), barsNext(1, -1), barsNext(0, -1), barsNext(12, 1), barsNext(12, -1)]).toEqual([
    32, 0, 0, 16, 8,
  ]);
  expect(barsNext(256, 1)).toBe(256);
});

test("each key goes round what is possible, and back to where it began", () => {
  const round = <T>(next: (now: Record<string, T>) => object, now: Record<string, T>, steps: number) =>
    Array.from({ length: steps }, () => (now = { ...now, ...next(now) }));
  const meets = round(nextMeet, { meet: "first" }, 4).map(({ meet }) => meet);
  expect(meets).toEqual(["second", "between", "gliding", "first"]);
  const fades = round(nextFade as never, { over_bars: 16, fade_bars: null } as never, 3);
  expect(fades.map((each) => each["fade_bars"])).toEqual([8, 4, null]);
  const lows = round(nextLow as never, { over_bars: 16, low_bar: null } as never, 4);
  expect(lows.map((each) => each["low_bar"])).toEqual([9, 13, 5, null]);
});

test("a cut has neither fades nor a low end to hand over", () => {
  expect(nextFade({ over_bars: 0 })).toEqual({ fade_bars: null });
  expect(nextLow({ over_bars: 0 })).toEqual({ low_bar: null });
});
