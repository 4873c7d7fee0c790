import type { Cue, Proposal } from "../../api/client";
import { engine } from "../../audio/engine";
import { chosenOf, type Bench, type Snap } from "./bench";
import type { CueEdit, NewCue } from "./use-track-actions";

export const COLOURS = ["vermilion", "violet", "blue", "ochre", "green", "ink"] as const;
export const SNAPS: readonly Snap[] = ["beat", "bar", "phrase", "off"];
const PADS = [1, 2, 3, 4, 5, 6, 7, 8];

/** What keys and buttons do to cues and loops. */
export function cueActions(bench: Bench) {
  const { data, map, actions } = bench.track;
  const { setCue: setChosenCue } = bench.chosen;
  const chosen = chosenOf(bench);

  const jumpTo = (cue: Cue) => {
    setChosenCue(cue.id);
    engine.setLoop(null);
    engine.seek(cue.position_s);
  };
  const setCue = (cue: Partial<NewCue>) =>
    actions.addCue.mutate(
      { position_s: engine.position(), snap: bench.settings.snap, ...cue },
      { onSuccess: (made) => setChosenCue(made.id) },
    );
  const change = (edit: CueEdit) => chosen && actions.changeCue.mutate({ cueId: chosen.id, change: edit });
  const beatsOf = (cue: Cue) =>
    map && cue.length_s !== null ? map.beatsBetween(cue.position_s, cue.position_s + cue.length_s) : null;
  const resize = (factor: number) => {
    const beats = chosen ? beatsOf(chosen) : null;
    if (beats !== null && beats * factor >= 0.24 && beats * factor <= 65)
      change({ length_beats: beats * factor });
    else if (beats === null) bench.settings.setLoopBeats(Math.max(0.25, Math.min(64, bench.settings.loopBeats * factor)));
  };

  return {
    jumpTo,
    setCue,
    change,
    beatsOf,
    /** The in, main or out point is one: set again, it moves. */
    setRole: (role: "in" | "main" | "out", label: string) => {
      const there = data.cues.find((cue) => cue.role === role);
      if (!there) setCue({ role, label });
      else
        actions.changeCue.mutate(
          { cueId: there.id, change: { position_s: engine.position(), snap: bench.settings.snap } },
          { onSuccess: (moved) => setChosenCue(moved.id) },
        );
    },
    loop: () => {
      if (engine.snapshot().loop) {
        engine.setLoop(null);
        return;
      }
      const made = (cue: Cue) => {
        setChosenCue(cue.id);
        if (cue.length_s !== null)
          engine.setLoop({ start: cue.position_s, end: cue.position_s + cue.length_s });
      };
      actions.addCue.mutate(
        {
          position_s: engine.position(),
          snap: bench.settings.snap,
          length_beats: bench.settings.loopBeats,
          label: "Loop",
          colour: "ochre",
        },
        { onSuccess: made },
      );
    },
    playLoop: (cue: Cue) => {
      if (cue.length_s === null) return;
      jumpTo(cue);
      engine.setLoop({ start: cue.position_s, end: cue.position_s + cue.length_s });
    },
    halveLoop: () => resize(0.5),
    doubleLoop: () => resize(2),
    moveLoopOn: () => {
      const beats = chosen ? beatsOf(chosen) : null;
      if (beats !== null) change({ move_beats: beats });
    },
    toggleEngages: () => chosen?.length_s != null && change({ engages: !chosen.engages }),
    pad: (pad: number) => {
      const there = data.cues.find((cue) => cue.pad === pad);
      if (there) jumpTo(there);
      else setCue({ pad });
    },
    nth: (place: number) => {
      const cue = data.cues[place - 1];
      if (cue) jumpTo(cue);
    },
    chooseNeighbour: (by: 1 | -1) => {
      const place = data.cues.findIndex((cue) => cue.id === bench.chosen.cue);
      const next = place < 0 ? (by > 0 ? data.cues[0] : data.cues.at(-1)) : data.cues[place + by];
      if (next) jumpTo(next);
    },
    nextColour: () =>
      chosen && change({ colour: COLOURS[(COLOURS.indexOf(chosen.colour) + 1) % COLOURS.length] }),
    nextSnap: () => bench.settings.setSnap(SNAPS[(SNAPS.indexOf(bench.settings.snap) + 1) % SNAPS.length] ?? "beat"),
    moveChosenHere: () => change({ position_s: engine.position(), snap: bench.settings.snap }),
    moveChosenBy: (beats: number) => change({ move_beats: beats }),
    moveChosenByMs: (ms: number) => change({ move_ms: ms }),
    togglePad: () => {
      if (!chosen) return;
      const free = PADS.find((pad) => data.cues.every((cue) => cue.pad !== pad));
      if (chosen.pad === null && free === undefined)
        bench.say("All eight pads are taken: take a cue off its pad first.");
      else change({ pad: chosen.pad === null ? (free ?? null) : null });
    },
    deleteChosen: () => {
      if (!chosen) return;
      actions.deleteCue.mutate(chosen.id);
      setChosenCue(null);
    },
    accept: (proposal: Proposal | undefined) => {
      if (proposal) actions.addCue.mutate(cueOf(proposal), { onSuccess: (made) => setChosenCue(made.id) });
      else bench.say("Nothing is proposed (any more).");
    },
    acceptAll: () => {
      if (bench.track.proposals.length) actions.addCues.mutate(bench.track.proposals.map(cueOf));
      else bench.say("Nothing is proposed (any more).");
    },
  };
}

const COLOUR_OF: Record<string, NewCue["colour"]> = { break: "blue", drop: "green" };

function cueOf({ position_s, role, label }: Proposal): NewCue {
  return {
    position_s,
    role,
    label: label.charAt(0).toUpperCase() + label.slice(1),
    snap: "off",
    colour: COLOUR_OF[label],
  };
}
