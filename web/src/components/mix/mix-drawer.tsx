/** One track going over into another, to be heard and moved until it fits; by key, at the foot of the page. */
import { Box, Drawer, TextField } from "@mui/material";
import { useEffect, useEffectEvent, useRef, useState, useSyncExternalStore } from "react";
import { engine } from "../../audio/engine";
import { MixPlayer } from "../../audio/mix-player";
import { useRemembered } from "../../settings";
import { useStepBack } from "../../api/changes";
import { keyOf, pressed } from "../key-map";
import { KEYS, type KeyEntry } from "../keys";
import { MixButtons, type MixActs } from "./mix-buttons";
import {
  barsNext,
  following,
  nextFade,
  nextLow,
  nextMeet,
  nextPoint,
  stepOf,
  STEPS,
  wordsOf,
  type Step,
} from "./mix-changes";
import { MixPicture } from "./mix-picture";
import { useMix, useVerdict, type Mix, type MixSettings, type Pair } from "./use-mix";

interface Props {
  pair: Pair;
  settings: MixSettings;
  keyHeld: boolean;
  /** Plays at once, and goes on to the next when it was heard. */
  through?: boolean;
  /** What speaks against it. */
  cautions?: readonly string[];
  note?: string;
  onSettings: (settings: MixSettings) => void;
  onNote?: (note: string) => void;
  /** To the joint before, or to the next; false where there is none. */
  onStep?: (by: 1 | -1) => boolean;
  /** What a step leads to. */
  steps?: string;
  onClose: () => void;
}

const MOST_NOTE = 1000;

export function MixDrawer(props: Props) {
  const { pair, keyHeld, through, onStep, onClose } = props;
  const [player] = useState(() => new MixPlayer());
  const [step, setStep] = useRemembered<Step>("mix.step", "bar");
  const found = useMix(pair, props.settings, props.onSettings);
  const { mix } = found;
  const note = useRef<HTMLInputElement>(null);
  useMixPlayer(player, pair, mix, keyHeld);
  const heard = useEffectEvent(() => through && onStep?.(1));
  useEffect(() => player.onEnd(heard), [player]);
  useEffect(() => {
    if (through && mix) void player.play(-THROUGH_S);
    // Each joint begins by itself, once.
  }, [through, mix !== undefined]); // eslint-disable-line react-hooks/exhaustive-deps
  const acts = useActs(found, player, step, setStep, useVerdict(pair).mutate);
  const onKey = useKeyDown(acts, { onStep, onClose, note });
  return (
    <Drawer
      open
      anchor="bottom"
      onClose={onClose}
      slotProps={{
        backdrop: { invisible: true },
        paper: {
          role: "dialog",
          "aria-label": `${pair.out.title} into ${pair.into.title}`,
          onKeyDown: onKey,
        },
      }}
    >
      <Box sx={(theme) => ({ bgcolor: theme.inks.panel, borderTop: 2, px: 2.2, py: 1.2 })}>
        <Box sx={{ display: "flex", gap: 2.4, alignItems: "stretch", minHeight: 176 }}>
          <Told {...props} player={player} mix={mix} problem={found.problem} noteRef={note} acts={acts} />
          {mix ? <MixPicture pair={pair} mix={mix} player={player} /> : <Box sx={{ flex: 1 }} />}
        </Box>
        <MixButtons acts={acts} step={step} works={mix?.works ?? null} disabled={!mix} steps={props.steps} />
      </Box>
    </Drawer>
  );
}

/** So long before the overlap a joint is heard when all are heard one after the other. */
const THROUGH_S = 5;

/** The player has the mix as it stands; where a track plays, it is silent. */
function useMixPlayer(player: MixPlayer, pair: Pair, mix: Mix | undefined, keyHeld: boolean) {
  useEffect(() => {
    engine.pause();
    return () => player.close();
  }, [player]);
  const [out, into] = [pair.out.id, pair.into.id];
  useEffect(() => {
    if (mix) player.load({ tracks: { out, into }, mix, keyHeld });
  }, [player, mix, keyHeld, out, into]);
}

function useActs(
  { mix, move, set }: ReturnType<typeof useMix>,
  player: MixPlayer,
  step: Step,
  setStep: (step: Step) => void,
  say: (works: boolean | null) => void,
): MixActs {
  const on = (act: (mix: Mix) => void) => () => {
    if (mix) act(mix);
  };
  const by = (deck: "out" | "into", direction: 1 | -1) =>
    on((now) => move(stepOf(now, deck, step, direction)));
  const over = (direction: 1 | -1) => () =>
    set(({ over_bars = 0 }) => ({ over_bars: barsNext(over_bars, direction) }));
  const said = (works: boolean) => on((now) => say(now.works === works ? null : works));
  return {
    hear: on(() => player.toggle()),
    again: on(() => void player.play(-THROUGH_S)),
    earlier: by("out", -1),
    later: by("out", 1),
    inEarlier: by("into", -1),
    inLater: by("into", 1),
    step: () => setStep(following(STEPS, step)),
    shorter: over(-1),
    longer: over(1),
    drops: on(() => move({ out_beats: 0, in_beats: 0, drops_meet: true })),
    out: on((now) => set(({ out_s }) => nextPoint(now, "out", out_s))),
    into: on((now) => set(({ in_s }) => nextPoint(now, "into", in_s))),
    meet: () => set(nextMeet),
    fade: () => set(nextFade),
    low: () => set(nextLow),
    works: said(true),
    worksNot: said(false),
  };
}

interface Around {
  onStep?: (by: 1 | -1) => boolean;
  onClose: () => void;
  note: React.RefObject<HTMLInputElement | null>;
}

/** The keys, which are the drawer's own while it is open. */
function useKeyDown(acts: MixActs, { onStep, onClose, note }: Around) {
  const undo = useStepBack("undo");
  const redo = useStepBack("redo");
  const all: [KeyEntry, () => void][] = [
    ...Object.entries(acts).map(([name, act]): [KeyEntry, () => void] => [
      KEYS.mix[name as keyof MixActs],
      act,
    ]),
    [KEYS.mix.before, () => onStep?.(-1)],
    [KEYS.mix.after, () => onStep?.(1)],
    [KEYS.mix.note, () => note.current?.focus()],
    [KEYS.mix.close, onClose],
    [KEYS.everywhere.undo, () => undo.mutate()],
    [KEYS.everywhere.redo, () => redo.mutate()],
  ];
  return (event: React.KeyboardEvent) => {
    const key = pressed(event.nativeEvent);
    if (event.target instanceof HTMLInputElement || key === null) return;
    const onButton = event.target instanceof HTMLElement && event.target.closest("button") !== null;
    if (onButton && (event.key === " " || event.key === "Enter")) return;
    const found = all.find(([entry]) => keyOf(entry).split(", ").includes(key));
    if (!found) return;
    event.preventDefault();
    event.stopPropagation();
    found[1]();
  };
}

interface ToldProps extends Props {
  player: MixPlayer;
  mix: Mix | undefined;
  problem: string | null;
  noteRef: React.RefObject<HTMLInputElement | null>;
  acts: MixActs;
}

/** What it is, in words, at the left. */
function Told({ pair, mix, keyHeld, problem, player, cautions = [], note, onNote, noteRef }: ToldProps) {
  const { problem: unheard } = useSyncExternalStore(player.subscribe, player.snapshot);
  const wrong = problem ?? unheard;
  return (
    <Box sx={{ width: "15rem", flexShrink: 0, fontSize: "0.86rem", overflowWrap: "anywhere" }}>
      <Box component="h2" sx={{ m: 0, fontSize: "1rem" }}>
        The joint
      </Box>
      <Box sx={{ color: "text.secondary" }}>
        {pair.out.title} into {pair.into.title}
      </Box>
      <Box role="status" sx={{ color: wrong ? "error.main" : undefined, my: 0.6 }}>
        {wrong ?? (mix ? wordsOf(mix, keyHeld).join(" · ") : "It is being laid out…")}
      </Box>
      {cautions.map((words) => (
        <Box key={words} sx={{ color: "warning.main" }}>
          {words}
        </Box>
      ))}
      {onNote && (
        <Note key={`${pair.out.id} ${pair.into.id}`} note={note ?? ""} onNote={onNote} input={noteRef} />
      )}
    </Box>
  );
}

interface NoteProps {
  note: string;
  onNote: (note: string) => void;
  input: React.RefObject<HTMLInputElement | null>;
}

/** What to do there: kept when the field is left, by whatever way. */
function Note({ note, onNote, input }: NoteProps) {
  const [typed, setTyped] = useState(note);
  const kept = useRef({ typed, note, onNote });
  useEffect(() => {
    kept.current = { typed, note, onNote };
  });
  const keep = () => {
    const { typed: words, note: before, onNote: say } = kept.current;
    if (words.trim() !== before) say(words.trim());
  };
  useEffect(() => keep, []);
  return (
    <TextField
      fullWidth
      size="small"
      margin="dense"
      label="What to do there"
      value={typed}
      inputRef={input}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== "Escape") return;
        event.stopPropagation();
        event.preventDefault();
        input.current?.blur();
        input.current?.closest<HTMLElement>("[role=dialog]")?.focus();
      }}
      slotProps={{ htmlInput: { maxLength: MOST_NOTE } }}
    />
  );
}
