import { client, unwrap, type Schema } from "../../api/client";
import { useChange } from "../../api/queries";
import type { paths } from "../../api/schema";

const TOUCHES = ["workbench", "rows"];

export type GridEdit =
  paths["/api/tracks/{track_id}/grid"]["post"]["requestBody"]["content"]["application/json"];
export type NewCue = Partial<Schema["CueIn"]> & { position_s: number };
export type CueEdit = Partial<Schema["CueChange"]>;

/** What an edit holds fixed, as it is said after it. */
const HOLDS: Partial<Record<GridEdit["edit"], string>> = {
  "bar starts here": "Every beat stays where it is.",
  "first bar here": "Every beat stays where it is.",
  "move bar starts": "Every beat stays where it is.",
  halve: "Bar 1 stays.",
  double: "Bar 1 stays.",
  "three for two": "Bar 1 stays.",
  "two for three": "Bar 1 stays.",
  "tempo from here": "Everything before stays.",
  stretch: "Bar 1 stays; the line meets its attack.",
  "add anchor": "Nothing has moved.",
  "delete anchor": "Its neighbours stay.",
  "pin beat": "The neighbouring anchors stay.",
  "move anchor": "Its neighbours stay.",
  "join anchors": "Everything outside the stretch stays.",
  "tempo of this part": "Everything before stays, and every later tempo.",
  "snap to attack": "The tempo stays.",
  "beats in a bar": "Every beat stays where it is.",
};

/** Changes to one track's grid, cues and routes. */
export function useTrackActions(id: number) {
  const path = { track_id: id };
  const grid = useChange(
    (body: GridEdit) => unwrap(client.POST("/api/tracks/{track_id}/grid", { params: { path }, body })),
    TOUCHES,
    (_, edit) => HOLDS[edit.edit] ?? null,
  );
  const resetGrid = useChange(
    () => unwrap(client.DELETE("/api/tracks/{track_id}/grid", { params: { path } })),
    TOUCHES,
    () => "The grid is the analysed one again.",
  );
  const tap = useChange(
    (taps_s: number[]) =>
      unwrap(client.POST("/api/tracks/{track_id}/taps", { params: { path }, body: { taps_s } })),
    [],
  );
  const addCue = useChange(
    (cue: NewCue) =>
      unwrap(client.POST("/api/tracks/{track_id}/cues", { params: { path }, body: full(cue) })),
    [...TOUCHES, "cue-labels"],
  );
  const addCues = useChange(
    (cues: NewCue[]) =>
      unwrap(
        client.POST("/api/tracks/{track_id}/cues/several", {
          params: { path },
          body: { cues: cues.map(full) },
        }),
      ),
    TOUCHES,
  );
  const changeCue = useChange(
    ({ cueId, change }: { cueId: number; change: CueEdit }) =>
      unwrap(
        client.PATCH("/api/tracks/{track_id}/cues/{cue_id}", {
          params: { path: { ...path, cue_id: cueId } },
          body: { snap: "beat", ...change },
        }),
      ),
    [...TOUCHES, "cue-labels"],
  );
  const deleteCue = useChange(
    (cueId: number) =>
      unwrap(
        client.DELETE("/api/tracks/{track_id}/cues/{cue_id}", {
          params: { path: { ...path, cue_id: cueId } },
        }),
      ),
    TOUCHES,
  );
  const numberPads = useChange(
    () => unwrap(client.POST("/api/tracks/{track_id}/cues/number-pads", { params: { path } })),
    TOUCHES,
    () => "Pads are in order of time.",
  );
  const ontoGrid = useChange(
    (body: Schema["OntoGridIn"]) =>
      unwrap(client.POST("/api/tracks/{track_id}/cues/onto-grid", { params: { path }, body })),
    TOUCHES,
  );
  const addRoute = useChange(
    (body: Schema["RouteIn"]) =>
      unwrap(client.POST("/api/tracks/{track_id}/routes", { params: { path }, body })),
    TOUCHES,
  );
  const changeRoute = useChange(
    ({ id: routeId, ...body }: Schema["RouteIn"] & { id: number }) =>
      unwrap(
        client.PUT("/api/tracks/{track_id}/routes/{route_id}", {
          params: { path: { ...path, route_id: routeId } },
          body,
        }),
      ),
    TOUCHES,
  );
  const deleteRoute = useChange(
    (routeId: number) =>
      unwrap(
        client.DELETE("/api/tracks/{track_id}/routes/{route_id}", {
          params: { path: { ...path, route_id: routeId } },
        }),
      ),
    TOUCHES,
  );
  return {
    grid,
    resetGrid,
    tap,
    addCue,
    addCues,
    changeCue,
    deleteCue,
    numberPads,
    ontoGrid,
    addRoute,
    changeRoute,
    deleteRoute,
  };
}

function full(cue: NewCue): Schema["CueIn"] {
  return { snap: "beat", label: "", engages: false, ...cue };
}

export type TrackActions = ReturnType<typeof useTrackActions>;
