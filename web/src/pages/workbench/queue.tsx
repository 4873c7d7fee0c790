/** The list of tracks beside the Workbench. */
import { Box, Button, MenuItem, Select } from "@mui/material";
import { useVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Track } from "../../api/client";
import { KEYS } from "../../components/keys";
import { Marks } from "../../components/marks";
import { FoldSign, Strip } from "../../components/strip";
import { useRows } from "../../components/tracks";
import { useKeys } from "../../components/use-keys";
import { useRemembered, useSettings } from "../../settings";
import { FIGURES, NAMES, TYPE_PX } from "../../theme";
import { FinishDialog } from "./finish-dialog";
import type { Queue as QueueState } from "./queue-order";

interface Left {
  text: string;
  done: boolean;
}

const WORDS: Record<Track["left"][number], string> = {
  grid: "grid?",
  key: "key?",
  cues: "cues",
  tags: "tags",
};

/** What is left to do on a track by the user's rules, in few words. */
function whatIsLeft(track: Track): Left {
  if (track.away) return { text: "away", done: false };
  if (track.analysis_state === "failed") return { text: "failed", done: false };
  if (track.bpm === null && track.analysis_state !== "done")
    return { text: track.analysis_state === "none" ? "waiting" : track.analysis_state, done: false };
  return track.left.length
    ? { text: track.left.map((part) => WORDS[part]).join(" "), done: false }
    : { text: "✓ done", done: true };
}

const FOLD = { name: "what to prepare", entry: KEYS.track.foldList, side: "left" } as const;

type Rows = Virtualizer<HTMLDivElement, Element>;

/** The tracks that next and previous go through, each with what is left to do. */
export function Queue({ queue, current }: { queue: QueueState; current: number | null }) {
  const { ids } = queue;
  const [asking, setAsking] = useState(false);
  const scroller = useRef<HTMLDivElement>(null);
  const tall = Math.round((48 / 16) * TYPE_PX[useSettings().size]);
  const rows: Rows = useVirtualizer({
    count: ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => tall,
    overscan: 10,
  });
  useEffect(() => rows.measure(), [rows, tall]);
  const place = current === null ? -1 : ids.indexOf(current);
  const [isFolded, setFolded] = useRemembered("queue folded", false);
  const fold = () => setFolded(!isFolded);
  useKeys(KEYS.track.foldList, fold);
  useEffect(() => {
    if (place >= 0) rows.scrollToIndex(place, { align: "auto" });
  }, [place, rows]);
  if (isFolded) return <Strip {...FOLD} onClick={fold} />;
  return (
    <Box
      component="nav"
      aria-label="To prepare"
      sx={(theme) => ({
        width: "13.5rem",
        ...{ bgcolor: theme.inks.panel, borderRight: 1, borderColor: "divider" },
        ...{ display: "flex", flexDirection: "column", minHeight: 0 },
      })}
    >
      <Choice queue={queue} onRules={() => setAsking(true)} onFold={fold} />
      <Box ref={scroller} sx={{ flex: 1, overflow: "auto" }}>
        <Entries ids={ids} rows={rows} tall={tall} current={current} />
        {!ids.length && (
          <Box sx={{ px: 1.7, py: 1, fontSize: "0.8rem", color: "text.secondary" }}>
            Nothing in this list.
          </Box>
        )}
      </Box>
      {asking && <FinishDialog onClose={() => setAsking(false)} />}
    </Box>
  );
}

interface ChoiceProps {
  queue: QueueState;
  onRules: () => void;
  onFold: () => void;
}

/** Which list is gone through, and how long it is. */
function Choice({ queue, onRules, onFold }: ChoiceProps) {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.6, pl: 1.7, pr: 1, py: 0.7 }}>
      <Select
        variant="standard"
        disableUnderline
        MenuProps={{ disableRestoreFocus: true }}
        value={queue.list}
        onChange={(e) => queue.choose(e.target.value)}
        SelectDisplayProps={{ id: "queue-list", "aria-label": "What to prepare" }}
        sx={{ flex: 1, minWidth: 0, fontSize: "0.76rem", fontWeight: 600, color: "text.secondary" }}
      >
        {queue.lists.map((list) => (
          <MenuItem key={list.value} value={list.value}>
            {list.name}
          </MenuItem>
        ))}
      </Select>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.74rem", color: "text.secondary" }}>
        {queue.more > 0 && "first "}
        {queue.ids.length.toLocaleString("en")}
      </Box>
      <Button onClick={onRules} title="When a track is finished" sx={{ px: 0.7, py: 0, fontSize: "0.72rem" }}>
        Rules
      </Button>
      <FoldSign {...FOLD} onClick={onFold} />
    </Box>
  );
}

interface EntriesProps {
  ids: number[];
  rows: Rows;
  tall: number;
  current: number | null;
}

function Entries({ ids, rows, tall, current }: EntriesProps) {
  const items = rows.getVirtualItems();
  const tracks = useRows(ids, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  return (
    <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
      {items.map(({ index, start }) => {
        const track = tracks.get(ids[index] ?? -1);
        return (
          track && (
            <Entry key={track.id} track={track} top={start} tall={tall} current={track.id === current} />
          )
        );
      })}
    </Box>
  );
}

const CUT = { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" } as const;

interface EntryProps {
  track: Track;
  top: number;
  tall: number;
  current: boolean;
}

function Entry({ track, top, tall, current }: EntryProps) {
  return (
    <Box
      component={Link}
      to={`/workbench/${track.id}`}
      aria-current={current ? "true" : undefined}
      sx={(theme) => ({
        ...{ position: "absolute", top, left: 0, right: 0, height: tall, px: 1.7, py: 0.7 },
        ...{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) auto", columnGap: 1, rowGap: 0 },
        ...{ textDecoration: "none", borderTop: 1, borderColor: "divider" },
        color: current ? theme.inks.paper : theme.inks.ink,
        bgcolor: current ? theme.inks.ink : "transparent",
      })}
    >
      <Box sx={{ ...CUT, fontFamily: NAMES, fontWeight: 650, fontSize: "0.9rem" }}>{track.title}</Box>
      <WhatIsLeft track={track} current={current} />
      <Box sx={{ ...CUT, fontSize: "0.78rem", opacity: 0.8 }}>
        {track.artist}
        <Marks track={track} />
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.74rem", opacity: 0.8, textAlign: "right" }}>
        {track.bpm ? tempoOf(track, track.bpm) : ""}
      </Box>
    </Box>
  );
}

/** The tempo in short, with the other one that may be meant. */
function tempoOf(track: Track, bpm: number): string {
  const other = track.other_bpm ? ` or ${Math.round(track.other_bpm)}` : "";
  return `${(track.doubt ?? 0) >= 0.6 ? "~" : ""}${Math.round(bpm)}${other}`;
}

function WhatIsLeft({ track, current }: { track: Track; current: boolean }) {
  const left = whatIsLeft(track);
  return (
    <Box
      sx={({ inks }) => ({
        ...{ fontFamily: FIGURES, fontSize: "0.7rem", lineHeight: 1.9, textAlign: "right" },
        color: current ? inks.paper : left.done ? inks.sure : inks.doubt,
      })}
    >
      {left.text}
    </Box>
  );
}
