/** How a chain is drawn: the way gone on to first lies straight, others branch off between, however deep it is. */
import { expect, test } from "vitest";
import { chainRows, wayTo } from "./chain-rows";
import type { ChainStep } from "./use-sets";

const steps = (...from: (number | null)[]) =>
  from.map((from_id, at) => ({ id: at + 1, from_id }) as ChainStep);

test("branches stand below what they went on from, before the way that was gone first", () => {
  const rows = chainRows(steps(null, 1, 2, 1, 4, 1, null));
  expect(rows.map(({ step, column, on, branches }) => [step.id, column, on, branches])).toEqual([
    [1, 0, 4, false],
    [4, 1, 2, true],
    [5, 1, null, false],
    [6, 1, null, true],
    [2, 0, 5, false],
    [3, 0, null, false],
    [7, 0, null, false],
  ]);
});

test("the way to a step is from where its chain begins, and of a step that is gone there is none", () => {
  const deep = steps(null, ...Array.from({ length: 1999 }, (_, at) => at + 1));
  expect(chainRows(deep)).toHaveLength(2000);
  expect(wayTo(deep, 3).map(({ id }) => id)).toEqual([1, 2, 3]);
  expect(wayTo(deep, 9999)).toEqual([]);
});
