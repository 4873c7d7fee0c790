/** What the Shelf shows: it stands in the address, so that it can be gone back to and remembered. */
import { useEffect, useMemo } from "react";
import type { Condition, Offered } from "../../api/client";
import type { Found, Sort, SortName } from "../../api/queries";
import { useFixed } from "../../components/use-fixed";
import { useQueryString, type QueryChanges } from "../../components/use-query-string";

const REMEMBERED = "vinyl.shelf";
const SORTS = "vinyl.shelf.sorts";
const TEXTS = ["q", "key", "genre", "month", "only", "limits", "tags", "colour", "folder"] as const;
const NUMBERS = ["bpm_from", "bpm_to", "rating_from", "energy", "year", "plays_from"] as const;
const NEWEST: Sort[] = [{ sort: "added_at", descending: true }];
export const ENERGY_STEP = 10;
export const MOST_PLAYS = 20;

export type Filters = Partial<Record<(typeof TEXTS)[number], string>> &
  Partial<Record<(typeof NUMBERS)[number], number>>;
export type Changes = Partial<Record<keyof Filters, string | number | null>>;

/** A limit that was chosen while typing: its words, and what it means. */
export interface Limit {
  words: string;
  where: Condition;
}

/** Tracks that need to be looked at, by what for. */
export const ONLY: { name: string; words: string; where: Condition }[] = [
  { name: "findings", words: "with a flaw in the sound", where: { kind: "flag", flag: "has findings" } },
  { name: "away", words: "that are away", where: { kind: "flag", flag: "away" } },
  { name: "replaced", words: "whose file was replaced", where: { kind: "flag", flag: "replaced" } },
  {
    name: "folded",
    words: "one version of each work",
    where: { kind: "none", parts: [{ kind: "flag", flag: "later version" }] },
  },
  { name: "versions", words: "that have versions", where: { kind: "flag", flag: "has versions" } },
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
  const { q, key, genre, month, colour, folder, bpm_from: low, bpm_to: high, year } = filters;
  const parts: Condition[] = [];
  if (q?.trim()) parts.push({ kind: "words", text: q });
  if (low !== undefined || high !== undefined)
    parts.push({ kind: "between", field: "bpm", low: low ?? null, high: high ?? null });
  if (key) parts.push({ kind: "key", key, fits: true });
  if (genre) parts.push({ kind: "text", field: "genre", text: genre, how: "is" });
  if (colour) parts.push({ kind: "text", field: "colour", text: colour, how: "is" });
  if (folder) parts.push({ kind: "text", field: "folder", text: folder, how: "under" });
  if (month) parts.push({ kind: "added", since: month, until: month });
  if (year) parts.push({ kind: "between", field: "year", low: year, high: year });
  parts.push(...figures(filters));
  for (const tag of tagsOf(filters)) parts.push({ kind: "tagged", tag_id: tag });
  const only = ONLY.find(({ name }) => name === filters.only);
  if (only) parts.push(only.where);
  // Limits that are said together are limits like the others.
  const limits = limitsOf(filters).flatMap(({ where }) => (where.kind === "all" ? where.parts : [where]));
  return { kind: "all", parts: [...parts, ...limits] };
}

function figures({ rating_from: stars, energy, plays_from: plays }: Filters): Condition[] {
  const parts: Condition[] = [];
  if (stars) parts.push({ kind: "between", field: "rating", low: stars, high: null });
  if (energy !== undefined) {
    const top = energy + ENERGY_STEP >= 100 ? 100 : energy + ENERGY_STEP - 1;
    parts.push({ kind: "between", field: "energy", low: energy, high: top });
  }
  if (plays !== undefined)
    parts.push({ kind: "between", field: "plays", low: plays, high: plays < MOST_PLAYS ? plays : null });
  return parts;
}

/** The tags that are asked for, by their ids. */
export function tagsOf(filters: Filters): number[] {
  return (filters.tags ?? "").split(",").filter(Boolean).map(Number);
}

export function limitsOf(filters: Filters): Limit[] {
  try {
    return JSON.parse(filters.limits ?? "[]") as Limit[];
  } catch {
    return [];
  }
}

/** What is different when a limit is taken: where a picture can show it, it is a filter of that. */
export function changesBy({ words, where }: Limit, filters: Filters): Changes {
  if (where.kind === "between" && where.field === "bpm" && where.low != null && where.high != null)
    return { bpm_from: where.low, bpm_to: where.high };
  if (where.kind === "key" && where.fits) return { key: where.key };
  if (where.kind === "tagged") return { tags: [...new Set([...tagsOf(filters), where.tag_id])].join(",") };
  return besides({ words, where }, filters);
}

/** Filters of pictures that hold one value each. */
const ONE_EACH = new Set(["bpm_from", "bpm_to", "key"]);

/** A limit as one beside the pictures. */
function besides({ words, where }: Limit, filters: Filters): Changes {
  const others = limitsOf(filters).filter((each) => each.words !== words);
  return { limits: JSON.stringify([...others, { words, where }]) };
}

/** The same for a limit that is made of several. */
export function changesByAll({ parts, words, where, order }: Offered, filters: Filters): Changes {
  const all: readonly Limit[] = parts.length || order.length || !where ? parts : [{ words, where }];
  return all.reduce<Changes>((changes, part) => {
    const so = Object.entries({ ...filters, ...changes }).filter(([, value]) => value !== null);
    const present = Object.fromEntries(so) as Filters;
    const next = changesBy(part, present);
    // A picture shows one of a kind: a second one in the same sentence is a limit beside it.
    const isSecond = Object.keys(next).some((name) => ONE_EACH.has(name) && name in changes);
    return { ...changes, ...(isSecond ? besides(part, present) : next) };
  }, {});
}

function filtersOf(params: URLSearchParams): Filters {
  const filters: Filters = {};
  for (const name of TEXTS) if (params.get(name)) filters[name] = params.get(name) ?? undefined;
  for (const name of NUMBERS) if (params.get(name)) filters[name] = Number(params.get(name));
  return filters;
}

/** The order that a text asks for. */
export const sortsOf = ({ order }: Offered): Sort[] =>
  order.map(({ sort, descending = false }) => ({ sort, descending }));

/** Sorts as one word: "bpm,-key" is by tempo, then by key from the highest. */
function sortsIn(text: string | null): Sort[] {
  if (!text) return NEWEST;
  return text.split(",").map((each) => ({
    sort: each.replace("-", "") as SortName,
    descending: each.startsWith("-"),
  }));
}

const written = (sorts: readonly Sort[]): string =>
  sorts.map(({ sort, descending }) => (descending ? `-${sort}` : sort)).join(",");

export function useShelfQuery() {
  const [params, setParams] = useQueryString();
  useEffect(() => sessionStorage.setItem(REMEMBERED, params.toString()), [params]);
  const filters = useMemo(() => filtersOf(params), [params]);
  const marked = useMarked(params);
  const order = params.get("sort") ?? localStorage.getItem(SORTS);
  const sorts = useMemo(() => sortsIn(order), [order]);
  const found = useMemo<Found>(() => {
    const [first = { sort: "added_at" as const, descending: true }, ...then] = sorts;
    return { where: conditionOf(filters), ...first, then };
  }, [filters, sorts]);
  const edit = (changes: QueryChanges) => setParams(changes, { replace: true });
  const acts = useFixed({
    /** Other filters and, with them, perhaps another order: two edits at once would undo each other. */
    change: (changes: Changes, sorts: readonly Sort[] = []) =>
      edit({ ...changes, ...(sorts.length && { sort: written(sorts) }) }),
    sortBy: (next: Sort[]) => {
      localStorage.setItem(SORTS, written(next));
      edit({ sort: written(next) });
    },
    clear: () => edit(Object.fromEntries([...TEXTS, ...NUMBERS].map((name) => [name, null]))),
  });
  return { ...{ filters, marked, found, sorts }, ...acts };
}

/** The filters without the words: they stay the same while words are typed. */
function useMarked(params: URLSearchParams): Filters {
  const others = new URLSearchParams(params);
  others.delete("q");
  const text = others.toString();
  return useMemo(() => filtersOf(new URLSearchParams(text)), [text]);
}
