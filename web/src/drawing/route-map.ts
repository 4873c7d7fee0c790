/** A route's own time on the track's grid. */
import type { BeatMap, TempoMap } from "./tempo-map";

const NEAR_S = 0.05;

interface Stretch {
  start_s: number;
  end_s: number;
}

/** A route's own beats, counted on over its joints, as times of the track: by it a page shows only what is played. */
export class RouteMap implements BeatMap {
  readonly beatsPerBar: number;
  readonly phraseBeats: number;
  readonly firstPhraseBeat = 0;
  readonly length: number;
  private readonly parts: { beat: number; beats: number; from: number; start: number; end: number }[] = [];

  constructor(
    private readonly map: TempoMap,
    stretches: readonly Stretch[],
  ) {
    this.beatsPerBar = map.beatsPerBar;
    this.phraseBeats = map.phraseBeats;
    let beat = stretches[0] ? map.beatAt(stretches[0].start_s) - map.firstPhraseBeat : 0;
    for (const { start_s: start, end_s: end } of stretches) {
      const beats = map.beatsBetween(start, end);
      this.parts.push({ beat, beats, from: map.beatAt(start), start, end });
      beat += beats;
    }
    this.length = stretches.reduce((sum, part) => sum + part.end_s - part.start_s, 0);
  }

  /** Whether a time is played at all; what begins a hair before a stretch belongs to it. */
  plays(time: number): boolean {
    return this.parts.some((part) => time > part.start - NEAR_S && time < part.end - NEAR_S);
  }

  /** The track's time at a beat of the route. */
  timeAt(beat: number): number {
    const part = this.parts.findLast((each) => each.beat <= beat) ?? this.parts[0];
    return part ? this.map.timeAt(part.from + beat - part.beat) : 0;
  }

  /** The first beat of the route at which a time is played; for one that is left out, where the route has passed it. */
  beatAt(time: number): number {
    const played = this.parts.find((part) => time >= part.start && time < part.end);
    if (played) return played.beat + this.map.beatsBetween(played.start, time);
    const before = this.parts.findLast((part) => part.end <= time) ?? this.parts[0];
    return before
      ? time < before.start
        ? before.beat - this.map.beatsBetween(time, before.start)
        : before.beat + before.beats
      : 0;
  }

  snap(time: number): number {
    return this.map.snap(time);
  }

  /** The beat with which the route ends. */
  get endBeat(): number {
    const last = this.parts.at(-1);
    return last ? last.beat + last.beats : 0;
  }
}
