/** Which tracks next and previous go through. A list keeps its order while it is worked on. */
import { queryOptions, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, unwrap } from "../../api/client";
import { cratesQuery, EVERY, findBody, type Found } from "../../api/queries";
import { useRemembered } from "../../settings";
import { setQuery, setsQuery, type SetLine } from "../sets/use-sets";

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
const PLANNED = "set ";

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

/** What is planned for nights to come, the next first; without a day last. */
export function toCome(sets: readonly SetLine[], today: string): SetLine[] {
  const coming = sets.filter(({ on_day }) => !on_day || on_day >= today);
  return coming.sort((a, b) => (a.on_day || "9999").localeCompare(b.on_day || "9999") || b.id - a.id);
}

function usePlanned(list: string): { planned: SetLine[]; ids: number[] | undefined } {
  const planned = toCome(useQuery(setsQuery).data ?? [], localDay());
  const id = list.startsWith(PLANNED) ? Number(list.slice(PLANNED.length)) : 0;
  const set = useQuery({ ...setQuery(id), enabled: id > 0 }).data;
  if (!id || set?.id !== id) return { planned, ids: id ? NONE : undefined };
  const here = [...set.order, ...set.tray].filter(({ on_shelf }) => on_shelf);
  return { planned, ids: here.flatMap(({ track_id }) => track_id ?? []) };
}

/** Today where the computer stands, as days are written. */
function localDay(): string {
  const now = new Date();
  const two = (number: number) => String(number).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

export function useQueue(): Queue {
  const [kept, setKept] = useState(rememberedQueue);
  const [chosen, setChosen] = useRemembered("queue-list", "newest");
  const crates = useQuery(cratesQuery).data ?? [];
  const { planned, ids: ofSet } = usePlanned(kept ? "" : chosen);
  const lists = [
    ...(kept ? [{ value: KEPT, name: kept.name }] : []),
    { value: "newest", name: "Newest first" },
    { value: "doubt", name: "To review: most doubt first" },
    ...planned.map(({ id, name }) => ({ value: `${PLANNED}${id}`, name: `Planned next: ${name}` })),
    ...crates.map(({ id, name, is_folder }) => ({
      value: `${is_folder ? "folder" : "crate"} ${id}`,
      name: is_folder ? `All of ${name}` : name,
    })),
  ];
  const wanted = kept ? KEPT : chosen;
  const list = lists.some((each) => each.value === wanted) ? wanted : "newest";
  const planning = list.startsWith(PLANNED);
  const order = useQuery(queueQuery(list === KEPT || planning ? "newest" : list)).data;
  const choose = (next: string) => {
    if (next === KEPT) return;
    sessionStorage.removeItem(KEY);
    setKept(null);
    setChosen(next);
  };
  const listed = order?.ids ?? NONE;
  const once = useMemo(() => [...new Set(listed)], [listed]);
  const ids = kept?.ids ?? (planning ? ofSet : undefined) ?? once;
  const more =
    kept || planning || listed.length < LONGEST ? 0 : Math.max(0, (order?.total ?? 0) - listed.length);
  return { ids, more, total: order?.library ?? null, lists, list, choose };
}
