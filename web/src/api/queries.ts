import { keepPreviousData, queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { useSay } from "../components/messages";
import { parseRaster } from "../drawing/raster";
import { parseWaveform } from "../drawing/waveform";
import { client, unwrap, type Schema, type Stick } from "./client";
import type { operations } from "./schema";

export type ShelfQuery = NonNullable<operations["track_order_api_tracks_order_get"]["parameters"]["query"]>;
export type SortName = NonNullable<ShelfQuery["sort"]>;
export const PAGE = 100;

export const orderQuery = (query: ShelfQuery) =>
  queryOptions({
    queryKey: ["order", query],
    queryFn: ({ signal }) => unwrap(client.GET("/api/tracks/order", { params: { query }, signal })),
    placeholderData: keepPreviousData,
  });

export const indexQuery = (query: ShelfQuery) =>
  queryOptions({
    queryKey: ["index", query],
    queryFn: ({ signal }) => unwrap(client.GET("/api/tracks/index", { params: { query }, signal })),
    placeholderData: keepPreviousData,
  });

export const rowsQuery = (ids: readonly number[]) =>
  queryOptions({
    queryKey: ["rows", ids],
    queryFn: ({ signal }) =>
      unwrap(client.GET("/api/tracks", { params: { query: { ids: ids.join(",") } }, signal })),
    enabled: ids.length > 0,
    staleTime: 60_000,
  });

export const workbenchQuery = (id: number) =>
  queryOptions({
    queryKey: ["workbench", id],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}", { params: { path: { track_id: id } } })),
  });

export const alikeQuery = (id: number) =>
  queryOptions({
    queryKey: ["alike", id],
    queryFn: () => unwrap(client.GET("/api/tracks/{track_id}/alike", { params: { path: { track_id: id } } })),
    retry: false,
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

export const routeHeardQuery = (id: number, routeId: number, jumps: unknown) =>
  queryOptions({
    queryKey: ["route", id, routeId, jumps],
    queryFn: () =>
      unwrap(
        client.GET("/api/tracks/{track_id}/routes/{route_id}/heard", {
          params: { path: { track_id: id, route_id: routeId } },
        }),
      ),
    staleTime: Infinity,
    retry: false,
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

export const cratesQuery = queryOptions({
  queryKey: ["crates"],
  queryFn: () => unwrap(client.GET("/api/crates")),
});
export const undoQuery = queryOptions({ queryKey: ["undo"], queryFn: () => unwrap(client.GET("/api/undo")) });
export const workQuery = queryOptions({ queryKey: ["work"], queryFn: () => unwrap(client.GET("/api/work")) });
export const importsQuery = queryOptions({
  queryKey: ["imports"],
  queryFn: () => unwrap(client.GET("/api/imports")),
});
export const offeredQuery = queryOptions({
  queryKey: ["imports", "offered"],
  queryFn: () => unwrap(client.GET("/api/offered")),
});
export const sticksQuery = queryOptions({
  queryKey: ["sticks"],
  queryFn: () => unwrap(client.GET("/api/sticks")),
});

export const planQuery = (stick: Stick) =>
  queryOptions({
    queryKey: ["plan", stick.id, stick.crate_ids, stick.last_run?.finished_at],
    queryFn: () =>
      unwrap(client.GET("/api/sticks/{stick_id}/plan", { params: { path: { stick_id: stick.id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** A change on the server: on success everything it may touch is fetched again, on refusal its words are shown. */
export function useChange<In, Out>(
  change: (input: In) => Promise<Out>,
  touches: readonly string[],
  said?: (out: Out, input: In) => string | null,
) {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: change,
    onSuccess: (out, input) => {
      const text = said?.(out, input);
      if (text) say(text);
    },
    onError: (error) => say(error.message, "error"),
    onSettled: () =>
      Promise.all([...touches, "undo"].map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
}

const TRACK_LISTS = [
  "order",
  "rows",
  "workbench",
  "crates",
  "sticks",
  "plan",
  "index",
  "templates",
  "cue-colours",
  "finish-rules",
];

export function useUndo() {
  return useChange(() => unwrap(client.POST("/api/undo")), TRACK_LISTS);
}

export function useRedo() {
  return useChange(() => unwrap(client.POST("/api/redo")), TRACK_LISTS);
}

export function useRate() {
  const give = (body: Schema["RatingIn"]) => unwrap(client.PUT("/api/tracks/rating", { body }));
  return useChange(give, ["rows", "workbench", "order"], ({ locked }) =>
    locked ? `${counted(locked, "track")} left as they were: their tags are locked.` : null,
  );
}

export function useLock() {
  const set = (body: Schema["LocksIn"]) => unwrap(client.PUT("/api/tracks/locks", { body }));
  return useChange(
    set,
    ["rows", "workbench"],
    (_, { part, locked }) =>
      `The ${part} ${part === "cues" || part === "tags" ? "are" : "is"} ${locked ? "locked" : "open"} now.`,
  );
}

export function usePutIntoCrate() {
  const change = ({ crate, ids, at }: { crate: { id: number; name: string }; ids: number[]; at?: number }) =>
    unwrap(
      client.POST("/api/crates/{crate_id}/tracks", {
        params: { path: { crate_id: crate.id } },
        body: { ids, at: at ?? null },
      }),
    );
  return useChange(change, ["crates", "order", "workbench"], (out, { crate }) => {
    const had = out.already_in ? `; ${out.already_in} already in it` : "";
    return `${counted(out.added, "track")} put into “${crate.name}”${had}.`;
  });
}

export function useMakeCrate() {
  return useChange((name: string) => unwrap(client.POST("/api/crates", { body: { name } })), ["crates"]);
}

export function counted(number: number, what: string): string {
  return `${number.toLocaleString("en")} ${what}${number === 1 ? "" : "s"}`;
}
