/** Listening and moving by key and button. */
import { engine, type Jump } from "../../audio/engine";
import type { Pace } from "../../audio/protocol";
import type { Bench } from "./bench";

/** 0 stands for a phrase. */
export const STEPS = [1, 4, 16, 32, 0] as const;
export const PACES: readonly Pace[] = ["full", "half", "half, lower"];
const HEARD_BEATS = 2;
/** So near to a place one is at it. */
const AT_S = 0.005;
const LEAST_SPAN_S = 0.02;

export function stepBeats(bench: Bench): number {
  return bench.settings.step || bench.track.map?.phraseBeats || 32;
}

/** Listening and moving through the track. */
export function listenActions(bench: Bench) {
  const { map } = bench.track;
  const { state } = bench.transport;
  const duration = bench.track.data.track.duration_s;
  return {
    /** By whole beats, from the exact place in the beat; without a grid, by half seconds. */
    step: (direction: 1 | -1) => {
      const beats = direction * stepBeats(bench);
      const now = engine.position();
      // From the very start on, steps go on the grid.
      const from = map && now < AT_S ? Math.ceil(map.beatAt(0) - AT_S) : map?.beatAt(now);
      engine.jumpBy(map && from !== undefined ? map.timeAt(from + beats) - now : beats / 2);
    },
    /** Back to the last of the in point, bar 1 and the start; or on to the first of the out point and the end. */
    toPoint: (direction: 1 | -1) => {
      const now = engine.position();
      const { cues } = bench.track.data;
      const at = (role: "in" | "out") => cues.filter((cue) => cue.role === role).map((cue) => cue.position_s);
      if (direction < 0) {
        const before = [0, ...(map ? [map.timeAt(0)] : []), ...at("in")].filter((time) => time < now - AT_S);
        engine.seek(Math.max(0, ...before));
      } else engine.seek(Math.min(duration, ...at("out").filter((time) => time > now + AT_S)));
    },
    changeStep: (by: 1 | -1) => {
      const place = STEPS.findIndex((step) => step === bench.settings.step);
      bench.settings.setStep(
        STEPS[Math.max(0, Math.min(STEPS.length - 1, (place < 0 ? 2 : place) + by))] ?? 16,
      );
    },
    zoom: (factor: number) => bench.settings.setSpan(clampSpan(bench.settings.span * factor, duration)),
    zoomWhole: () =>
      bench.settings.setSpan(bench.settings.span >= duration ? 8 : clampSpan(1.5 * duration, duration)),
    backAndListen: () => {
      const now = engine.position();
      engine.seek(map ? map.timeAt(Math.round(map.beatAt(now)) - 4) : now - 2);
      void engine.play();
    },
    /** Two beats at each stop, a step apart, from here to the end: a whole track is checked in seconds. */
    walk: () => {
      if (state.way === "walk") {
        engine.pause();
        engine.seek(engine.position());
        return;
      }
      if (!map) return;
      const beats = stepBeats(bench);
      const first = Math.max(Math.ceil(map.beatAt(0)), Math.round(map.beatAt(engine.position())));
      const jumps: Jump[] = [];
      for (let beat = first; map.timeAt(beat + beats + HEARD_BEATS) < duration; beat += beats)
        jumps.push({ from: map.timeAt(beat + HEARD_BEATS), to: map.timeAt(beat + beats) });
      void engine.follow("walk", map.timeAt(first), beats === HEARD_BEATS ? [] : jumps);
    },
    nextPace: () => engine.setPace(PACES[(PACES.indexOf(state.pace) + 1) % PACES.length] ?? "full"),
    changeClick: (by: number) =>
      bench.settings.setClickGain(
        Math.max(0, Math.min(1, Math.round(10 * (bench.settings.clickGain + by)) / 10)),
      ),
  };
}

export function clampSpan(span: number, duration: number): number {
  return Math.max(LEAST_SPAN_S, Math.min(1.5 * duration, span));
}
