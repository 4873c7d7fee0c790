import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { cratesQuery, orderQuery, type ShelfQuery } from "../../api/queries";
import { useRemembered } from "../../settings";

/** A list that was opened from elsewhere, such as what the Shelf showed; kept for this window. */
interface Kept {
  name: string;
  ids: number[];
}

export interface Queue {
  ids: number[];
  /** All tracks of the library, or null while that is not known. */
  total: number | null;
  lists: { value: string; name: string }[];
  list: string;
  choose: (list: string) => void;
}

const KEY = "vinyl.queue";
const KEPT = "kept";
const NEWEST: ShelfQuery = { sort: "added_at", descending: true };
const DOUBT: ShelfQuery = { sort: "doubt", descending: true };

export function rememberQueue(name: string, ids: readonly number[]): void {
  sessionStorage.setItem(KEY, JSON.stringify({ name, ids }));
}

function rememberedQueue(): Kept | null {
  try {
    return JSON.parse(sessionStorage.getItem(KEY) ?? "null") as Kept | null;
  } catch {
    return null;
  }
}

/** Which tracks next and previous go through. A list keeps its order while it is worked on. */
export function useQueue(): Queue {
  const [kept, setKept] = useState(rememberedQueue);
  const [chosen, setChosen] = useRemembered("queue-list", "newest");
  const crates = useQuery(cratesQuery).data ?? [];
  const list = kept ? KEPT : chosen;
  const crate = list.startsWith("crate ") ? Number(list.slice(6)) : null;
  const query: ShelfQuery =
    crate !== null ? { crate_id: crate, sort: "crate" } : list === "doubt" ? DOUBT : NEWEST;
  // The review list keeps its order while it is worked on: what was put right stays in its place until the room is entered anew.
  const key = list === "doubt" ? ["queue", query] : orderQuery(query).queryKey;
  const order = useQuery({
    ...orderQuery(query),
    queryKey: key as ReturnType<typeof orderQuery>["queryKey"],
    staleTime: Infinity,
    refetchOnMount: list === "doubt" ? "always" : true,
  }).data;
  const choose = (next: string) => {
    if (next === KEPT) return;
    sessionStorage.removeItem(KEY);
    setKept(null);
    setChosen(next);
  };
  const lists = [
    ...(kept ? [{ value: KEPT, name: kept.name }] : []),
    { value: "newest", name: "Newest first" },
    { value: "doubt", name: "To review: most doubt first" },
    ...crates.map((each) => ({ value: `crate ${each.id}`, name: each.name })),
  ];
  const known = lists.some((each) => each.value === list) ? list : "newest";
  return { ids: kept?.ids ?? order?.ids ?? [], total: order?.total ?? null, lists, list: known, choose };
}
