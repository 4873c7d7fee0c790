/** What the engine tells of itself. */
import type { Pace } from "./protocol";

export interface Jump {
  from: number;
  to: number;
}

export interface EngineState {
  track: number | null;
  duration: number;
  playing: boolean;
  /** It was asked to play, and the sound there is still on its way. */
  waiting: boolean;
  click: boolean;
  loop: { start: number; end: number } | null;
  pace: Pace;
  /** What playing follows by itself: stops of a walk, or the jumps of a route. */
  way: "walk" | "route" | null;
  recording: boolean;
  problem: string | null;
}

export const SILENT: EngineState = {
  track: null,
  duration: 0,
  playing: false,
  waiting: false,
  click: false,
  loop: null,
  pace: "full",
  way: null,
  recording: false,
  problem: null,
};
