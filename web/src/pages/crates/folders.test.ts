/** Crates in folders, folded and open. */
import { expect, test } from "vitest";
import type { Crate } from "../../api/client";
import { allWithin, inTree } from "./folders";

const crate = (id: number, folder_id: number | null, is_folder = false) =>
  ({ id, folder_id, is_folder, name: `${id}` }) as Crate;
const crates = [
  crate(1, null),
  crate(2, null, true),
  crate(3, 2),
  crate(4, 2, true),
  crate(5, 4),
  crate(6, null),
];

test("what is in a folder stands under it, unless it is folded", () => {
  const told = (folded: number[]) => inTree(crates, folded).map(({ crate: { id }, depth }) => [id, depth]);
  expect(told([])).toEqual([
    [1, 0],
    [2, 0],
    [3, 1],
    [4, 1],
    [5, 2],
    [6, 0],
  ]);
  expect(told([2]).map(([id]) => id)).toEqual([1, 2, 6]);
  expect(allWithin(crates, 2).map(({ id }) => id)).toEqual([3, 4, 5]);
});
