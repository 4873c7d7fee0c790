/** Which tracks next and previous go through. A list keeps its order while it is worked on. */
import { queryOptions, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, unwrap } from "../../api/client";
import { cratesQuery, EVERY, findBody, type Found } from "../../api/queries";
import { useRemembered } from "../../settings";

/** A list that was opened from elsewhere, such as what the Shelf showed; kept for this window. */
interface Kept {
  name: string;
  ids: number[];
}

export interface Queue {
  ids: number[];
  /** How many more the list has than are gone through. */
  more: number;
  /** All tracks of the library, or null while that is not known. */
  total: number | null;
  lists: { value: string; name: string }[];
  list: string;
  choose: (list: string) => void;
}

const NONE: number[] = [];
const KEY = "vinyl.queue";
const KEPT = "kept";

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

/** So many tracks are gone through at the most. */
export const LONGEST = 5_000;
const NEWEST: Found = { where: EVERY, sort: "added_at", descending: true };
const DOUBT: Found = { where: EVERY, sort: "doubt", descending: true };

/** The order of a list is asked once, and again only when tracks came to it or left it. */
function queueQuery(list: string) {
  const [kind, number] = list.split(" ");
  const crate_id = number === undefined ? null : Number(number);
  const listed: Found = list === "doubt" ? DOUBT : NEWEST;
  const found: Found =
    crate_id === null
      ? listed
      : kind === "folder"
        ? { where: { kind: "list", list_id: crate_id }, sort: "title", descending: false }
        : { where: EVERY, sort: "crate", descending: false, crate_id };
  return queryOptions({
    queryKey: ["queue", crate_id === null ? list : "crate", found],
    queryFn: () => unwrap(client.POST("/api/tracks/ids", { body: { ...findBody(found), limit: LONGEST } })),
    staleTime: Infinity,
    // What was put right stays in its place until the room is entered anew.
    refetchOnMount: list === "doubt" ? "always" : true,
  });
}

export function useQueue(): Queue {
  const [kept, setKept] = useState(rememberedQueue);
  const [chosen, setChosen] = useRemembered("queue-list", "newest");
  const crates = useQuery(cratesQuery).data ?? [];
  const lists = [
    ...(kept ? [{ value: KEPT, name: kept.name }] : []),
    { value: "newest", name: "Newest first" },
    { value: "doubt", name: "To review: most doubt first" },
    ...crates.map(({ id, name, is_folder }) => ({
      value: `${is_folder ? "folder" : "crate"} ${id}`,
      name: is_folder ? `All of ${name}` : name,
    })),
  ];
  const wanted = kept ? KEPT : chosen;
  const list = lists.some((each) => each.value === wanted) ? wanted : "newest";
  const order = useQuery(queueQuery(list === KEPT ? "newest" : list)).data;
  const choose = (next: string) => {
    if (next === KEPT) return;
    sessionStorage.removeItem(KEY);
    setKept(null);
    setChosen(next);
  };
  const listed = order?.ids ?? NONE;
  const once = useMemo(() => [...new Set(listed)], [listed]);
  const ids = kept?.ids ?? once;
  const more = kept || listed.length < LONGEST ? 0 : Math.max(0, (order?.total ?? 0) - listed.length);
  return { ids, more, total: order?.library ?? null, lists, list, choose };
}
