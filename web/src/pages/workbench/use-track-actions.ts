import { client, unwrap, type Schema } from "../../api/client";
import { useChange } from "../../api/queries";

const TOUCHES = ["workbench", "rows"];

export type GridEdit = Parameters<typeof postGrid>[1];

function postGrid(id: number, body: Schema["Shift"] | Schema["BarStartsHere"] | Schema["FirstBarHere"] | Schema["MoveBeatHere"] | Schema["Halve"] | Schema["Double"] | Schema["SetTempo"] | Schema["TempoFromHere"] | Schema["SetMetre"]) {
  return unwrap(client.POST("/api/tracks/{track_id}/grid", { params: { path: { track_id: id } }, body }));
}

export type NewCue = Partial<Schema["CueIn"]> & { position_s: number };
export type CueEdit = Partial<Schema["CueChange"]>;

/** Changes to one track's grid and cues. */
export function useTrackActions(id: number) {
  const path = { track_id: id };
  const grid = useChange((edit: GridEdit) => postGrid(id, edit), TOUCHES);
  const resetGrid = useChange(() => unwrap(client.DELETE("/api/tracks/{track_id}/grid", { params: { path } })), TOUCHES, () => "The grid is the analysed one again.");
  const addCue = useChange((cue: NewCue) => unwrap(client.POST("/api/tracks/{track_id}/cues", { params: { path }, body: { snap: "beat", label: "", engages: false, ...cue } })), TOUCHES);
  const changeCue = useChange(
    ({ cueId, change }: { cueId: number; change: CueEdit }) =>
      unwrap(client.PATCH("/api/tracks/{track_id}/cues/{cue_id}", { params: { path: { ...path, cue_id: cueId } }, body: { snap: "beat", ...change } })),
    TOUCHES,
  );
  const deleteCue = useChange((cueId: number) => unwrap(client.DELETE("/api/tracks/{track_id}/cues/{cue_id}", { params: { path: { ...path, cue_id: cueId } } })), TOUCHES);
  return { grid, resetGrid, addCue, changeCue, deleteCue };
}

export type TrackActions = ReturnType<typeof useTrackActions>;
