import type { Cue } from "../../api/client";
import { engine } from "../../audio/engine";
import type { NewCue } from "./use-track-actions";
import type { Bench } from "./workbench-page";

export const STEPS = [1, 4, 16, 32] as const;
export const COLOURS = ["vermilion", "violet", "blue", "ochre", "green", "ink"] as const;

/** What keys and buttons of the Workbench do. */
export function benchActions(bench: Bench) {
  const { data, map, actions, chosenCue, setChosenCue } = bench;
  const chosen = data.cues.find((cue) => cue.id === chosenCue);

  const jumpTo = (cue: Cue) => {
    setChosenCue(cue.id);
    engine.setLoop(null);
    engine.seek(cue.position_s);
  };
  const setCue = (cue: Partial<NewCue>) =>
    actions.addCue.mutate({ position_s: engine.position(), ...cue }, { onSuccess: (made) => setChosenCue(made.id) });
  /** The in, main or out point is one: set again, it moves. */
  const setRole = (role: "in" | "main" | "out", label: string) => {
    const there = data.cues.find((cue) => cue.role === role);
    if (!there) setCue({ role, label });
    else actions.changeCue.mutate({ cueId: there.id, change: { position_s: engine.position() } }, { onSuccess: (moved) => setChosenCue(moved.id) });
  };
  const change = (edit: Parameters<typeof actions.changeCue.mutate>[0]["change"]) => chosen && actions.changeCue.mutate({ cueId: chosen.id, change: edit });

  return {
    jumpTo,
    setCue,
    setRole,
    /** By whole beats, from the exact place in the beat; without a grid, by half seconds. */
    step: (beats: number) => {
      const now = engine.position();
      engine.jumpBy(map ? map.timeAt(map.beatAt(now) + beats) - now : beats / 2);
    },
    changeStep: (by: 1 | -1) => {
      const place = STEPS.findIndex((step) => step >= bench.step);
      bench.setStep(STEPS[Math.max(0, Math.min(STEPS.length - 1, place + by))] ?? 16);
    },
    zoom: (factor: number) => bench.setSpan(Math.max(0.25, Math.min(60, bench.span * factor))),
    backAndListen: () => {
      const now = engine.position();
      engine.seek(map ? map.timeAt(Math.round(map.beatAt(now)) - 4) : now - 2);
      void engine.play();
    },
    barStartsHere: () => actions.grid.mutate({ edit: "bar starts here", time_s: engine.position() }),
    firstBarHere: () => actions.grid.mutate({ edit: "first bar here", time_s: engine.position() }),
    alignHere: () => actions.grid.mutate({ edit: "move beat here", time_s: engine.position() }),
    nudge: (ms: number) => actions.grid.mutate({ edit: "shift", by_s: ms / 1000 }),
    loop: () => {
      if (engine.snapshot().loop) {
        engine.setLoop(null);
        return;
      }
      const made = (cue: Cue) => {
        setChosenCue(cue.id);
        if (cue.length_s !== null) engine.setLoop({ start: cue.position_s, end: cue.position_s + cue.length_s });
      };
      actions.addCue.mutate({ position_s: engine.position(), length_beats: bench.loopBeats, label: "Loop", colour: "ochre" }, { onSuccess: made });
    },
    playLoop: (cue: Cue) => {
      if (cue.length_s === null) return;
      jumpTo(cue);
      engine.setLoop({ start: cue.position_s, end: cue.position_s + cue.length_s });
    },
    pad: (pad: number) => {
      const there = data.cues.find((cue) => cue.pad === pad);
      if (there) jumpTo(there);
      else setCue({ pad });
    },
    chooseNeighbour: (by: 1 | -1) => {
      const place = data.cues.findIndex((cue) => cue.id === chosenCue);
      const next = place < 0 ? (by > 0 ? data.cues[0] : data.cues.at(-1)) : data.cues[place + by];
      if (next) jumpTo(next);
    },
    nextColour: () => chosen && change({ colour: COLOURS[(COLOURS.indexOf(chosen.colour) + 1) % COLOURS.length] ?? "vermilion" }),
    moveChosenHere: () => change({ position_s: engine.position() }),
    moveChosenBy: (beats: number) => change({ move_beats: beats }),
    deleteChosen: () => {
      if (!chosen) return;
      actions.deleteCue.mutate(chosen.id);
      setChosenCue(null);
    },
  };
}
