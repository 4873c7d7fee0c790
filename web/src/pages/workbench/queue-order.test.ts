/** What is planned next comes first: nights to come by their day, those without one last, none that is over. */
import { expect, test } from "vitest";
import type { SetLine } from "../sets/use-sets";
import { toCome } from "./queue-order";

test("sets to come are offered in the order of their nights", () => {
  const sets = ["2026-12-24", "", "2026-12-04", "2026-11-27", "2026-12-03"].map(
    (on_day, at) => ({ id: at + 1, on_day }) as SetLine,
  );
  expect(toCome(sets, "2026-12-03").map(({ id }) => id)).toEqual([5, 3, 1, 2]);
});
