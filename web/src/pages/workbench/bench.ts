import type { Cue, Proposal, Route, Schema, Workbench } from "../../api/client";
import type { EngineState } from "../../audio/engine";
import type { Palette } from "../../drawing/flags";
import type { TempoMap } from "../../drawing/tempo-map";
import type { TrackActions } from "./use-track-actions";

export type Snap = NonNullable<Schema["CueIn"]["snap"]>;
export type Panel = "cues" | "grid" | "routes" | "track";
export type Asked = "tempo" | "crate" | "rescan" | "onto grid" | "template" | "colours" | "finish" | null;

export interface Mark {
  from: number;
  to: number;
}

/** One track on the Workbench: what is known of it, what is chosen, and what can be done. */
export interface Bench {
  data: Workbench;
  map: TempoMap | null;
  actions: TrackActions;
  state: EngineState;
  palette: Palette;
  drift: Schema["DriftOut"] | null;
  chosenCue: number | null;
  setChosenCue: (id: number | null) => void;
  /** Proposals that wait for an answer, some of them moved by hand. */
  proposals: Proposal[];
  moveProposal: (proposal: Proposal, to: number) => void;
  /** Step in beats; 0 is a phrase. */
  step: number;
  setStep: (beats: number) => void;
  loopBeats: number;
  setLoopBeats: (beats: number) => void;
  snap: Snap;
  setSnap: (snap: Snap) => void;
  span: number;
  setSpan: (seconds: number) => void;
  mark: Mark | null;
  setMark: (mark: Mark | null) => void;
  panel: Panel;
  setPanel: (panel: Panel) => void;
  route: Route | null;
  setRoute: (id: number | null) => void;
  taps: number[];
  setTaps: (taps: number[]) => void;
  clickGain: number;
  setClickGain: (gain: number) => void;
  goTo: (by: 1 | -1) => void;
  ask: (what: Asked) => void;
  say: (text: string) => void;
}

export function chosenOf(bench: Bench): Cue | undefined {
  return bench.data.cues.find((cue) => cue.id === bench.chosenCue);
}

export function isLocked(bench: Bench, part: Schema["LocksIn"]["part"]): boolean {
  return bench.data.track.locks.includes(part);
}
