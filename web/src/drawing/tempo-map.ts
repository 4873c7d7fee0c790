/** Beats to seconds and back. */
import type { Grid } from "../api/client";

/** So near before a beat, it counts as reached. */
const NEAR_BEATS = 0.01;

/** What a page is drawn by: times of beats and back. A route has one that leaps. */
export interface BeatMap {
  readonly beatsPerBar: number;
  readonly phraseBeats: number;
  readonly firstPhraseBeat: number;
  timeAt(beat: number): number;
  beatAt(time: number): number;
  snap(time: number): number;
}

/** The beatgrid for drawing and jumping: seconds to beats and back. Edits are the server's. */
export class TempoMap implements BeatMap {
  readonly beatsPerBar: number;
  readonly phraseBeats: number;
  /** The first beat from 0 on that begins a phrase. */
  readonly firstPhraseBeat: number;
  readonly anchors: readonly { time: number; beat: number; bpm: number }[];
  private readonly times: number[];
  private readonly beats: number[];

  constructor(
    grid: Pick<Grid, "anchors" | "beats_per_bar" | "phrase_bars">,
    phraseStart: number | null = null,
  ) {
    const first = grid.anchors[0];
    const last = grid.anchors.at(-1);
    if (!first || !last) throw new Error("a beatgrid has at least one anchor");
    this.beatsPerBar = grid.beats_per_bar;
    this.phraseBeats = grid.beats_per_bar * grid.phrase_bars;
    this.anchors = grid.anchors;
    this.times = [first.time - 60, ...grid.anchors.map((a) => a.time), last.time + 60];
    this.beats = [first.beat - first.bpm, ...grid.anchors.map((a) => a.beat), last.beat + last.bpm];
    const bar = phraseStart === null ? 0 : Math.round(this.beatAt(phraseStart) / this.beatsPerBar);
    this.firstPhraseBeat =
      (((bar % grid.phrase_bars) + grid.phrase_bars) % grid.phrase_bars) * this.beatsPerBar;
  }

  timeAt(beat: number): number {
    return interpolate(beat, this.beats, this.times);
  }

  beatAt(time: number): number {
    return interpolate(time, this.times, this.beats);
  }

  /** The nearest whole beat to a time. */
  snap(time: number): number {
    return this.timeAt(Math.round(this.beatAt(time)));
  }

  /** "33.1": bar and beat at a time, both counted from 1. */
  barAndBeat(time: number): string {
    const beat = Math.floor(this.beatAt(time) + NEAR_BEATS);
    const bar = Math.floor(beat / this.beatsPerBar);
    return `${bar + 1}.${beat - bar * this.beatsPerBar + 1}`;
  }

  isPhraseStart(beat: number): boolean {
    return (beat - this.firstPhraseBeat) % this.phraseBeats === 0;
  }

  /** How many beats lie between two times. */
  beatsBetween(from: number, to: number): number {
    return this.beatAt(to) - this.beatAt(from);
  }

  bpmAt(time: number): number {
    return (this.beatAt(time + 0.5) - this.beatAt(time - 0.5)) * 60;
  }
}

function interpolate(x: number, at: number[], to: number[]): number {
  let low = 0;
  let high = at.length - 2;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((at[middle] ?? 0) <= x) low = middle;
    else high = middle - 1;
  }
  const [a0 = 0, a1 = 1, t0 = 0, t1 = 1] = [at[low], at[low + 1], to[low], to[low + 1]];
  return t0 + ((x - a0) * (t1 - t0)) / (a1 - a0);
}
