import { Box, Button, Typography } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Track } from "../../api/client";
import { useRows } from "../../components/use-rows";
import { FIGURES, NAMES } from "../../theme";

interface Left {
  text: string;
  sure: boolean;
}

/** What is left to do on a track, in one word. */
function whatIsLeft(track: Track): Left {
  if (track.away) return { text: "away", sure: false };
  if (track.analysis_state !== "done") return { text: track.analysis_state === "none" ? "waiting" : track.analysis_state, sure: false };
  if (track.bpm === null || (track.doubt ?? 0) >= 0.3) return { text: "grid?", sure: false };
  if (track.key === null || (track.key_confidence ?? 0) < 0.25) return { text: "key?", sure: false };
  return track.cues ? { text: "ready", sure: true } : { text: "cues", sure: true };
}

interface Props {
  name: string;
  ids: number[];
  current: number | null;
  /** Back to all tracks, where only some are gone through. */
  onAll: (() => void) | null;
}

/** The tracks that next and previous go through, each with what is left to do. */
export function Queue({ name, ids, current, onAll }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({ count: ids.length, getScrollElement: () => scroller.current, estimateSize: () => 48, overscan: 10 });
  const place = current === null ? -1 : ids.indexOf(current);
  useEffect(() => {
    if (place >= 0) rows.scrollToIndex(place, { align: "auto" });
  }, [place, rows]);
  const items = rows.getVirtualItems();
  const tracks = useRows(ids, items[0]?.index ?? 0, items.at(-1)?.index ?? 0);
  return (
    <Box component="nav" aria-label="To prepare" sx={(theme) => ({ bgcolor: theme.inks.panel, borderRight: 1, borderColor: "divider", display: "flex", flexDirection: "column", minHeight: 0 })}>
      <Box sx={{ display: "flex", justifyContent: "space-between", px: 1.7, py: 1.1 }}>
        <Typography variant="overline" noWrap sx={{ flex: 1 }}>{name}</Typography>
        {onAll && <Button onClick={onAll} sx={{ py: 0, my: -0.3, mr: 1, fontSize: "0.72rem" }}>All</Button>}
        <Typography variant="overline" sx={{ fontFamily: FIGURES }}>{ids.length.toLocaleString("en")}</Typography>
      </Box>
      <Box ref={scroller} sx={{ flex: 1, overflow: "auto" }}>
        <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
          {items.map((item) => {
            const id = ids[item.index];
            const track = id === undefined ? undefined : tracks.get(id);
            return track && <Entry key={track.id} track={track} top={item.start} current={track.id === current} />;
          })}
        </Box>
      </Box>
    </Box>
  );
}

function Entry({ track, top, current }: { track: Track; top: number; current: boolean }) {
  const left = whatIsLeft(track);
  return (
    <Box component={Link} to={`/workbench/${track.id}`} aria-current={current ? "true" : undefined}
      sx={(theme) => ({
        position: "absolute", top, left: 0, right: 0, height: 48, px: 1.7, py: 0.7, display: "grid", gridTemplateColumns: "minmax(0, 1fr) auto", columnGap: 1, rowGap: 0,
        textDecoration: "none", borderTop: 1, borderColor: "divider", color: current ? theme.inks.paper : theme.inks.ink, bgcolor: current ? theme.inks.ink : "transparent",
      })}>
      <Box sx={{ fontFamily: NAMES, fontWeight: 650, fontSize: "0.9rem", overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>{track.title}</Box>
      <Box sx={(theme) => ({ fontFamily: FIGURES, fontSize: "0.74rem", lineHeight: 1.8, color: current ? theme.inks.paper : left.sure ? theme.inks.sure : theme.inks.doubt })}>{left.text}</Box>
      <Box sx={{ fontSize: "0.78rem", opacity: 0.8, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>{track.artist}</Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.74rem", opacity: 0.8, textAlign: "right" }}>{track.bpm ? `${(track.doubt ?? 0) >= 0.6 ? "~" : ""}${Math.round(track.bpm)}` : ""}</Box>
    </Box>
  );
}
