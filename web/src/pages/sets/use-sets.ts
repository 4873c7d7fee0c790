/** What is asked and changed in the room of sets. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";

export type SetLine = Schema["SetLine"];
export type DjSet = Schema["SetOut"];
export type Entry = Schema["SetEntryOut"];
export type ArcPoint = Schema["ArcPoint"];
export type Joint = Schema["SetJointOut"];
export type Suggestion = Schema["SuggestionOut"];
export type ChainStep = Schema["ChainStepOut"];
export type Facts = Schema["SetFactsIn"];
export type OrderWeights = Schema["OrderWeights"];
export type By = Schema["SetOrderIn"]["by"];

export const FILTERS = ["key fits", "tempo in reach", "rises", "sounds alike", "not here lately"] as const;
export type Filter = (typeof FILTERS)[number];

export const setsQuery = queryOptions({
  queryKey: ["sets", "list"],
  queryFn: () => unwrap(client.GET("/api/sets")),
});

export const setQuery = (set_id: number) =>
  queryOptions({
    queryKey: ["sets", "one", set_id],
    queryFn: () => unwrap(client.GET("/api/sets/{set_id}", { params: { path: { set_id } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What a part of the suggestions says, in times of the usual. */
export const PARTS = {
  key: "keys fit",
  tempo: "tempo near",
  energy: "energy near",
  sound: "sounds alike",
  tags: "the same tags",
  nights: "nights before",
} as const;
export type PartWeights = Record<keyof typeof PARTS, number>;
export const USUAL_PARTS: PartWeights = { key: 1, tempo: 1, energy: 1, sound: 1, tags: 1, nights: 1 };

export const suggestionsQuery = (
  set_id: number,
  after: number,
  wanted: Filter[],
  weeks: number,
  weights: PartWeights,
) =>
  queryOptions({
    queryKey: ["sets", "suggestions", set_id, after, wanted, weeks, weights],
    placeholderData: keepPreviousData,
    queryFn: async () => {
      const query = { after, wanted, weeks, ...weights };
      const asked = client.GET("/api/sets/{set_id}/suggestions", { params: { path: { set_id }, query } });
      return { after, lines: await unwrap(asked) };
    },
    retry: false,
  });

export const orderQuery = (set_id: number, by: By, entry_ids: number[], weights?: OrderWeights) =>
  queryOptions({
    queryKey: ["sets", "order", set_id, by, entry_ids, weights],
    queryFn: () =>
      unwrap(
        client.POST("/api/sets/{set_id}/order", {
          params: { path: { set_id } },
          body: { by, entry_ids, weights },
        }),
      ),
    retry: false,
  });

export const chainQuery = (set_id: number) =>
  queryOptions({
    queryKey: ["sets", "chain", set_id],
    queryFn: () => unwrap(client.GET("/api/sets/{set_id}/chain", { params: { path: { set_id } } })),
    retry: false,
  });

export function useChainChanges(set_id: number) {
  const goOn = useChange((body: Schema["ChainStepIn"]) =>
    unwrap(client.POST("/api/sets/{set_id}/chain", { params: { path: { set_id } }, body })),
  );
  const takeBack = useChange((step_id: number) =>
    unwrap(client.DELETE("/api/sets/{set_id}/chain/{step_id}", { params: { path: { set_id, step_id } } })),
  );
  return { goOn, takeBack };
}

/** Changes of sets as wholes. */
export function useSetMaking() {
  const make = useChange((body: Schema["SetIn"]) => unwrap(client.POST("/api/sets", { body })));
  const copy = useChange(
    ({ id, body }: { id: number; body: Facts }) =>
      unwrap(client.POST("/api/sets/{set_id}/copy", { params: { path: { set_id: id } }, body })),
    (_, { body }) => `“${body.name}” has the same tracks. What was played there since is marked.`,
  );
  const remove = useChange(
    (id: number) => unwrap(client.DELETE("/api/sets/{set_id}", { params: { path: { set_id: id } } })),
    () => "Deleted. Ctrl Z brings it back.",
  );
  return { make, copy, remove };
}

/** Changes within one set. */
export function useSetChanges(set_id: number) {
  const params = { path: { set_id } };
  const change = useChange((body: Schema["SetChangeIn"]) =>
    unwrap(client.PATCH("/api/sets/{set_id}", { params, body })),
  );
  const arc = useChange((points: ArcPoint[]) =>
    unwrap(client.PUT("/api/sets/{set_id}/arc", { params, body: { points } })),
  );
  const add = useChange((body: Schema["SetAddIn"]) =>
    unwrap(client.POST("/api/sets/{set_id}/tracks", { params, body })),
  );
  const want = useChange(
    (body: Schema["SetWantIn"]) => unwrap(client.POST("/api/sets/{set_id}/wanted", { params, body })),
    ({ owned }, { title }) =>
      owned ? `“${title}” is on the Shelf: it is in the set now.` : `“${title}” is wanted here.`,
  );
  const move = useChange((body: Schema["SetMoveIn"]) =>
    unwrap(client.POST("/api/sets/{set_id}/move", { params, body })),
  );
  const remove = useChange((entry_ids: number[]) =>
    unwrap(client.POST("/api/sets/{set_id}/remove", { params, body: { entry_ids } })),
  );
  const entry = useChange(({ id, body }: { id: number; body: Schema["SetEntryIn"] }) =>
    unwrap(
      client.PATCH("/api/sets/{set_id}/entries/{entry_id}", {
        params: { path: { set_id, entry_id: id } },
        body,
      }),
    ),
  );
  const joint = useChange((body: Schema["SetJointIn"]) =>
    unwrap(client.PUT("/api/sets/{set_id}/joint", { params, body })),
  );
  const reorder = useChange(
    (entry_ids: number[]) => unwrap(client.PUT("/api/sets/{set_id}/order", { params, body: { entry_ids } })),
    () => "Ordered. Ctrl Z brings the former order back.",
  );
  const crate = useChange(
    () => unwrap(client.POST("/api/sets/{set_id}/crate", { params })),
    (out) => `${counted(out.tracks, "track")} in the new crate “${out.name}”.`,
  );
  return { change, arc, add, want, move, remove, entry, joint, reorder, crate };
}
