/** What is asked of the server, by the keys under which it is kept. Which of it a change makes stale is told in freshness.ts. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { parseRaster } from "../drawing/raster";
import { columnVenue } from "../components/column-venue";
import { parseWaveform } from "../drawing/waveform";
import {
  client,
  unwrap,
  type Condition,
  type EditName,
  type Offered,
  type Picked,
  type Schema,
  type Stick,
} from "./client";

export type FindQuery = Schema["FindIn"];
export type SortName = NonNullable<FindQuery["sort"]>;
export const PAGE = 60;
export const EVERY: Condition = { kind: "all", parts: [] };

/** What is looked for and in which order; a window is a stretch of it. */
export interface Found {
  where: Condition;
  sort: SortName;
  descending: boolean;
  /** What ties go by. */
  then?: Sort[];
  crate_id?: number;
}

export interface Sort {
  sort: SortName;
  descending: boolean;
}

export const findBody = (found: Found, offset = 0): FindQuery => ({
  crate_id: null,
  venue_id: columnVenue(),
  ...found,
  offset,
  limit: PAGE,
});

export const windowQuery = (found: Found, page: number) =>
  queryOptions({
    queryKey: ["tracks", "window", found, page, columnVenue()],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/find", { body: findBody(found, page * PAGE), signal })),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    // What was scrolled past need not be kept for long.
    gcTime: 20_000,
  });

/** As many ids as are asked for at once. */
export const MOST_IDS = 20_000;

export const idsQuery = (found: Found, offset = 0, limit = MOST_IDS) =>
  queryOptions({
    queryKey: ["ids", found, offset, limit, columnVenue()],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/ids", { body: { ...findBody(found), offset, limit }, signal })),
    placeholderData: keepPreviousData,
  });

export type TextName = NonNullable<Schema["TextEditIn"]["fields"]>[number];
export type PictureName = NonNullable<Schema["PicturesIn"]["names"]>[number];

export const topFoldersQuery = queryOptions({
  queryKey: ["disk-folders"],
  queryFn: () => unwrap(client.GET("/api/disk-folders")),
});

/** What is in a folder of the disk; others than Vinyl may change that. */
export const diskFolderQuery = (path: string) =>
  queryOptions({
    queryKey: ["disk-folders", path],
    queryFn: ({ signal }) =>
      unwrap(client.GET("/api/disk-folders/in", { params: { query: { path } }, signal })),
    staleTime: 5_000,
  });

export const picturesQuery = (where: Condition, names: PictureName[], tags: boolean) =>
  queryOptions({
    queryKey: ["pictures", where, names, tags],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/pictures", { body: { where, names, tags }, signal })),
    placeholderData: keepPreviousData,
  });

export const familiesQuery = queryOptions({
  queryKey: ["tags"],
  queryFn: () => unwrap(client.GET("/api/tag-families")),
  staleTime: 60_000,
});

export const offersQuery = (family: number) =>
  queryOptions({
    queryKey: ["tags", "offers", family] as const,
    queryFn: () =>
      unwrap(client.GET("/api/tag-families/{family_id}/offers", { params: { path: { family_id: family } } })),
  });

/** How many of the chosen tracks have each tag. */
export const amongQuery = ({ chosen, count }: Picked) =>
  queryOptions({
    queryKey: ["among", chosen],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tracks/tags/among", { body: chosen, signal })),
    enabled: count > 0,
    placeholderData: keepPreviousData,
  });

export const commonQuery = ({ chosen }: Picked, fields: EditName[]) =>
  queryOptions({
    queryKey: ["common", chosen, fields],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/common", { body: { ...chosen, fields }, signal })),
  });

export const completionsQuery = (field: TextName, begun: string) =>
  queryOptions({
    queryKey: ["tracks", "completions", field, begun],
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/completions/{field}", { params: { path: { field }, query: { begun } }, signal }),
      ),
    placeholderData: keepPreviousData,
  });

/** A text as nothing but words, whatever else it may mean. */
export const asWords = (text: string): Offered => ({
  words: `“${text}” in its text`,
  where: { kind: "words", text },
  rest: "",
  parts: [],
  order: [],
  sure: false,
});

export const limitsQuery = (text: string) =>
  queryOptions({
    queryKey: ["limits", text],
    // Never cancelled: Enter may be waiting for it while somebody types on.
    queryFn: () => unwrap(client.POST("/api/limits", { body: { text } })),
    placeholderData: keepPreviousData,
    enabled: text.trim().length > 0,
  });

export const fitsQuery = (id: number, wanted: Schema["FitIn"]) =>
  queryOptions({
    queryKey: ["fits", id, wanted],
    queryFn: ({ signal }) =>
      unwrap(
        client.POST("/api/tracks/{track_id}/fits", {
          params: { path: { track_id: id } },
          body: wanted,
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const trackColoursQuery = queryOptions({
  queryKey: ["track-colours"],
  queryFn: () => unwrap(client.GET("/api/track-colours")),
  staleTime: 60_000,
});

export const backingsQuery = queryOptions({
  queryKey: ["backings"],
  queryFn: () => unwrap(client.GET("/api/backings")),
});

export const backingOfQuery = (id: number) =>
  queryOptions({
    queryKey: ["backings", "likely", id],
    queryFn: () =>
      unwrap(client.GET("/api/tracks/{track_id}/backing", { params: { path: { track_id: id } } })),
    retry: false,
  });

export const versionsQuery = (track_id: number) =>
  queryOptions({
    queryKey: ["versions", track_id],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}/versions", { params: { path: { track_id } } })),
  });

export const rowsQuery = (ids: readonly number[]) =>
  queryOptions({
    queryKey: ["tracks", "rows", ids, columnVenue()],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/rows", { body: { ids: [...ids], venue_id: columnVenue() }, signal })),
    enabled: ids.length > 0,
    staleTime: 60_000,
  });

export const awayQuery = queryOptions({
  queryKey: ["tracks", "away"],
  queryFn: () => unwrap(client.GET("/api/away")),
});

export const offShelfQuery = queryOptions({
  queryKey: ["tracks", "off the Shelf"],
  queryFn: () => unwrap(client.GET("/api/off-shelf")),
});

export const whatGoesQuery = ({ chosen }: Picked) =>
  queryOptions({
    queryKey: ["tracks", "what goes", chosen],
    queryFn: ({ signal }) => unwrap(client.POST("/api/off-shelf/look", { body: chosen, signal })),
  });

export const analysisQuery = queryOptions({
  queryKey: ["value-rules", "analysis"],
  queryFn: () => unwrap(client.GET("/api/analysis")),
});

/** The tracks of a list by hand in its own order. */
export const placesQuery = (crateId: number) =>
  queryOptions({
    queryKey: ["crates", crateId, "places"],
    queryFn: () =>
      unwrap(client.GET("/api/crates/{crate_id}/places", { params: { path: { crate_id: crateId } } })),
  });

export const wantedQuery = (crateId: number) =>
  queryOptions({
    queryKey: ["crates", crateId, "wanted"],
    queryFn: () =>
      unwrap(client.GET("/api/crates/{crate_id}/wanted", { params: { path: { crate_id: crateId } } })),
  });

export const workbenchQuery = (id: number) =>
  queryOptions({
    queryKey: ["tracks", "one", id],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}", { params: { path: { track_id: id } } })),
  });

export const valuesQuery = (id: number) =>
  queryOptions({
    queryKey: ["tracks", "values", id],
    queryFn: () =>
      unwrap(client.GET("/api/tracks/{track_id}/values", { params: { path: { track_id: id } } })),
  });

export const alikeQuery = (id: number) =>
  queryOptions({
    queryKey: ["tracks", "alike", id],
    queryFn: () =>
      unwrap(client.POST("/api/tracks/{track_id}/alike", { params: { path: { track_id: id } } })),
    retry: false,
    staleTime: 60_000,
  });

export const driftQuery = (id: number, grid: unknown) =>
  queryOptions({
    queryKey: ["drift", id, grid],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}/drift", { params: { path: { track_id: id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const rasterQuery = (id: number, grid: unknown) =>
  queryOptions({
    queryKey: ["raster", id, grid],
    queryFn: async () => {
      const response = await fetch(`/api/tracks/${id}/raster`);
      return response.ok ? parseRaster(await response.arrayBuffer()) : null;
    },
    placeholderData: keepPreviousData,
    gcTime: 60_000,
    retry: false,
  });

export const waveformQuery = (id: number) =>
  queryOptions({
    queryKey: ["waveform", id],
    queryFn: async () => {
      const response = await fetch(`/api/tracks/${id}/waveform`);
      return response.ok ? parseWaveform(await response.arrayBuffer()) : null;
    },
    staleTime: Infinity,
    gcTime: 60_000,
  });

const templatesUse = "/api/templates/{template_id}/preview" as const;

export const templatePreviewQuery = (template: Schema["TemplateOut"] | undefined, { chosen }: Picked) =>
  queryOptions({
    queryKey: ["template preview", template, chosen],
    queryFn: () =>
      unwrap(
        client.POST(templatesUse, {
          params: { path: { template_id: template?.id ?? 0 } },
          body: chosen,
        }),
      ),
    enabled: template !== undefined,
  });

export const sharedLinesQuery = (crate_ids: readonly number[]) =>
  queryOptions({
    queryKey: ["rules", "shared", crate_ids],
    queryFn: () => unwrap(client.POST("/api/rules/shared", { body: { crate_ids: [...crate_ids] } })),
    enabled: crate_ids.length > 0,
  });

/** A condition in words. */
export const wordsOfQuery = (where: Condition | null) =>
  queryOptions({
    queryKey: ["rules", "words", where],
    queryFn: async () => {
      const whole = { kind: "all" as const, parts: where ? [where] : [] };
      const { lines } = await unwrap(client.POST("/api/rules/lines", { body: { where: whole } }));
      return lines[0]?.words ?? "";
    },
    enabled: where !== null,
  });

export const cueKindsQuery = ({ chosen }: Picked) =>
  queryOptions({
    queryKey: ["among", "cues", chosen],
    queryFn: () => unwrap(client.POST("/api/tracks/cues/count", { body: chosen })),
  });

export const lockCountsQuery = ({ chosen }: Picked) =>
  queryOptions({
    queryKey: ["among", "locks", chosen],
    queryFn: () => unwrap(client.POST("/api/tracks/locks/count", { body: chosen })),
  });

export const templatesQuery = queryOptions({
  queryKey: ["templates"],
  queryFn: () => unwrap(client.GET("/api/templates")),
});
export const labelsQuery = queryOptions({
  queryKey: ["cue-labels"],
  queryFn: () => unwrap(client.GET("/api/cue-labels")),
});
export const coloursQuery = queryOptions({
  queryKey: ["cue-colours"],
  queryFn: () => unwrap(client.GET("/api/cue-colours")),
  staleTime: 60_000,
});
export const finishQuery = queryOptions({
  queryKey: ["finish-rules"],
  queryFn: () => unwrap(client.GET("/api/finish-rules")),
});
export const valueRulesQuery = queryOptions({
  queryKey: ["value-rules"],
  queryFn: () => unwrap(client.GET("/api/value-rules")),
});
export const cratesQuery = queryOptions({
  queryKey: ["crates"],
  queryFn: () => unwrap(client.GET("/api/crates")),
});

/** The crates that tracks can be put into. */
export const byHandQuery = queryOptions({
  ...cratesQuery,
  select: (crates) => crates.filter((crate) => !crate.fills_itself && !crate.is_folder),
});

/** How many tracks are in the crates that fill themselves, by their ids. */
export const ruleCountsQuery = queryOptions({
  queryKey: ["rules", "counts"],
  queryFn: () => unwrap(client.GET("/api/rules/counts")),
  select: (counts) => new Map(counts.map((count) => [count.id, count])),
});

export const ruleQuery = (crate_id: number) =>
  queryOptions({
    queryKey: ["crates", crate_id, "rule"],
    queryFn: () => unwrap(client.GET("/api/crates/{crate_id}/rule", { params: { path: { crate_id } } })),
  });

/** What each line of a rule says and holds. */
export const linesQuery = (where: Condition) =>
  queryOptions({
    queryKey: ["rules", "lines", where],
    queryFn: ({ signal }) => unwrap(client.POST("/api/rules/lines", { body: { where }, signal })),
    placeholderData: keepPreviousData,
  });

export const whyQuery = (where: Condition, track_id: number) =>
  queryOptions({
    queryKey: ["rules", "why", where, track_id],
    queryFn: ({ signal }) => unwrap(client.POST("/api/rules/why", { body: { where, track_id }, signal })),
    placeholderData: keepPreviousData,
  });
export const venuesQuery = queryOptions({
  queryKey: ["gigs", "venues"],
  queryFn: () => unwrap(client.GET("/api/venues")),
});

/** All nights, the newest first; or those thrown away as practice. */
export const gigsQuery = (practice = false) =>
  queryOptions({
    queryKey: ["gigs", "all", practice],
    queryFn: () => unwrap(client.GET("/api/gigs", { params: { query: { practice } } })),
  });

export const nightQuery = (gig_id: number) =>
  queryOptions({
    queryKey: ["gigs", "night", gig_id],
    queryFn: () => unwrap(client.GET("/api/gigs/{gig_id}", { params: { path: { gig_id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const planBesideQuery = (gig_id: number, set_id: number) =>
  queryOptions({
    queryKey: ["gigs", "plan", gig_id, set_id],
    queryFn: () =>
      unwrap(client.GET("/api/gigs/{gig_id}/plan/{set_id}", { params: { path: { gig_id, set_id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const besideQuery = (first_id: number, second_id: number) =>
  queryOptions({
    queryKey: ["gigs", "beside", first_id, second_id],
    queryFn: () =>
      unwrap(
        client.GET("/api/gigs/{first_id}/beside/{second_id}", { params: { path: { first_id, second_id } } }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export type PlayedOrder = "last" | "times" | "title" | "well";
export const PLAYED_PAGE = 100;

export const playedQuery = (venue_id: number | null, order: PlayedOrder, page: number) =>
  queryOptions({
    queryKey: ["gigs", "played", venue_id, order, page],
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/played", {
          params: { query: { venue_id, order, offset: page * PLAYED_PAGE, limit: PLAYED_PAGE } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const pairsQuery = (venue_id: number) =>
  queryOptions({
    queryKey: ["gigs", "pairs", venue_id],
    queryFn: () => unwrap(client.GET("/api/venues/{venue_id}/pairs", { params: { path: { venue_id } } })),
  });

export const figuresQuery = (year: number) =>
  queryOptions({
    queryKey: ["gigs", "figures", year],
    queryFn: () => unwrap(client.GET("/api/figures/{year}", { params: { path: { year } } })),
    placeholderData: keepPreviousData,
  });

export const nextQuery = (gig_id: number, body: Schema["NextIn"]) =>
  queryOptions({
    queryKey: ["gigs", "next", gig_id, body],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/gigs/{gig_id}/next/look", { params: { path: { gig_id } }, body, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const toldQuery = (telling: Schema["TellingIn"], enabled: boolean) =>
  queryOptions({
    queryKey: ["gigs", "told", telling],
    queryFn: ({ signal }) => unwrap(client.POST("/api/nights/look", { body: telling, signal })),
    placeholderData: keepPreviousData,
    enabled,
    retry: false,
  });

/** Where and when a track was played. */
export const trackPlaysQuery = (track_id: number) =>
  queryOptions({
    queryKey: ["gigs", "track", track_id],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}/plays", { params: { path: { track_id } } })),
  });

export const undoQuery = queryOptions({
  queryKey: ["undo"],
  queryFn: () => unwrap(client.GET("/api/undo")),
});
export const jobsQuery = queryOptions({
  queryKey: ["jobs"],
  queryFn: () => unwrap(client.GET("/api/jobs")),
});
export const failuresQuery = (job: number) =>
  queryOptions({
    queryKey: ["failures", job],
    queryFn: () => unwrap(client.GET("/api/jobs/{job_id}/failures", { params: { path: { job_id: job } } })),
  });
export const importsQuery = queryOptions({
  queryKey: ["imports"],
  queryFn: () => unwrap(client.GET("/api/imports")),
});
export const watchedQuery = queryOptions({
  queryKey: ["watched"],
  queryFn: () => unwrap(client.GET("/api/watched")),
});
export const offeredQuery = queryOptions({
  queryKey: ["offered"],
  queryFn: () => unwrap(client.GET("/api/offered")),
});
export const sticksQuery = queryOptions({
  queryKey: ["sticks"],
  queryFn: () => unwrap(client.GET("/api/sticks")),
});

export const planQuery = (stick: Stick) =>
  queryOptions({
    queryKey: ["plan", stick.id, stick],
    queryFn: () =>
      unwrap(client.POST("/api/sticks/{stick_id}/plan", { params: { path: { stick_id: stick.id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** The dividers of a list, as it is sorted for looking. */
export const sectionsQuery = (crate_id: number, sorts: readonly Sort[]) =>
  queryOptions({
    queryKey: ["sections", crate_id, sorts],
    queryFn: () =>
      unwrap(
        client.POST("/api/crates/{crate_id}/sections", {
          params: { path: { crate_id } },
          body: { sorts: [...sorts] },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const readyMadeQuery = queryOptions({
  queryKey: ["ready-made"],
  queryFn: () => unwrap(client.GET("/api/lists/ready-made")),
  staleTime: Infinity,
});

export const deletedQuery = queryOptions({
  queryKey: ["crates", "deleted"],
  queryFn: () => unwrap(client.GET("/api/lists/deleted")),
});
