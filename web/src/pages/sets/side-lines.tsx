/** The lines at the side of a running order: suggestions, steps of a chain, what is in the tray; and what is done with them. */
import { Box, Button } from "@mui/material";
import { useEffect, useRef } from "react";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { toggleTrack } from "../../components/use-listening";
import { NAMES } from "../../theme";
import { usePickedUp } from "./set-dragging";
import { useSetChanges, type DjSet, type Entry, type Suggestion } from "./use-sets";

/** A line at the side: a suggestion, or a track in the tray. */
export interface Line {
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

/** Plays what is chosen from its main part, or pauses it. */
export function playLine({ track_id, duration_s, main_s }: Pick<Line, "track_id" | "duration_s" | "main_s">) {
  if (track_id !== null) toggleTrack({ id: track_id, duration_s, main_s });
}

function measuresOf({ bpm, key, energy }: { bpm: number | null; key: string | null; energy: number | null }) {
  return [bpm?.toFixed(2), key, energy === null ? null : `energy ${energy}`].filter(Boolean).join(" · ");
}

export const ofEntry = (entry: Entry): Line => ({
  ...entry,
  ...{ track_id: entry.on_shelf ? entry.track_id : null, entry: entry.id },
  ...{ measures: measuresOf(entry), reasons: entry.note },
  doubts: entry.cautions.map(({ words }) => words).join(", "),
});

export const ofSuggestion = (each: Suggestion): Line => ({
  ...each,
  ...{ entry: null, measures: measuresOf(each) },
  ...{ reasons: each.reasons.join(" · "), doubts: each.doubts.join(", ") },
});

export interface Acts {
  place: (line: Line) => void;
  tray: (line: Line) => void;
  takeOut: (line: Line) => void;
  placeAll: (ids: number[]) => void;
  trayAll: (ids: number[]) => void;
}

/** What is done with a line: it comes after the chosen track, into the tray, or out of it. */
export function useLineActs(set: DjSet, after: Entry | undefined, onPlaced: () => void): Acts {
  const changes = useSetChanges(set.id);
  const next = after ? set.order[set.order.findIndex(({ id }) => id === after.id) + 1] : undefined;
  const before = next?.id ?? null;
  const then = { onSuccess: onPlaced };
  return {
    place: ({ entry, track_id }) => {
      if (entry !== null) changes.move.mutate({ entry_ids: [entry], placed: true, before }, then);
      else if (track_id !== null) changes.add.mutate({ ids: [track_id], placed: true, before }, then);
    },
    tray: ({ entry, track_id }) => {
      if (entry === null && track_id !== null) changes.add.mutate({ ids: [track_id], placed: false });
    },
    takeOut: ({ entry }) => {
      if (entry !== null) changes.remove.mutate([entry]);
    },
    placeAll: (ids) => changes.add.mutate({ ids, placed: true, before }, then),
    trayAll: (ids) => changes.add.mutate({ ids, placed: false }),
  };
}

interface LineProps {
  line: Line;
  chosen: boolean;
  /** What Enter does with it. */
  action: string;
  onChoose: () => void;
  onPlace: () => void;
  onTray?: () => void;
}

export function SideLine({ line, chosen, action, onChoose, onPlace, onTray }: LineProps) {
  const box = useRef<HTMLDivElement>(null);
  const hand = usePickedUp(`line-${line.entry ?? `of ${line.track_id}`}`, line);
  useEffect(() => {
    if (chosen) box.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <Box
      ref={(element: HTMLDivElement | null) => {
        box.current = element;
        hand.setNode(element);
      }}
      {...hand.listeners}
      role="listitem"
      aria-current={chosen}
      data-line={line.title}
      onClick={onChoose}
      sx={(theme) => ({
        ...{ py: 0.9, px: 0.6, mx: -0.6, borderBottom: 1, borderColor: "divider", cursor: "pointer" },
        ...{ display: "flex", gap: 1, alignItems: "flex-start" },
        bgcolor: chosen ? theme.inks.chosenWash : undefined,
        opacity: hand.isDragging ? 0.5 : undefined,
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
          {action} {chosen && <KeyHint>{shown(KEYS.sets.place)}</KeyHint>}
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
