/** Tracks as a table needs them: how many, which stands where, and the rows in sight, of a list or of what was found. */
import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { Track } from "../api/client";
import { idsQuery, PAGE, rowsQuery, windowQuery, type Found } from "../api/queries";

export interface TrackSource {
  /** How many tracks there are; null while that is not known. */
  total: number | null;
  /** How many tracks the library has. */
  library: number | null;
  idAt: (place: number) => number | undefined;
  trackAt: (place: number) => Track | undefined;
  /** The place of a track, or -1 where it is not known. */
  placeOf: (id: number) => number;
  /** Have the rows of a stretch there. */
  show: (first: number, last: number) => void;
  /** The ids from one place to another, both included. */
  idsBetween: (from: number, to: number) => Promise<number[]>;
}

interface Range {
  first: number;
  last: number;
}

/** The pages that cover a stretch, with one more on both sides. */
function pagesOf({ first, last }: Range, total: number): number[] {
  const from = Math.max(0, Math.floor(first / PAGE) - 1);
  const end = Math.max(0, Math.ceil(total / PAGE) - 1);
  const to = Math.min(end, Math.floor(last / PAGE) + 1);
  return Array.from({ length: Math.max(to - from + 1, 1) }, (_, i) => from + i);
}

/** What meets a condition, a window at a time: any number of tracks, and only those in sight are fetched. */
export function useFound(found: Found): TrackSource {
  const queries = useQueryClient();
  const [range, setRange] = useState<Range>({ first: 0, last: 0 });
  const [known, setKnown] = useState(0);
  const pages = pagesOf(range, known);
  const { rows, places, total, library } = useQueries({
    queries: pages.map((page) => windowQuery(found, page)),
    combine: (results) => {
      const rows = new Map<number, Track>();
      const places = new Map<number, number>();
      results.forEach((result, i) =>
        result.data?.rows.forEach((track, at) => {
          const place = (pages[i] ?? 0) * PAGE + at;
          rows.set(place, track);
          places.set(track.id, place);
        }),
      );
      const any = results.find((result) => result.data)?.data;
      return { rows, places, total: any?.total ?? null, library: any?.library ?? null };
    },
  });
  if (total !== null && total !== known) setKnown(total);
  return {
    total,
    library,
    idAt: (place) => rows.get(place)?.id,
    trackAt: (place) => rows.get(place),
    placeOf: (id) => places.get(id) ?? -1,
    show: (first, last) => {
      if (first !== range.first || last !== range.last) setRange({ first, last });
    },
    idsBetween: async (from, to) => {
      const near = Array.from({ length: to - from + 1 }, (_, i) => rows.get(from + i)?.id);
      if (near.every((id) => id !== undefined)) return near;
      return (await queries.fetchQuery(idsQuery(found))).ids.slice(from, to + 1);
    },
  };
}

/** A short list whose ids are all known; rows are fetched as they come into sight. */
export function useListed(ids: readonly number[], total: number | null): TrackSource {
  const [range, setRange] = useState<Range>({ first: 0, last: 0 });
  const rows = useRows(ids, range.first, range.last);
  const places = useMemo(() => new Map(ids.map((id, place) => [id, place])), [ids]);
  return {
    total,
    library: null,
    idAt: (place) => ids[place],
    trackAt: (place) => rows.get(ids[place] ?? -1),
    placeOf: (id) => places.get(id) ?? -1,
    show: (first, last) => {
      if (first !== range.first || last !== range.last) setRange({ first, last });
    },
    idsBetween: (from, to) => Promise.resolve(ids.slice(from, to + 1)),
  };
}

/** The rows of a stretch of a list of ids, fetched page by page. */
export function useRows(ids: readonly number[], first: number, last: number): Map<number, Track> {
  const pages = useMemo(
    () => pagesOf({ first, last }, ids.length).map((page) => ids.slice(page * PAGE, (page + 1) * PAGE)),
    [ids, first, last],
  );
  return useQueries({
    queries: pages.map((page) => rowsQuery(page)),
    combine: (results) =>
      new Map(results.flatMap((result) => (result.data ?? []).map((track) => [track.id, track] as const))),
  });
}

/** Chosen tracks in the order of the table, where it is known; else as they were chosen. */
export function inOrder(source: TrackSource, ids: ReadonlySet<number>): number[] {
  const chosen = [...ids];
  if (chosen.some((id) => source.placeOf(id) < 0)) return chosen;
  return chosen.sort((a, b) => source.placeOf(a) - source.placeOf(b));
}
