/** What the ledger of an exchange says of each kind. */
import { expect, test } from "vitest";
import type { Ledger, Target } from "./use-exchange";
import { linesOf, saidOf } from "./words";

const ledger = (counts: object[], off_ms: Record<string, number> = {}) =>
  ({ counts, off_ms }) as unknown as Ledger;
const target = (name: string) => ({ name }) as Target;

test("kinds stand in their order, with what is the same, changed and left; empty ones are left out", () => {
  const lines = linesOf(
    ledger([
      { kind: "lists", fate: "as it is", count: 2 },
      { kind: "cues", fate: "changed", count: 0 },
      { kind: "files", fate: "as it is", count: 3 },
      { kind: "files", fate: "as it is", count: 4 },
      { kind: "files", fate: "left here", count: 1 },
      { kind: "of a later version", fate: "changed", count: 9 },
    ]),
  );
  expect(lines.map(({ name }) => name)).toEqual(["Files", "Lists"]);
  expect(lines[0]?.counts).toEqual({ "as it is": 7, changed: 0, "left here": 1 });
});

test("how far elastic grids are off is said of those that go, and of those that stay if there are any", () => {
  const off = { "grid, elastic changed": 3.14, "grid, elastic left here": 25 };
  const said = (left: number) => {
    const all = ledger(
      [
        { kind: "grid, elastic", fate: "changed", count: 1 },
        { kind: "grid, elastic", fate: "left here", count: left },
      ],
      off,
    );
    return linesOf(all).map((line) => saidOf(line, all, target("reedbank")));
  };
  expect(said(0)).toEqual(["up to 3.1 ms off"]);
  expect(said(2)).toEqual(["up to 3.1 ms off; those left here up to 25.0 ms"]);
});

test("paths say where they begin, but not where the other side keeps whole ones", () => {
  const all = ledger([{ kind: "paths", fate: "as it is", count: 1 }]);
  const said = (name: string) => linesOf(all).map((line) => saidOf(line, all, target(name)));
  expect(said("another")).toEqual(["from where the library lies"]);
  expect(said("reedbank")).toEqual([""]);
});
