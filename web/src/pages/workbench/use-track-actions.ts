/** Changes to one track's grid, cues and routes. */
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { finished } from "../../api/jobs";
import type { paths } from "../../api/schema";

export type GridEdit =
  paths["/api/tracks/{track_id}/grid"]["post"]["requestBody"]["content"]["application/json"];
export type NewCue = Partial<Schema["CueIn"]> & { position_s: number };
export type CueEdit = Partial<Schema["CueChange"]>;

const BEATS_STAY = "Every beat stays where it is.";
const BAR_STAYS = "Bar 1 stays.";
const NEIGHBOURS_STAY = "Its neighbours stay.";

/** What an edit holds fixed, as it is said after it. */
const HOLDS: Partial<Record<GridEdit["edit"], string>> = {
  "bar starts here": BEATS_STAY,
  "first bar here": BEATS_STAY,
  "move bar starts": BEATS_STAY,
  "beats in a bar": BEATS_STAY,
  halve: BAR_STAYS,
  double: BAR_STAYS,
  "three for two": BAR_STAYS,
  "two for three": BAR_STAYS,
  "tempo from here": "Everything before stays.",
  stretch: "Bar 1 stays; the line meets its attack.",
  "add anchor": "Nothing has moved.",
  "delete anchor": NEIGHBOURS_STAY,
  "move anchor": NEIGHBOURS_STAY,
  "pin beat": "The neighbouring anchors stay.",
  "step to other end": "The beats on both sides of the break stay.",
  "join anchors": "Everything outside the stretch stays.",
  "tempo of this part": "Everything before stays, and every later tempo.",
  "snap to attack": "The tempo stays.",
};

export type TrackActions = ReturnType<typeof useTrackActions>;

export function useTrackActions(id: number) {
  return { ...useGridActions(id), ...useCueActions(id), ...useRouteActions(id) };
}

function useGridActions(id: number) {
  const params = { path: { track_id: id } };
  const grid = useChange(
    (body: GridEdit) => unwrap(client.POST("/api/tracks/{track_id}/grid", { params, body })),
    (_, edit) => HOLDS[edit.edit] ?? null,
  );
  const resetGrid = useChange(
    () => unwrap(client.DELETE("/api/tracks/{track_id}/grid", { params })),
    () => "The grid is the analysed one again.",
  );
  const rescan = useChange(
    async ({ signal, ...body }: Schema["RescanIn"] & { signal: AbortSignal }) =>
      finished(await unwrap(client.POST("/api/tracks/{track_id}/grid/rescan", { params, body })), signal),
    () => "The beat was heard anew. Undo brings the old grid back.",
  );
  const tap = useChange((taps_s: number[]) =>
    unwrap(client.POST("/api/tracks/{track_id}/taps", { params, body: { taps_s } })),
  );
  return { grid, resetGrid, rescan, tap };
}

const CUES = "/api/tracks/{track_id}/cues" as const;
const CUE = "/api/tracks/{track_id}/cues/{cue_id}" as const;

function useCueActions(id: number) {
  const path = { track_id: id };
  const addCue = useChange((cue: NewCue) => unwrap(client.POST(CUES, { params: { path }, body: full(cue) })));
  const addCues = useChange((cues: NewCue[]) =>
    unwrap(client.POST(`${CUES}/several`, { params: { path }, body: { cues: cues.map(full) } })),
  );
  const changeCue = useChange(({ cueId, change }: { cueId: number; change: CueEdit }) =>
    unwrap(
      client.PATCH(CUE, {
        params: { path: { ...path, cue_id: cueId } },
        body: { snap: "beat", ...change },
      }),
    ),
  );
  const deleteCue = useChange((cueId: number) =>
    unwrap(client.DELETE(CUE, { params: { path: { ...path, cue_id: cueId } } })),
  );
  const numberPads = useChange(
    () => unwrap(client.POST(`${CUES}/number-pads`, { params: { path } })),
    () => "Pads are in order of time.",
  );
  const ontoGrid = useChange((body: Schema["OntoGridIn"]) =>
    unwrap(client.POST(`${CUES}/onto-grid`, { params: { path }, body })),
  );
  return { addCue, addCues, changeCue, deleteCue, numberPads, ontoGrid };
}

const ROUTES = "/api/tracks/{track_id}/routes" as const;
const ROUTE = "/api/tracks/{track_id}/routes/{route_id}" as const;

function useRouteActions(id: number) {
  const path = { track_id: id };
  const addRoute = useChange((body: Schema["RouteIn"]) =>
    unwrap(client.POST(ROUTES, { params: { path }, body })),
  );
  const changeRoute = useChange(({ id: routeId, ...body }: Schema["RouteIn"] & { id: number }) =>
    unwrap(client.PUT(ROUTE, { params: { path: { ...path, route_id: routeId } }, body })),
  );
  const deleteRoute = useChange((routeId: number) =>
    unwrap(client.DELETE(ROUTE, { params: { path: { ...path, route_id: routeId } } })),
  );
  const exportRoute = useChange(
    async ({ routeId, form }: { routeId: number; form: Schema["ExportIn"]["form"] }) => {
      const at = { path: { ...path, route_id: routeId } };
      const job = await finished(await unwrap(client.POST(`${ROUTE}/audio`, { params: at, body: { form } })));
      window.location.assign(`/api/jobs/${job.id}/file`);
    },
    () => "The route was written as a new file.",
  );
  return { addRoute, changeRoute, deleteRoute, exportRoute };
}

function full(cue: NewCue): Schema["CueIn"] {
  return { snap: "beat", label: "", engages: false, ...cue };
}
