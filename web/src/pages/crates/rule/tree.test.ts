/** Parts of a rule go where they are put. */
import { expect, test } from "vitest";
import type { Condition } from "../../../api/client";
import { addedTo, changedAt, partAt, wholeOf } from "./tree";

const fast: Condition = { kind: "between", field: "bpm", low: 120, high: null };
const house: Condition = { kind: "text", field: "genre", text: "House", how: "is" };
const away: Condition = { kind: "flag", flag: "away" };

test("parts are put in, changed and taken out where they stand, and nothing else moves", () => {
  const rule = addedTo(wholeOf(fast), [], { kind: "any", parts: [house] });
  const wider = addedTo(rule, [1], away);
  expect(partAt(wider, [1, 1])).toEqual(away);
  expect(partAt(wider, [0])).toEqual(fast);
  const other = changedAt(wider, [1, 0], () => fast);
  expect(partAt(other, [1])).toEqual({ kind: "any", parts: [fast, away] });
  expect(changedAt(other, [1, 0], () => null).parts).toEqual([fast, { kind: "any", parts: [away] }]);
  expect(changedAt(other, [0], () => null).parts).toHaveLength(1);
  expect(rule.parts).toHaveLength(2);
});

test("sentences that are said together are lines of their own where all must hold", () => {
  const said: Condition = { kind: "all", parts: [house, away] };
  expect(addedTo(wholeOf(fast), [], said).parts).toEqual([fast, house, away]);
  const either = addedTo(wholeOf(fast), [], { kind: "any", parts: [] });
  expect(partAt(addedTo(either, [1], said), [1, 0])).toEqual(said);
  expect(addedTo(wholeOf(fast), [], { kind: "all", parts: [] }).parts).toHaveLength(2);
});
