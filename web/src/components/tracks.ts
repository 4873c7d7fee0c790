/** Tracks as a table needs them: how many, which stands where, and the rows in sight, of a list or of what was found. */
import { useQueries, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import type { Schema, Track } from "../api/client";
import { idsQuery, MOST_IDS, PAGE, rowsQuery, windowQuery, type Found } from "../api/queries";

import { useColumnVenue } from "./column-venue";

export interface TrackSource {
  /** How many tracks there are; null while that is not known. */
  total: number | null;
  /** How many tracks the library has. */
  library: number | null;
  idAt: (place: number) => number | undefined;
  trackAt: (place: number) => Track | undefined;
  /** The track that stands where such an id says: a list by hand tells further places of a track by ids of their own. */
  trackIdOf: (id: number) => number;
  /** The place of a track, or -1 where it is not known. */
  placeOf: (id: number) => number;
  /** Have the rows of a stretch there. */
  show: (first: number, last: number) => void;
  /** What was looked for; null for a list whose ids are all known. */
  found: Found | null;
  /** What words with errors were taken for. */
  readAs: string | null;
  /** The rows are of what is looked for now, not of what was looked for before. */
  settled: boolean;
  /** Why nothing of it could be read. */
  failure: string | null;
  /** The ids from one place to another, both included, as many as are asked for at once. */
  idsBetween: (from: number, to: number) => Promise<number[]>;
}

/** Pages in sight, the first and the last of them. */
interface Pages {
  first: number;
  last: number;
}

const NO_PAGES: Pages = { first: 0, last: 0 };

/** The pages that cover a stretch, with one more on both sides: they change now and then, not row by row. */
function covering(first: number, last: number): Pages {
  return { first: Math.max(0, Math.floor(first / PAGE) - 1), last: Math.floor(last / PAGE) + 1 };
}

function numbers({ first, last }: Pages, total: number): number[] {
  const end = Math.max(0, Math.ceil(total / PAGE) - 1);
  return Array.from({ length: Math.max(Math.min(last, end) - first + 1, 1) }, (_, i) => first + i);
}

const same = (a: Pages, b: Pages) => a.first === b.first && a.last === b.last;

type Results = {
  data?: Schema["WindowOut"] | undefined;
  isPlaceholderData: boolean;
  error: Error | null;
}[];

/** The rows of pages by their places, and the places by their ids. */
function put(results: Results, pages: readonly number[]) {
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
  const settled = any !== undefined && !results.some((result) => result.isPlaceholderData);
  return {
    ...{ rows, places, total: any?.total ?? null, library: any?.library ?? null },
    readAs: any?.read_as ?? null,
    settled,
    failure: any ? null : (results.find((result) => result.error)?.error?.message ?? null),
  };
}

/** What meets a condition, a window at a time: any number of tracks, and only those in sight are fetched. */
export function useFound(found: Found): TrackSource {
  const queries = useQueryClient();
  useColumnVenue();
  const [seen, setSeen] = useState({ found, pages: NO_PAGES });
  const [known, setKnown] = useState(0);
  // What is found anew is shown from its top: only that is fetched.
  const inSight = seen.found === found ? seen.pages : NO_PAGES;
  const pages = useMemo(() => numbers(inSight, known), [inSight, known]);
  const combine = useCallback((results: Results) => put(results, pages), [pages]);
  // The top of what is found anew comes alone: two askings at once would each be answered later.
  const begun = pages[0] !== 0 || queries.getQueryData(windowQuery(found, 0).queryKey) !== undefined;
  const { rows, places, total, library, readAs, settled, failure } = useQueries({
    queries: pages.map((page, i) => ({ ...windowQuery(found, page), enabled: i === 0 || begun })),
    combine,
  });
  if (total !== null && total !== known) setKnown(total);
  return {
    ...{ total, library, found, readAs, settled, failure },
    idAt: (place) => rows.get(place)?.id,
    trackIdOf: (id) => id,
    trackAt: (place) => rows.get(place),
    placeOf: (id) => places.get(id) ?? -1,
    show: (first, last) => {
      const next = covering(first, last);
      if (!same(next, inSight)) setSeen({ found, pages: next });
    },
    idsBetween: async (from, to) => {
      const count = Math.min(to - from + 1, MOST_IDS);
      const near = Array.from({ length: Math.min(count, PAGE) }, (_, i) => rows.get(from + i)?.id);
      if (near.length === count && near.every((id) => id !== undefined)) return near;
      return (await queries.fetchQuery(idsQuery(found, from, count))).ids;
    },
  };
}

/** Which tracks stand at further places of a list, by the ids of those places. */
export type Repeated = Readonly<Record<number, number>>;

const NONE_REPEATED: Repeated = {};

/** A short list whose ids are all known; rows are fetched as they come into sight. */
export function useListed(
  ids: readonly number[],
  total: number | null,
  repeated: Repeated = NONE_REPEATED,
): TrackSource {
  const [inSight, setInSight] = useState(NO_PAGES);
  const trackIds = useMemo(() => ids.map((id) => repeated[id] ?? id), [ids, repeated]);
  const rows = usePages(trackIds, inSight);
  const places = useMemo(() => new Map(ids.map((id, place) => [id, place])), [ids]);
  return {
    ...{ total, library: null, found: null, readAs: null, settled: true, failure: null },
    idAt: (place) => ids[place],
    trackIdOf: (id) => repeated[id] ?? id,
    trackAt: (place) => rows.get(trackIds[place] ?? -1),
    placeOf: (id) => places.get(id) ?? -1,
    show: (first, last) => {
      const next = covering(first, last);
      if (!same(next, inSight)) setInSight(next);
    },
    idsBetween: (from, to) => Promise.resolve(ids.slice(from, to + 1)),
  };
}

/** The rows of a stretch of a list of ids, fetched page by page. */
export function useRows(ids: readonly number[], first: number, last: number): Map<number, Track> {
  return usePages(ids, covering(first, last));
}

function usePages(ids: readonly number[], { first, last }: Pages): Map<number, Track> {
  useColumnVenue();
  const pages = useMemo(
    () => numbers({ first, last }, ids.length).map((page) => ids.slice(page * PAGE, (page + 1) * PAGE)),
    [ids, first, last],
  );
  return useQueries({ queries: pages.map((page) => rowsQuery(page)), combine: byId });
}

function byId(results: { data?: Track[] | undefined }[]): Map<number, Track> {
  return new Map(results.flatMap((result) => (result.data ?? []).map((track) => [track.id, track] as const)));
}

/** Chosen tracks in the order of the table, where it is known; else as they were chosen. */
export function inOrder(source: TrackSource, ids: ReadonlySet<number>): number[] {
  const chosen = [...ids];
  if (chosen.some((id) => source.placeOf(id) < 0)) return chosen;
  return chosen.sort((a, b) => source.placeOf(a) - source.placeOf(b));
}
