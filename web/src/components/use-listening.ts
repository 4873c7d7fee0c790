/** Listening through a list: the row with the focus plays from its main part, and the next choice goes on. */
import { useEffect } from "react";
import type { Track } from "../api/client";
import { engine } from "../audio/engine";
import { useEngine } from "../audio/use-engine";
import { KEYS } from "./keys";
import type { TrackSource } from "./tracks";
import { useKeys } from "./use-keys";
import type { Selection } from "./use-selection";

const STEP_BEATS = 16;
const STEP_S = 8;
/** Where no main part is known, a track is heard from here on: past most intros. */
const INTO_SHARE = 0.3;

/** What is heard of a track. */
export type Heard = Pick<Track, "id" | "duration_s" | "main_s">;

export function mainOf(track: Heard): number {
  return track.main_s ?? INTO_SHARE * track.duration_s;
}

/** Plays a track from its main part, or pauses it where it is the one that is heard. */
export function toggleTrack(track: Heard): void {
  if (engine.snapshot().track === track.id) engine.toggle();
  else playTrack(track);
}

export function playTrack(track: Heard): void {
  engine.load(track.id, track.duration_s);
  engine.setGrid(null);
  engine.setEngaging([]);
  engine.seek(mainOf(track));
  void engine.play();
}

export interface Listening {
  /** The track that is heard, if it is one of those in sight. */
  track: Track | undefined;
  playing: boolean;
  /** The sound is on its way. */
  waiting: boolean;
  problem: string | null;
  toggle: () => void;
}

export function useListening(source: TrackSource, selection: Selection): Listening {
  const { track: heard, playing, waiting, problem } = useEngine();
  const { focus } = selection;
  const focused = focus >= 0 ? source.trackAt(focus) : undefined;
  const place = heard === null ? -1 : source.placeOf(heard);
  const track = place >= 0 ? source.trackAt(place) : undefined;
  const toggle = () => {
    if (!focused || focused.id === heard) engine.toggle();
    else playTrack(focused);
  };
  const step = (direction: 1 | -1) => {
    const beats = track?.bpm ? (STEP_BEATS * 60) / track.bpm : STEP_S;
    if (playing) engine.jumpBy(direction * beats);
  };
  useKeys(KEYS.lists.play, toggle);
  useKeys(KEYS.lists.back, () => step(-1));
  useKeys(KEYS.lists.forth, () => step(1));
  useGoOn(focused, playing);
  useAhead(source, focus);
  useEffect(() => () => engine.pause(), []);
  return { track, playing, waiting, problem, toggle };
}

/** Another choice while a track plays is played in its place. */
function useGoOn(focused: Track | undefined, playing: boolean): void {
  useEffect(() => {
    const heard = engine.snapshot().track;
    if (playing && focused && focused.id !== heard) playTrack(focused);
    // Only the choice counts: that playing ends or begins is none.
  }, [focused?.id]); // eslint-disable-line react-hooks/exhaustive-deps
}

/** The rows next to the focus are fetched, so that they play at once. */
function useAhead(source: TrackSource, focus: number): void {
  const next = focus >= 0 ? source.trackAt(focus + 1) : undefined;
  useEffect(() => {
    if (next && engine.snapshot().playing) engine.prefetch(next.id, [mainOf(next)]);
  }, [next]);
}
