/** Beside the running order: what can come after the chosen track, with its reasons; or the tray. */
import { Box, Button, Chip, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { toggleTrack } from "../../components/use-listening";
import { useRested } from "../../components/use-rested";
import { useRemembered } from "../../settings";
import { NAMES } from "../../theme";
import {
  FILTERS,
  PARTS,
  suggestionsQuery,
  USUAL_PARTS,
  useSetChanges,
  type DjSet,
  type Entry,
  type Filter,
  type PartWeights,
  type Suggestion,
} from "./use-sets";
import { useWeights } from "./use-weights";
import { Weights } from "./weights";

const WEEKS = 4;
/** So long nobody has moved a slider before suggestions are asked for. */
const REST_MS = 250;

/** A line at the side: a suggestion, or a track in the tray. */
interface Line {
  track_id: number | null;
  duration_s: number;
  main_s: number | null;
  entry: number | null;
  title: string;
  artist: string;
  measures: string;
  reasons: string;
  doubts: string;
}

interface Props {
  set: DjSet;
  after: Entry | undefined;
  active: boolean;
  onActive: (active: boolean) => void;
  onPlaced: () => void;
}

export function SidePanel({ set, after, active, onActive, onPlaced }: Props) {
  const [side, setSide] = useRemembered<"next" | "tray">("sets.side", "tray");
  const [wanted, setWanted] = useRemembered<Filter[]>("sets.filters", []);
  const [weights, setWeights] = useWeights("sets.parts", USUAL_PARTS);
  const rested = useRested(weights, REST_MS);
  const [at, setAt] = useState(0);
  const track = after?.on_shelf ? (after.track_id ?? 0) : 0;
  const found = useQuery({
    ...suggestionsQuery(set.id, track, wanted, WEEKS, rested),
    enabled: track > 0 && side === "next",
  });
  const lines = side === "tray" ? set.tray.map(ofEntry) : (found.data ?? []).map(ofSuggestion);
  const place = Math.min(at, Math.max(0, lines.length - 1));
  const acts = useLineActs(set, after, side, onPlaced);
  useSideKeys({ lines, place, active, side, setAt, setSide, acts });
  const next = after ? `After ${after.title}` : "What can come next";
  return (
    <Box
      component="aside"
      aria-label={side === "tray" ? "The tray" : next}
      onClick={() => onActive(true)}
      sx={(theme) => ({
        ...{ bgcolor: theme.inks.panel, borderLeft: 1, borderColor: "divider", minHeight: 0, minWidth: 0 },
        ...{ display: "flex", flexDirection: "column" },
      })}
    >
      <SideHead
        title={side === "tray" ? "The tray" : next}
        {...{ side, setSide, wanted, setWanted, weights, setWeights }}
        tray={set.tray.length}
      />
      <Box
        role="list"
        aria-label="What can be placed"
        sx={{ flex: 1, minHeight: 0, overflow: "auto", px: 1.6 }}
      >
        {lines.map((line, number) => (
          <SideLine
            key={line.entry ?? line.track_id ?? number}
            line={line}
            chosen={active && number === place}
            onChoose={() => setAt(number)}
            onPlace={() => acts.place(line)}
            onTray={side === "next" ? () => acts.tray(line) : undefined}
          />
        ))}
        {!lines.length && (
          <Nothing side={side} after={after} busy={found.isFetching} filters={wanted.length} />
        )}
      </Box>
    </Box>
  );
}

/** Plays what is chosen from its main part, or pauses it. */
export function playLine({ track_id, duration_s, main_s }: Pick<Line, "track_id" | "duration_s" | "main_s">) {
  if (track_id !== null) toggleTrack({ id: track_id, duration_s, main_s });
}

function measuresOf({ bpm, key, energy }: { bpm: number | null; key: string | null; energy: number | null }) {
  return [bpm?.toFixed(2), key, energy === null ? null : `energy ${energy}`].filter(Boolean).join(" · ");
}

const ofEntry = (entry: Entry): Line => ({
  ...entry,
  ...{ track_id: entry.on_shelf ? entry.track_id : null, entry: entry.id },
  ...{ measures: measuresOf(entry), reasons: entry.note },
  doubts: entry.cautions.map(({ words }) => words).join(", "),
});

const ofSuggestion = (each: Suggestion): Line => ({
  ...each,
  ...{ entry: null, measures: measuresOf(each) },
  ...{ reasons: each.reasons.join(" · "), doubts: each.doubts.join(", ") },
});

interface Acts {
  place: (line: Line) => void;
  tray: (line: Line) => void;
  takeOut: (line: Line) => void;
}

/** What is done with a line: it comes after the chosen track, into the tray, or out of it. */
function useLineActs(
  set: DjSet,
  after: Entry | undefined,
  side: "next" | "tray",
  onPlaced: () => void,
): Acts {
  const changes = useSetChanges(set.id);
  const next = after ? set.order[set.order.findIndex(({ id }) => id === after.id) + 1] : undefined;
  const before = next?.id ?? null;
  const then = { onSuccess: onPlaced };
  return {
    place: ({ entry, track_id }) => {
      if (entry !== null) changes.move.mutate({ entry_ids: [entry], placed: true, before }, then);
      else if (track_id !== null) changes.add.mutate({ ids: [track_id], placed: true, before }, then);
    },
    tray: ({ track_id }) => {
      if (side === "next" && track_id !== null) changes.add.mutate({ ids: [track_id], placed: false });
    },
    takeOut: ({ entry }) => {
      if (entry !== null) changes.remove.mutate([entry]);
    },
  };
}

interface SideKeys {
  lines: readonly Line[];
  place: number;
  active: boolean;
  side: "next" | "tray";
  setAt: (place: number) => void;
  setSide: (side: "next" | "tray") => void;
  acts: Acts;
}

function useSideKeys({ lines, place, active, side, setAt, setSide, acts }: SideKeys) {
  const line = lines[place];
  const onLine = (act: (line: Line) => void) => () => {
    if (active && line) act(line);
  };
  const to = (other: number) => active && setAt(Math.max(0, Math.min(lines.length - 1, other)));
  useKeys(KEYS.lists.move, () => to(place - 1));
  useKeys(KEYS.lists.down, () => to(place + 1));
  useKeys(KEYS.sets.play, onLine(playLine));
  useKeys(KEYS.sets.place, onLine(acts.place));
  useKeys(KEYS.sets.tray, onLine(acts.tray));
  useKeys(KEYS.sets.takeOut, onLine(acts.takeOut));
  useKeys(KEYS.sets.which, () => setSide(side === "tray" ? "next" : "tray"));
}

interface HeadProps {
  title: string;
  side: "next" | "tray";
  setSide: (side: "next" | "tray") => void;
  wanted: Filter[];
  setWanted: (wanted: Filter[]) => void;
  weights: PartWeights;
  setWeights: (weights: PartWeights) => void;
  tray: number;
}

function SideHead({ title, side, setSide, wanted, setWanted, weights, setWeights, tray }: HeadProps) {
  const toggle = (filter: Filter) =>
    setWanted(wanted.includes(filter) ? wanted.filter((each) => each !== filter) : [...wanted, filter]);
  return (
    <Box sx={{ p: 1.6, pb: 1, borderBottom: 1, borderColor: "divider" }}>
      <Typography variant="h2" sx={{ overflowWrap: "anywhere" }}>
        {title}
      </Typography>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={side}
        onChange={(_, value: "next" | "tray" | null) => value && setSide(value)}
        aria-label="Which side"
        sx={{ mt: 0.8 }}
      >
        <ToggleButton value="next" sx={{ py: 0.2, fontSize: "0.78rem", color: "text.primary" }}>
          goes on
        </ToggleButton>
        <ToggleButton value="tray" sx={{ py: 0.2, fontSize: "0.78rem", color: "text.primary" }}>
          tray {tray} <KeyHint>{shown(KEYS.sets.which)}</KeyHint>
        </ToggleButton>
      </ToggleButtonGroup>
      {side === "next" && <Wishes {...{ wanted, toggle, weights, setWeights }} />}
    </Box>
  );
}

interface WishesProps {
  wanted: Filter[];
  toggle: (filter: Filter) => void;
  weights: PartWeights;
  setWeights: (weights: PartWeights) => void;
}

/** What suggestions must be, and what weighs how much among them. */
function Wishes({ wanted, toggle, weights, setWeights }: WishesProps) {
  const [open, setOpen] = useState(false);
  const own = Object.values(weights).some((weight) => weight !== 1);
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, mt: 1 }}>
        {FILTERS.map((filter) => (
          <Chip
            key={filter}
            size="small"
            label={filter}
            variant="outlined"
            color={wanted.includes(filter) ? "secondary" : "default"}
            onClick={() => toggle(filter)}
            aria-pressed={wanted.includes(filter)}
          />
        ))}
        <Chip
          size="small"
          variant="outlined"
          color={own ? "secondary" : "default"}
          label={open ? "what weighs ▴" : "what weighs ▾"}
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        />
      </Box>
      {open && (
        <Box sx={{ mt: 1 }}>
          <Weights words={PARTS} usual={USUAL_PARTS} weights={weights} onChange={setWeights} />
        </Box>
      )}
    </>
  );
}

interface LineProps {
  line: Line;
  chosen: boolean;
  onChoose: () => void;
  onPlace: () => void;
  onTray?: () => void;
}

function SideLine({ line, chosen, onChoose, onPlace, onTray }: LineProps) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (chosen) box.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <Box
      ref={box}
      role="listitem"
      aria-current={chosen}
      data-line={line.title}
      onClick={onChoose}
      sx={(theme) => ({
        ...{ py: 0.9, px: 0.6, mx: -0.6, borderBottom: 1, borderColor: "divider", cursor: "pointer" },
        ...{ display: "flex", gap: 1, alignItems: "flex-start" },
        bgcolor: chosen ? theme.inks.chosenWash : undefined,
      })}
    >
      <Box sx={{ flex: 1, minWidth: 0, fontSize: "0.84rem" }}>
        <Box component="span" sx={{ fontFamily: NAMES, fontWeight: 600, fontSize: "0.94rem" }}>
          {line.title || "without a title"}
        </Box>{" "}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {line.artist}
        </Box>
        <Box>{line.measures}</Box>
        <Box sx={{ color: "text.secondary" }}>{line.reasons}</Box>
        {line.doubts && <Box sx={{ color: chosen ? undefined : "warning.main" }}>{line.doubts}</Box>}
      </Box>
      <Box sx={{ display: "flex", flexDirection: "column", gap: 0.4 }}>
        <Button size="small" onClick={onPlace}>
          Place {chosen && <KeyHint>{shown(KEYS.sets.place)}</KeyHint>}
        </Button>
        {onTray && (
          <Button size="small" onClick={onTray}>
            Tray {chosen && <KeyHint>{shown(KEYS.sets.tray)}</KeyHint>}
          </Button>
        )}
      </Box>
    </Box>
  );
}

interface NothingProps {
  side: "next" | "tray";
  after: Entry | undefined;
  busy: boolean;
  filters: number;
}

function Nothing({ side, after, busy, filters }: NothingProps) {
  const words =
    side === "tray"
      ? "The tray is empty. On the Shelf and in crates, Alt S puts what is chosen into it; here, T puts in what goes on from a track."
      : busy
        ? "Looking…"
        : !after
          ? "Choose a track of the running order: what goes on from it stands here."
          : filters
            ? "Nothing is all of that. Take a filter away."
            : "Nothing on the Shelf goes on from here by key and tempo.";
  return <Box sx={{ color: "text.secondary", py: 1.6, fontSize: "0.88rem" }}>{words}</Box>;
}
