/** Cues and loops by key and button. */
import type { Cue, Proposal } from "../../api/client";
import { engine } from "../../audio/engine";
import { chosenOf, type Bench, type Snap } from "./bench";
import type { CueEdit, NewCue } from "./use-track-actions";

export const COLOURS = ["vermilion", "violet", "blue", "ochre", "green", "ink"] as const;
export const SNAPS: readonly Snap[] = ["beat", "bar", "phrase", "off"];
const PADS = [1, 2, 3, 4, 5, 6, 7, 8];

/** What keys and buttons do to cues and loops. */
export function cueActions(bench: Bench) {
  const basics = basicActions(bench);
  return {
    ...basics,
    ...loopActions(bench, basics),
    ...wayActions(bench, basics),
    ...chosenActions(bench, basics),
    ...proposalActions(bench),
  };
}

type Basics = ReturnType<typeof basicActions>;

function basicActions(bench: Bench) {
  const { data, map, actions } = bench.track;
  const { snap } = bench.settings;
  const choose = (cue: Cue) => bench.chosen.setCue(cue.id);
  const chosen = chosenOf(bench);
  const setCue = (cue: Partial<NewCue>) =>
    actions.addCue.mutate({ position_s: engine.position(), snap, ...cue }, { onSuccess: choose });
  return {
    setCue,
    jumpTo: (cue: Cue) => {
      choose(cue);
      engine.setLoop(null);
      engine.seek(cue.position_s);
    },
    change: (edit: CueEdit) => chosen && actions.changeCue.mutate({ cueId: chosen.id, change: edit }),
    beatsOf: (cue: Cue | undefined) =>
      map && cue && cue.length_s !== null
        ? map.beatsBetween(cue.position_s, cue.position_s + cue.length_s)
        : null,
    /** The in, main or out point is one: set again, it moves. */
    setRole: (role: "in" | "main" | "out", label: string) => {
      const there = data.cues.find((cue) => cue.role === role);
      if (!there) setCue({ role, label });
      else
        actions.changeCue.mutate(
          { cueId: there.id, change: { position_s: engine.position(), snap } },
          { onSuccess: choose },
        );
    },
  };
}

function startLoop(cue: Cue): void {
  if (cue.length_s !== null) engine.setLoop({ start: cue.position_s, end: cue.position_s + cue.length_s });
}

function loopActions(bench: Bench, { jumpTo, change, beatsOf }: Basics) {
  const { actions } = bench.track;
  const { snap, loopBeats, setLoopBeats } = bench.settings;
  const chosen = chosenOf(bench);
  const beats = beatsOf(chosen);
  const resize = (factor: number) => {
    if (beats === null) setLoopBeats(Math.max(0.25, Math.min(64, loopBeats * factor)));
    else if (beats * factor >= 0.24 && beats * factor <= 65) change({ length_beats: beats * factor });
  };
  const made = (cue: Cue) => {
    bench.chosen.setCue(cue.id);
    startLoop(cue);
  };
  return {
    loop: () => {
      const loop = { length_beats: loopBeats, label: "Loop", colour: "ochre" } as const;
      if (engine.snapshot().loop) engine.setLoop(null);
      else actions.addCue.mutate({ position_s: engine.position(), snap, ...loop }, { onSuccess: made });
    },
    playLoop: (cue: Cue) => {
      if (cue.length_s === null) return;
      jumpTo(cue);
      startLoop(cue);
    },
    halveLoop: () => resize(0.5),
    doubleLoop: () => resize(2),
    moveLoopOn: () => beats !== null && change({ move_beats: beats }),
    toggleEngages: () => chosen?.length_s != null && change({ engages: !chosen.engages }),
  };
}

/** The ways to a cue. */
function wayActions(bench: Bench, { jumpTo, setCue }: Basics) {
  const { cues } = bench.track.data;
  return {
    hasPad: (pad: number) => cues.some((cue) => cue.pad === pad),
    pad: (pad: number) => {
      const there = cues.find((cue) => cue.pad === pad);
      if (there) jumpTo(there);
      else setCue({ pad });
    },
    nth: (place: number) => {
      const cue = cues[place - 1];
      if (cue) jumpTo(cue);
    },
    chooseNeighbour: (by: 1 | -1) => {
      const place = cues.findIndex((cue) => cue.id === bench.chosen.cue);
      const next = place < 0 ? (by > 0 ? cues[0] : cues.at(-1)) : cues[place + by];
      if (next) jumpTo(next);
    },
  };
}

/** What is done to the chosen cue. */
function chosenActions(bench: Bench, { change }: Basics) {
  const { data, actions } = bench.track;
  const { snap, setSnap } = bench.settings;
  const chosen = chosenOf(bench);
  return {
    nextColour: () =>
      chosen && change({ colour: COLOURS[(COLOURS.indexOf(chosen.colour) + 1) % COLOURS.length] }),
    nextSnap: () => setSnap(SNAPS[(SNAPS.indexOf(snap) + 1) % SNAPS.length] ?? "beat"),
    moveChosenHere: () => change({ position_s: engine.position(), snap }),
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
      bench.chosen.setCue(null);
    },
  };
}

function proposalActions(bench: Bench) {
  const { actions, proposals } = bench.track;
  const none = () => bench.say("Nothing is proposed (any more). C, I, M and E set cues by hand.");
  return {
    accept: (proposal: Proposal | undefined) => {
      if (!proposal) none();
      else actions.addCue.mutate(cueOf(proposal), { onSuccess: (made) => bench.chosen.setCue(made.id) });
    },
    acceptAll: () => {
      if (proposals.length) actions.addCues.mutate(proposals.map(cueOf));
      else none();
    },
  };
}

const COLOUR_OF: Record<string, NewCue["colour"]> = { break: "blue", drop: "green" };

function cueOf({ position_s, length_s, role, label }: Proposal): NewCue {
  return {
    position_s,
    length_s,
    role,
    label: label.charAt(0).toUpperCase() + label.slice(1),
    snap: "off",
    colour: COLOUR_OF[label],
  };
}
