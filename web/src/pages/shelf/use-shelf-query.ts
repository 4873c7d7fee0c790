/** What the Shelf shows: it stands in the address, so that it can be gone back to and remembered. */
import { useEffect, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { Condition } from "../../api/client";
import type { Found, SortName } from "../../api/queries";

const REMEMBERED = "vinyl.shelf";
const TEXTS = ["q", "key", "genre", "month", "only"] as const;
const NUMBERS = ["bpm_from", "bpm_to", "rating_from", "energy"] as const;
const DOWN_FIRST: readonly SortName[] = ["added_at", "rating", "doubt"];
export const ENERGY_STEP = 10;

export type Filters = Partial<Record<(typeof TEXTS)[number], string>> &
  Partial<Record<(typeof NUMBERS)[number], number>>;
export type Changes = Partial<Record<keyof Filters, string | number | null>>;

/** Tracks that need to be looked at, by what for. */
export const ONLY: { name: string; words: string; where: Condition }[] = [
  { name: "findings", words: "with a flaw in the sound", where: { kind: "flag", flag: "has findings" } },
  { name: "away", words: "that are away", where: { kind: "flag", flag: "away" } },
  { name: "replaced", words: "whose file was replaced", where: { kind: "flag", flag: "replaced" } },
  {
    name: "unheard",
    words: "not analysed",
    where: { kind: "none", parts: [{ kind: "flag", flag: "analysed" }] },
  },
];

/** Where the Shelf was left in this window. */
export function rememberedShelf(): string {
  const query = sessionStorage.getItem(REMEMBERED);
  return query ? `/shelf?${query}` : "/shelf";
}

/** The filters as one condition, a part for each. */
export function conditionOf(filters: Filters): Condition {
  const { q, key, genre, month, bpm_from: low, bpm_to: high, rating_from: stars, energy } = filters;
  const parts: Condition[] = [];
  if (q?.trim()) parts.push({ kind: "words", text: q });
  if (low !== undefined || high !== undefined)
    parts.push({ kind: "between", field: "bpm", low: low ?? null, high: high ?? null });
  if (key) parts.push({ kind: "key", key, fits: true });
  if (genre) parts.push({ kind: "text", field: "genre", text: genre, how: "is" });
  if (month) parts.push({ kind: "added", since: month, until: month });
  if (stars) parts.push({ kind: "between", field: "rating", low: stars, high: null });
  if (energy !== undefined) {
    const top = energy + ENERGY_STEP >= 100 ? 100 : energy + ENERGY_STEP - 1;
    parts.push({ kind: "between", field: "energy", low: energy, high: top });
  }
  const only = ONLY.find(({ name }) => name === filters.only);
  if (only) parts.push(only.where);
  return { kind: "all", parts };
}

function filtersOf(params: URLSearchParams): Filters {
  const filters: Filters = {};
  for (const name of TEXTS) if (params.get(name)) filters[name] = params.get(name) ?? undefined;
  for (const name of NUMBERS) if (params.get(name)) filters[name] = Number(params.get(name));
  return filters;
}

export function useShelfQuery() {
  const [params, setParams] = useSearchParams();
  useEffect(() => sessionStorage.setItem(REMEMBERED, params.toString()), [params]);
  const filters = useMemo(() => filtersOf(params), [params]);
  const found = useMemo<Found>(
    () => ({
      where: conditionOf(filters),
      sort: (params.get("sort") ?? "added_at") as SortName,
      descending: params.get("order") !== "up",
    }),
    [filters, params],
  );
  const edit = (change: (next: URLSearchParams) => void) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        change(next);
        return next;
      },
      { replace: true },
    );
  return {
    filters,
    found,
    change: (changes: Changes) =>
      edit((next) => {
        for (const [name, value] of Object.entries(changes)) {
          if (value === null || value === "") next.delete(name);
          else next.set(name, String(value));
        }
      }),
    sortBy: (sort: SortName) =>
      edit((next) => {
        const up = found.sort === sort ? found.descending : !DOWN_FIRST.includes(sort);
        next.set("sort", sort);
        next.set("order", up ? "up" : "down");
      }),
    clear: () => edit((next) => [...TEXTS, ...NUMBERS].forEach((name) => next.delete(name))),
  };
}
