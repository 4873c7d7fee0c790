import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Track } from "../api/client";
import { PAGE, rowsQuery } from "../api/queries";

/** The rows of a stretch of an ordered list, fetched page by page, one page ahead on both sides. */
export function useRows(ids: readonly number[], first: number, last: number): Map<number, Track> {
  const pages = useMemo(() => {
    const found: number[][] = [];
    const from = Math.max(0, Math.floor(first / PAGE) - 1);
    const to = Math.min(Math.floor(Math.max(ids.length - 1, 0) / PAGE), Math.floor(last / PAGE) + 1);
    for (let page = from; page <= to; page++) found.push(ids.slice(page * PAGE, (page + 1) * PAGE));
    return found;
  }, [ids, first, last]);
  return useQueries({
    queries: pages.map((page) => rowsQuery(page)),
    combine: (results) =>
      new Map(results.flatMap((result) => (result.data ?? []).map((track) => [track.id, track] as const))),
  });
}
