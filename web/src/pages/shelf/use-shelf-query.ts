import { useEffect, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { ShelfQuery, SortName } from "../../api/queries";

const REMEMBERED = "vinyl.shelf";
const TEXTS = ["q", "key", "genre", "month"] as const;
const NUMBERS = ["bpm_from", "bpm_to", "rating_from", "energy"] as const;
export type Filters = Pick<ShelfQuery, (typeof TEXTS)[number] | (typeof NUMBERS)[number]>;

/** Where the Shelf was left in this window. */
export function rememberedShelf(): string {
  const query = sessionStorage.getItem(REMEMBERED);
  return query ? `/shelf?${query}` : "/shelf";
}

/** What the Shelf shows stands in the address, so that it can be gone back to and remembered. */
export function useShelfQuery() {
  const [params, setParams] = useSearchParams();
  useEffect(() => sessionStorage.setItem(REMEMBERED, params.toString()), [params]);
  const query = useMemo(() => {
    const found: ShelfQuery = {
      sort: (params.get("sort") ?? "added_at") as SortName,
      descending: params.get("order") !== "up",
    };
    for (const name of TEXTS) if (params.get(name)) found[name] = params.get(name) ?? undefined;
    for (const name of NUMBERS) if (params.get(name)) found[name] = Number(params.get(name));
    return found;
  }, [params]);
  const change = (changes: Partial<Record<keyof Filters, string | number | null>>) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        for (const [name, value] of Object.entries(changes)) {
          if (value === null || value === "") next.delete(name);
          else next.set(name, String(value));
        }
        return next;
      },
      { replace: true },
    );
  const sortBy = (sort: SortName) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        const up =
          query.sort === sort
            ? query.descending
            : sort !== "added_at" && sort !== "rating" && sort !== "doubt";
        next.set("sort", sort);
        next.set("order", up ? "up" : "down");
        return next;
      },
      { replace: true },
    );
  const clear = () =>
    setParams(
      (old) => new URLSearchParams([...old].filter(([name]) => name === "sort" || name === "order")),
      { replace: true },
    );
  return { query, change, sortBy, clear };
}
