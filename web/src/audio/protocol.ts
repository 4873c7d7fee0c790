/** What the page and the audio thread tell each other. Positions are frames of the listening copy. */
export type ToPlayer =
  | { type: "load"; frames: number; track: number }
  | { type: "chunk"; track: number; index: number; samples: Int16Array }
  | { type: "drop"; index: number }
  | { type: "play"; countIn: CountIn | null }
  | { type: "pause" }
  | { type: "seek"; frame: number }
  | { type: "jump"; by: number }
  | { type: "scrub"; frame: number | null }
  | { type: "pace"; pace: Pace }
  | { type: "clicks"; frames: Float64Array<ArrayBuffer>; accents: Uint8Array<ArrayBuffer> }
  | { type: "click"; on: boolean; gain: number }
  | { type: "loops"; loops: LoopFrames[] }
  | { type: "loop"; loop: LoopFrames | null }
  | { type: "way"; jumps: JumpFrames[] };

export interface LoopFrames {
  start: number;
  end: number;
}

/** When playing reaches `from` it goes on at `to`. */
export interface JumpFrames {
  from: number;
  to: number;
}

/** Clicks before the sound begins: how many, how far apart in frames, and which of them are bar starts. */
export interface CountIn {
  clicks: number;
  every: number;
  bar: number;
}

/** Full speed, half speed at the same pitch, half speed an octave down. */
export type Pace = "full" | "half" | "half, lower";

export type FromPlayer = Position | Jumped;

export interface Position {
  type: "position";
  track: number;
  /** Position at the audio clock's `at` seconds; it goes on from there at `speed` times, if `moving`. */
  frame: number;
  at: number;
  speed: number;
  playing: boolean;
  moving: boolean;
  loop: LoopFrames | null;
  /** How many jumps of the way are still to come. */
  jumpsLeft: number;
}

/** A jump that was asked for by hand while playing, as it happened. */
export interface Jumped {
  type: "jumped";
  track: number;
  from: number;
  to: number;
}
