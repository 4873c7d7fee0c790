/** What the page and the audio thread tell each other. Positions are frames of the listening copy. */
export type ToPlayer =
  | { type: "load"; frames: number; track: number }
  | { type: "chunk"; track: number; index: number; samples: Int16Array }
  | { type: "drop"; index: number }
  | { type: "play" }
  | { type: "pause" }
  | { type: "seek"; frame: number }
  | { type: "jump"; by: number }
  | { type: "clicks"; frames: Float64Array<ArrayBuffer>; accents: Uint8Array<ArrayBuffer> }
  | { type: "click"; on: boolean; gain: number }
  | { type: "loops"; loops: LoopFrames[] }
  | { type: "loop"; loop: LoopFrames | null };

export interface LoopFrames {
  start: number;
  end: number;
}

export interface FromPlayer {
  type: "position";
  track: number;
  /** Position at the audio clock's `at` seconds; it goes on from there if `moving`. */
  frame: number;
  at: number;
  playing: boolean;
  moving: boolean;
  loop: LoopFrames | null;
}
