/** The beatgrid by key and button. */
import { engine } from "../../audio/engine";
import type { Bench, TempoReach } from "./bench";

const CLOSE_S = 2;
const FORGET_TAPS_S = 2.5;

const RATIOS = [
  ["halve", 1 / 2],
  ["double", 2],
  ["two for three", 2 / 3],
  ["three for two", 3 / 2],
] as const;

/** The edit that multiplies the tempo by about so much. */
function editTo(ratio: number): (typeof RATIOS)[number][0] {
  const off = (of: number) => Math.abs(Math.log2(ratio / of));
  return RATIOS.reduce((best, each) => (off(each[1]) < off(best[1]) ? each : best))[0];
}

/** What keys and buttons do to the beatgrid. */
export function gridActions(bench: Bench) {
  const { actions, map } = bench.track;
  const { mark } = bench.chosen;
  const now = () => engine.position();
  const edit = actions.grid.mutate;
  return {
    barStartsHere: () => edit({ edit: "bar starts here", time_s: now() }),
    firstBarHere: () => edit({ edit: "first bar here", time_s: now() }),
    alignHere: () => edit({ edit: "move beat here", time_s: now() }),
    snapHere: () => edit({ edit: "snap to attack", time_s: now() }),
    nudge: (ms: number) => edit({ edit: "shift", by_s: ms / 1000 }),
    moveBars: (beats: number) => edit({ edit: "move bar starts", beats }),
    halve: () => edit({ edit: "halve" }),
    double: () => edit({ edit: "double" }),
    threeForTwo: () => edit({ edit: "three for two" }),
    twoForThree: () => edit({ edit: "two for three" }),
    /** The other tempo that analysis thinks may be meant. */
    takeOther: () => {
      const { bpm, other_bpm } = bench.track.data.track;
      if (bpm && other_bpm) edit({ edit: editTo(other_bpm / bpm) });
      else bench.say("Analysis offers no other tempo for this track. H halves it, D doubles it.");
    },
    stretchHere: () => edit({ edit: "stretch", hold_s: map?.timeAt(0) ?? 0, line_s: now() }),
    pinHere: () => edit({ edit: "pin beat", time_s: now() }),
    addAnchor: () => edit({ edit: "add anchor", time_s: now() }),
    stepToOtherEnd: () => edit({ edit: "step to other end", time_s: now() }),
    deleteAnchor: () => edit({ edit: "delete anchor", time_s: now() }),
    reset: () => bench.track.data.grid?.by_hand && actions.resetGrid.mutate(undefined),
    /** From here, to here, and away again. */
    mark: () => {
      const here = map ? map.snap(now()) : now();
      if (!mark) bench.chosen.setMark({ from: here, to: here });
      else if (mark.from === mark.to && Math.abs(here - mark.from) > 1e-3)
        bench.chosen.setMark({ from: Math.min(here, mark.from), to: Math.max(here, mark.from) });
      else bench.chosen.setMark(null);
    },
    join: () => {
      if (mark && mark.to > mark.from) edit({ edit: "join anchors", start_s: mark.from, end_s: mark.to });
      else bench.say("Mark a stretch first: X at its start, X at its end.");
    },
    worst: () => {
      const worst = bench.track.drift?.worst_s;
      if (worst === null || worst === undefined) {
        bench.say(
          "Nothing was measured: there are no attacks near this grid. Hear it anew (⇧ R), or tap the tempo (R).",
        );
        return;
      }
      engine.seek(map ? map.snap(worst) : worst);
      bench.settings.setSpan(CLOSE_S);
    },
    ...tapActions(bench),
    ...stepActions(bench),
  };
}

export const REACHES: readonly TempoReach[] = ["whole track", "from here", "this part"];

/** Where a row of steps from here on began, and when the last of them was. */
const row = { track: 0, from_s: 0, at_ms: -Infinity };
const ROW_MS = 8000;

/** The tempo a little higher or lower, by ear. Steps from here on go on from where the first of them was. */
function stepActions(bench: Bench) {
  const { tempoReach, setTempoReach } = bench.settings;
  const { data, map, actions } = bench.track;
  return {
    stepTempo: (by_bpm: number) => {
      const now = performance.now();
      if (row.track !== data.track.id || now - row.at_ms > ROW_MS) row.from_s = engine.position();
      Object.assign(row, { track: data.track.id, at_ms: now });
      const time_s = tempoReach === "from here" ? row.from_s : engine.position();
      if (map) actions.grid.mutate({ edit: "step tempo", by_bpm, reach: tempoReach, time_s });
      else bench.say("There is no beatgrid yet: type or tap the tempo first (T, R).");
    },
    nextReach: () => {
      const next = REACHES[(REACHES.indexOf(tempoReach) + 1) % REACHES.length] ?? "whole track";
      row.at_ms = -Infinity;
      setTempoReach(next);
      bench.say(`Steps of the tempo change ${REACH_WORDS[next]}.`);
    },
  };
}

export const REACH_WORDS: Record<TempoReach, string> = {
  "whole track": "the whole track, from bar 1",
  "from here": "all from here on",
  "this part": "this part, between its anchors",
};

/** The tempo by tapping. */
function tapActions(bench: Bench) {
  const { actions } = bench.track;
  return {
    /** A tap where the sound is; after a pause a new count begins. */
    tap: () => {
      const last = bench.chosen.taps.at(-1);
      const here = engine.position();
      const taps =
        last !== undefined && here > last && here - last < FORGET_TAPS_S
          ? [...bench.chosen.taps, here]
          : [here];
      bench.chosen.setTaps(taps);
      bench.settings.setPanel("grid");
      if (taps.length >= 3) actions.tap.mutate(taps);
    },
    takeTap: () => {
      const { data } = actions.tap;
      if (!data || bench.chosen.taps.length < 3) return;
      actions.grid.mutate({
        edit: "set tempo",
        bpm: Number(data.bpm.toFixed(data.by_onsets ? 2 : 1)),
        hold_s: bench.chosen.taps[0],
      });
      bench.chosen.setTaps([]);
    },
  };
}
