/** One track on the Workbench in four parts: what is known of it, what is chosen, how it sounds, and how one works. */
import type { Cue, Part, Proposal, Route, Schema, Workbench } from "../../api/client";
import type { EngineState } from "../../audio/engine";
import type { Palette } from "../../drawing/flags";
import type { TempoMap } from "../../drawing/tempo-map";
import type { TrackActions } from "./use-track-actions";

export type TempoReach = Schema["StepTempo"]["reach"];
export type Snap = NonNullable<Schema["CueIn"]["snap"]>;
export type Panel = "cues" | "grid" | "routes" | "tags" | "track";
export type Asked =
  | "tempo"
  | "crate"
  | "rescan"
  | "onto grid"
  | "template"
  | "delete cues"
  | "key"
  | "colours"
  | "finish"
  | "sources"
  | "write"
  | "edit"
  | null;

export interface Mark {
  from: number;
  to: number;
}

/** What is known of the track, and what can be done to it. */
export interface TrackPart {
  data: Workbench;
  map: TempoMap | null;
  palette: Palette;
  drift: Schema["DriftOut"] | null;
  /** Proposals that wait for an answer, some of them moved by hand. */
  proposals: Proposal[];
  moveProposal: (proposal: Proposal, to: number) => void;
  actions: TrackActions;
}

/** What is chosen of it. */
export interface ChosenPart {
  cue: number | null;
  setCue: (id: number | null) => void;
  mark: Mark | null;
  setMark: (mark: Mark | null) => void;
  route: Route | null;
  setRoute: (id: number | null) => void;
  taps: number[];
  setTaps: (taps: number[]) => void;
}

/** How it sounds now, and the way to its neighbours in the list. */
export interface TransportPart {
  state: EngineState;
  goTo: (by: 1 | -1) => void;
}

/** How one works; kept from track to track. */
export interface SettingsPart {
  /** Step in beats; 0 is a phrase. */
  step: number;
  setStep: (beats: number) => void;
  loopBeats: number;
  setLoopBeats: (beats: number) => void;
  snap: Snap;
  setSnap: (snap: Snap) => void;
  /** Seconds in sight in the close-up. */
  span: number;
  setSpan: (seconds: number) => void;
  panel: Panel;
  /** Shows a panel, if the side is folded away too. */
  setPanel: (panel: Panel) => void;
  isFolded: boolean;
  foldPanel: () => void;
  /** What steps of the tempo change. */
  tempoReach: TempoReach;
  setTempoReach: (reach: TempoReach) => void;
  clickGain: number;
  setClickGain: (gain: number) => void;
}

export interface Bench {
  track: TrackPart;
  chosen: ChosenPart;
  transport: TransportPart;
  settings: SettingsPart;
  asked: Asked;
  ask: (what: Asked) => void;
  say: (text: string) => void;
}

export function chosenOf(bench: Bench): Cue | undefined {
  return bench.track.data.cues.find((cue) => cue.id === bench.chosen.cue);
}

export function isLocked(bench: Bench, part: Part): boolean {
  return bench.track.data.track.locks.includes(part);
}
