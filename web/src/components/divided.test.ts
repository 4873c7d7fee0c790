/** Lines under dividers: which track stands where, by keys and folded. */
import { expect, test } from "vitest";
import { jump, linesOf, step, type Divided } from "./divided";

const section = (name: string, at: number, tracks: number): Divided => ({
  ...{ divider_id: null, name, sign: "", colour: "", at, tracks, duration_s: 0 },
});
const SECTIONS = [section("a", 1, 2), section("none", 3, 0), section("b", 3, 2)];

test("tracks and dividers take turns, and what is folded has no lines", () => {
  const open = linesOf(5, { sections: SECTIONS, folded: [] });
  expect(Array.from({ length: open.count }, (_, line) => open.at(line))).toEqual([0, -1, 1, 2, -2, -3, 3, 4]);
  expect([0, 1, 2, 3, 4].map(open.of)).toEqual([0, 2, 3, 6, 7]);
  const folded = linesOf(5, { sections: SECTIONS, folded: ["a"] });
  expect(Array.from({ length: folded.count }, (_, line) => folded.at(line))).toEqual([0, -1, -2, -3, 3, 4]);
  expect([0, 1, 2, 3].map(folded.of)).toEqual([0, 1, 1, 4]);
  expect(linesOf(3, { sections: [], folded: [] }).count).toBe(3);
});

test("keys go past dividers and folded tracks, and from divider to divider", () => {
  const folded = linesOf(5, { sections: SECTIONS, folded: ["a"] });
  expect([step(folded, 0, 1), step(folded, 3, -1), step(folded, 3, 9), step(folded, 2, 1)]).toEqual([
    3, 0, 4, 3,
  ]);
  expect([jump(SECTIONS, 0, 1), jump(SECTIONS, 1, 1), jump(SECTIONS, 4, 1)]).toEqual([1, 3, 4]);
  expect([jump(SECTIONS, 4, -1), jump(SECTIONS, 3, -1), jump(SECTIONS, 1, -1)]).toEqual([3, 1, 0]);
});
