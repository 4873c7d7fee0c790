/** Beside the running order: what can come after the chosen track, with its reasons; a chain of such; or the tray. */
import { Box, Chip, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { useRested } from "../../components/use-rested";
import { useRemembered } from "../../settings";
import {
  FILTERS,
  PARTS,
  suggestionsQuery,
  USUAL_PARTS,
  type DjSet,
  type Entry,
  type Filter,
  type PartWeights,
  type Suggestion,
} from "./use-sets";
import { chainActs, ChainHead, chainLines, useChainKeys } from "./chain-side";
import { TRAY, useTraySpot } from "./set-dragging";
import { ofEntry, ofSuggestion, playLine, SideLine, useLineActs, type Acts, type Line } from "./side-lines";
import { useChain, type Chain } from "./use-chain";
import { useWeights } from "./use-weights";
import { Weights } from "./weights";

const WEEKS = 4;
const NONE: readonly Suggestion[] = [];
/** So long nobody has moved a slider before suggestions are asked for. */
const REST_MS = 250;

interface Props {
  set: DjSet;
  after: Entry | undefined;
  active: boolean;
  onActive: (active: boolean) => void;
  onPlaced: () => void;
}

const SIDES = ["next", "chain", "tray"] as const;
type Side = (typeof SIDES)[number];

export function SidePanel({ set, after, active, onActive, onPlaced }: Props) {
  const [side, setSide] = useRemembered<Side>("sets.side", "tray");
  const [wanted, setWanted] = useRemembered<Filter[]>("sets.filters", []);
  const [weights, setWeights] = useWeights("sets.parts", USUAL_PARTS);
  const rested = useRested(weights, REST_MS);
  const [at, setAt] = useState(0);
  const chain = useChain(set.id);
  const from = side === "chain" ? chain.at : after;
  const track = from?.on_shelf ? (from.track_id ?? 0) : 0;
  const found = useGoingOn(set.id, side === "tray" ? 0 : track, wanted, rested);
  const { goesOn } = found;
  const all = { next: goesOn, chain: chainLines(chain, goesOn, set, after), tray: set.tray.map(ofEntry) };
  const lines = all[side];
  const place = Math.min(at, Math.max(0, lines.length - 1));
  const acts = useLineActs(set, after, onPlaced);
  const onLine = side === "chain" ? { ...acts, ...chainActs(chain, () => setAt(0)) } : acts;
  useSideKeys({ lines, place, active, side, setAt, setSide, acts: onLine });
  useChainKeys({ chain, active: active && side === "chain", setAt, acts });
  const title = titleOf(side, chain, after);
  const fromTray = side === "tray" || (side === "chain" && !chain.at);
  return (
    <SideBox title={title} onActive={() => onActive(true)}>
      <SideHead
        title={title}
        {...{ side, setSide, wanted, setWanted, weights, setWeights }}
        tray={set.tray.length}
      />
      {side === "chain" && <ChainHead {...{ chain, acts }} onGone={() => setAt(0)} />}
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
            action={side === "chain" ? (chain.at ? "Go on" : "Begin") : "Place"}
            onPlace={() => onLine.place(line)}
            onTray={fromTray ? undefined : () => acts.tray(line)}
          />
        ))}
        {!lines.length && <Nothing side={side} from={from} busy={found.busy} filters={wanted.length} />}
      </Box>
    </SideBox>
  );
}

interface SideBoxProps {
  title: string;
  onActive: () => void;
  children: React.ReactNode;
}

/** What is let go on it goes into the tray. */
function SideBox({ title, onActive, children }: SideBoxProps) {
  const { setNode, isOver } = useTraySpot();
  return (
    <Box
      component="aside"
      ref={setNode}
      data-drop={TRAY}
      aria-label={title}
      onClick={onActive}
      sx={(theme) => ({
        ...{ bgcolor: theme.inks.panel, borderLeft: 1, borderColor: "divider", minHeight: 0, minWidth: 0 },
        ...{ display: "flex", flexDirection: "column" },
        ...(isOver && { outline: `2px dashed ${theme.inks.chosen}`, outlineOffset: -3 }),
      })}
    >
      {children}
    </Box>
  );
}

/** What goes on from a track; nothing while what is there is of another one: Enter would take the wrong track. */
function useGoingOn(setId: number, track: number, wanted: Filter[], weights: PartWeights) {
  const found = useQuery({
    ...suggestionsQuery(setId, track, wanted, WEEKS, weights),
    enabled: track > 0,
  });
  const own = track > 0 && found.data?.after === track ? found.data.lines : NONE;
  return { goesOn: useMemo(() => own.map(ofSuggestion), [own]), busy: found.isFetching };
}

function titleOf(side: Side, chain: Chain, after: Entry | undefined): string {
  if (side === "tray") return "The tray";
  if (side === "chain") return chain.at ? `On from ${chain.at.title}` : "Where a chain begins";
  return after ? `After ${after.title}` : "What can come next";
}

interface SideKeys {
  lines: readonly Line[];
  place: number;
  active: boolean;
  side: Side;
  setAt: (place: number) => void;
  setSide: (side: Side) => void;
  acts: Pick<Acts, "place" | "tray" | "takeOut">;
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
  useKeys(KEYS.sets.which, () => setSide(SIDES[(SIDES.indexOf(side) + 1) % SIDES.length] ?? "tray"));
}

interface HeadProps {
  title: string;
  side: Side;
  setSide: (side: Side) => void;
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
        onChange={(_, value: Side | null) => value && setSide(value)}
        aria-label="Which side"
        sx={{ mt: 0.8 }}
      >
        <ToggleButton value="next" sx={{ py: 0.2, fontSize: "0.78rem", color: "text.primary" }}>
          goes on
        </ToggleButton>
        <ToggleButton value="chain" sx={{ py: 0.2, fontSize: "0.78rem", color: "text.primary" }}>
          chain
        </ToggleButton>
        <ToggleButton value="tray" sx={{ py: 0.2, fontSize: "0.78rem", color: "text.primary" }}>
          tray {tray} <KeyHint>{shown(KEYS.sets.which)}</KeyHint>
        </ToggleButton>
      </ToggleButtonGroup>
      {side !== "tray" && <Wishes {...{ wanted, toggle, weights, setWeights }} />}
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

interface NothingProps {
  side: Side;
  from: { title: string; on_shelf: boolean } | undefined;
  busy: boolean;
  filters: number;
}

function Nothing({ side, from, busy, filters }: NothingProps) {
  const words =
    side === "tray"
      ? "The tray is empty. On the Shelf and in crates, Alt S puts what is chosen into it; here, T puts in what goes on from a track."
      : busy
        ? "Looking…"
        : !from
          ? side === "chain"
            ? "Put a track into the tray, or place one: a chain begins with it, and goes on to what goes with it."
            : "Choose a track of the running order: what goes on from it stands here."
          : !from.on_shelf
            ? `“${from.title}” is not on the Shelf any more.`
            : filters
              ? "Nothing is all of that. Take a filter away."
              : "Nothing on the Shelf goes on from here by key and tempo.";
  return <Box sx={{ color: "text.secondary", py: 1.6, fontSize: "0.88rem" }}>{words}</Box>;
}
