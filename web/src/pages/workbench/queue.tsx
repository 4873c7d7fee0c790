import { Box, Button, MenuItem, Select } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Track } from "../../api/client";
import { Marks } from "../../components/marks";
import { useRows } from "../../components/tracks";
import { useSettings } from "../../settings";
import { FIGURES, NAMES } from "../../theme";
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

/** The tracks that next and previous go through, each with what is left to do. */
export function Queue({ queue, current }: { queue: QueueState; current: number | null }) {
  const { ids } = queue;
  const [asking, setAsking] = useState(false);
  const tall = useSettings().size === "large" ? 58 : 48;
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: ids.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => tall,
    overscan: 10,
  });
  useEffect(() => rows.measure(), [rows, tall]);
  const place = current === null ? -1 : ids.indexOf(current);
  useEffect(() => {
    if (place >= 0) rows.scrollToIndex(place, { align: "auto" });
  }, [place, rows]);
  const items = rows.getVirtualItems();
  const tracks = useRows(ids, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  return (
    <Box
      component="nav"
      aria-label="To prepare"
      sx={(theme) => ({
        bgcolor: theme.inks.panel,
        borderRight: 1,
        borderColor: "divider",
        display: "flex",
        flexDirection: "column",
        minHeight: 0,
      })}
    >
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
          {ids.length.toLocaleString("en")}
        </Box>
        <Button
          onClick={() => setAsking(true)}
          title="When a track is finished"
          sx={{ px: 0.7, py: 0, fontSize: "0.72rem" }}
        >
          Rules
        </Button>
      </Box>
      <Box ref={scroller} sx={{ flex: 1, overflow: "auto" }}>
        <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
          {items.map((item) => {
            const id = ids[item.index];
            const track = id === undefined ? undefined : tracks.get(id);
            return (
              track && (
                <Entry
                  key={track.id}
                  track={track}
                  top={item.start}
                  tall={tall}
                  current={track.id === current}
                />
              )
            );
          })}
        </Box>
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

function Entry({ track, top, tall, current }: { track: Track; top: number; tall: number; current: boolean }) {
  const left = whatIsLeft(track);
  return (
    <Box
      component={Link}
      to={`/workbench/${track.id}`}
      aria-current={current ? "true" : undefined}
      sx={(theme) => ({
        position: "absolute",
        top,
        left: 0,
        right: 0,
        height: tall,
        px: 1.7,
        py: 0.7,
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) auto",
        columnGap: 1,
        rowGap: 0,
        textDecoration: "none",
        borderTop: 1,
        borderColor: "divider",
        color: current ? theme.inks.paper : theme.inks.ink,
        bgcolor: current ? theme.inks.ink : "transparent",
      })}
    >
      <Box
        sx={{
          fontFamily: NAMES,
          fontWeight: 650,
          fontSize: "0.9rem",
          overflow: "hidden",
          textOverflow: "ellipsis",
          whiteSpace: "nowrap",
        }}
      >
        {track.title}
      </Box>
      <Box
        sx={(theme) => ({
          fontFamily: FIGURES,
          fontSize: "0.7rem",
          lineHeight: 1.9,
          color: current ? theme.inks.paper : left.done ? theme.inks.sure : theme.inks.doubt,
        })}
      >
        {left.text}
      </Box>
      <Box
        sx={{
          fontSize: "0.78rem",
          opacity: 0.8,
          overflow: "hidden",
          textOverflow: "ellipsis",
          whiteSpace: "nowrap",
        }}
      >
        {track.artist}
        <Marks track={track} />
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.74rem", opacity: 0.8, textAlign: "right" }}>
        {track.bpm ? `${(track.doubt ?? 0) >= 0.6 ? "~" : ""}${Math.round(track.bpm)}` : ""}
      </Box>
    </Box>
  );
}
