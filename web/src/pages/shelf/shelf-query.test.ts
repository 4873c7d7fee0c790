/** What the Shelf is asked for, by its filters, and which limits become filters of their own. */
import { expect, test } from "vitest";
import { changesBy, changesByAll, conditionOf, limitsOf, tagsOf, type Filters } from "./use-shelf-query";

const parts = (filters: Filters) => {
  const where = conditionOf(filters);
  return where.kind === "all" ? where.parts : [where];
};

test("each filter is a part of one condition", () => {
  expect(parts({})).toEqual([]);
  expect(parts({ q: "  " })).toEqual([]);
  expect(parts({ q: "kelp", bpm_from: 120, key: "A minor", genre: "House", year: 2025 })).toEqual([
    { kind: "words", text: "kelp" },
    { kind: "between", field: "bpm", low: 120, high: null },
    { kind: "key", key: "A minor", fits: true },
    { kind: "text", field: "genre", text: "House", how: "is" },
    { kind: "between", field: "year", low: 2025, high: 2025 },
  ]);
  expect(parts({ month: "2026-11", tags: "3,7", only: "away" })).toEqual([
    { kind: "added", since: "2026-11", until: "2026-11" },
    { kind: "tagged", tag_id: 3 },
    { kind: "tagged", tag_id: 7 },
    { kind: "flag", flag: "away" },
  ]);
});

test("steps of figures do not overlap, and the last is open", () => {
  const between = (filters: Filters) =>
    parts(filters).map((part) => ("low" in part ? [part.low, part.high] : []));
  expect(between({ energy: 0 })).toEqual([[0, 9]]);
  expect(between({ energy: 50 })).toEqual([[50, 59]]);
  expect(between({ energy: 90 })).toEqual([[90, 100]]);
  expect(between({ plays_from: 0 })).toEqual([[0, 0]]);
  expect(between({ plays_from: 20 })).toEqual([[20, null]]);
  expect(between({ rating_from: 4 })).toEqual([[4, null]]);
});

test("a limit that a picture can show is a filter of it, another is kept by its words", () => {
  const tempo = { kind: "between", field: "bpm", low: 120, high: 126 } as const;
  const fast = { kind: "between", field: "bpm", low: 140, high: null } as const;
  expect(changesBy({ words: "tempo 120 to 126", where: tempo }, {})).toEqual({ bpm_from: 120, bpm_to: 126 });
  expect(changesBy({ words: "key fits Am", where: { kind: "key", key: "A minor", fits: true } }, {})).toEqual(
    {
      key: "A minor",
    },
  );
  const tagged = { kind: "tagged", tag_id: 7 } as const;
  expect(changesBy({ words: "tag Peak", where: tagged }, { tags: "3" })).toEqual({ tags: "3,7" });
  expect(changesBy({ words: "tag Peak", where: tagged }, { tags: "7" })).toEqual({ tags: "7" });
  const once = changesBy({ words: "tempo over 140", where: fast }, {});
  const limits = String(once.limits);
  expect(limitsOf({ limits })).toEqual([{ words: "tempo over 140", where: fast }]);
  expect(changesBy({ words: "tempo over 140", where: fast }, { limits })).toEqual(once);
  expect(parts({ limits })).toEqual([fast]);
});

test("of two limits that one picture would show the second is kept beside it", () => {
  const range = (low: number, high: number) => ({
    words: `tempo ${low} to ${high}`,
    where: { kind: "between", field: "bpm", low, high } as const,
  });
  const said = [range(120, 126), range(122, 130)];
  const offer = { words: "", where: null, rest: "", parts: said, order: [], sure: true };
  const changes = changesByAll(offer, { bpm_from: 90, bpm_to: 95 });
  expect(changes).toMatchObject({ bpm_from: 120, bpm_to: 126 });
  expect(limitsOf(changes as Filters)).toEqual([said[1]]);
});

test("an address that was broken off asks for what can be read of it", () => {
  expect(limitsOf({ limits: '[{"words":' })).toEqual([]);
  expect(tagsOf({ tags: ",," })).toEqual([]);
});
