/** What is asked of the server, by the keys under which it is kept. Which of it a change makes stale is told in freshness.ts. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { parseRaster } from "../drawing/raster";
import { parseWaveform } from "../drawing/waveform";
import { client, unwrap, type Condition, type Schema, type Stick } from "./client";

export type FindQuery = Schema["FindIn"];
export type SortName = NonNullable<FindQuery["sort"]>;
export const PAGE = 100;
export const EVERY: Condition = { kind: "all" };

/** What is looked for and in which order; a window is a stretch of it. */
export interface Found {
  where: Condition;
  sort: SortName;
  descending: boolean;
  crate_id?: number;
}

export const findBody = (found: Found, offset = 0): FindQuery => ({
  crate_id: null,
  ...found,
  offset,
  limit: PAGE,
});

export const windowQuery = (found: Found, page: number) =>
  queryOptions({
    queryKey: ["tracks", "window", found, page],
    queryFn: ({ signal }) =>
      unwrap(client.POST("/api/tracks/find", { body: findBody(found, page * PAGE), signal })),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });

export const idsQuery = (found: Found) =>
  queryOptions({
    queryKey: ["ids", found],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tracks/ids", { body: findBody(found), signal })),
    placeholderData: keepPreviousData,
  });

export const picturesQuery = (where: Condition) =>
  queryOptions({
    queryKey: ["pictures", where],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tracks/pictures", { body: { where }, signal })),
    placeholderData: keepPreviousData,
  });

export const rowsQuery = (ids: readonly number[]) =>
  queryOptions({
    queryKey: ["tracks", "rows", ids],
    queryFn: ({ signal }) => unwrap(client.POST("/api/tracks/rows", { body: { ids: [...ids] }, signal })),
    enabled: ids.length > 0,
    staleTime: 60_000,
  });

export const awayQuery = queryOptions({
  queryKey: ["tracks", "away"],
  queryFn: () => unwrap(client.GET("/api/away")),
});

export const analysisQuery = queryOptions({
  queryKey: ["value-rules", "analysis"],
  queryFn: () => unwrap(client.GET("/api/analysis")),
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

export const templatePreviewQuery = (template: Schema["TemplateOut"] | undefined, ids: number[]) =>
  queryOptions({
    queryKey: ["template preview", template, ids],
    queryFn: () =>
      unwrap(
        client.POST(templatesUse, {
          params: { path: { template_id: template?.id ?? 0 } },
          body: { ids },
        }),
      ),
    enabled: template !== undefined,
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
    queryKey: ["plan", stick.id, stick.crate_ids, stick.used_bytes, stick.last_run?.finished_at],
    queryFn: () =>
      unwrap(client.POST("/api/sticks/{stick_id}/plan", { params: { path: { stick_id: stick.id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
