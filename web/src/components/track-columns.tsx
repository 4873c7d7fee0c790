import { Box } from "@mui/material";
import type { ReactNode } from "react";
import type { Track } from "../api/client";
import type { SortName } from "../api/queries";
import { FIGURES } from "../theme";
import { Doubt } from "./doubt";
import { clock, day, lufs } from "./format";
import { KeyRing } from "./key-ring";
import { Stars } from "./stars";

export interface Column {
  name: string;
  sort?: SortName;
  width: string;
  align?: "right";
  show: (track: Track, rate: (stars: number) => void) => ReactNode;
}

const figure = { fontFamily: FIGURES, fontSize: "0.92em" } as const;

function Tempo({ track }: { track: Track }) {
  if (track.bpm === null) return <Box component="span" sx={{ color: "text.secondary", fontSize: "0.85em" }}>{WAITING[track.analysis_state]}</Box>;
  const unsure = track.doubt !== null && track.doubt >= 0.6;
  return <Box component="span" sx={figure} title={track.bpm_source ?? undefined}>{unsure ? `~${track.bpm.toFixed(1)}` : track.bpm.toFixed(2)}</Box>;
}

const WAITING: Record<Track["analysis_state"], string> = { done: "no beat", waiting: "waiting", paused: "paused", failed: "failed", none: "–" };

export const COLUMNS: Column[] = [
  { name: "Title", sort: "title", width: "minmax(150px, 2.2fr)", show: (t) => <Box component="span" sx={{ fontWeight: 650, fontSize: "1.03em" }}>{t.title}{t.away && <Box component="span" sx={{ ml: 1, fontWeight: 400, fontSize: "0.8em", color: "warning.main" }}>away</Box>}</Box> },
  { name: "Artist", sort: "artist", width: "minmax(100px, 1.3fr)", show: (t) => <Box component="span" sx={{ color: "text.secondary" }}>{t.artist}</Box> },
  { name: "Tempo", sort: "bpm", width: "78px", show: (t) => <Tempo track={t} /> },
  { name: "Key", sort: "key", width: "112px", show: (t) => t.key && <Box component="span" sx={{ display: "flex", gap: 0.8, alignItems: "center" }}><KeyRing name={t.key} />{t.key}</Box> },
  { name: "Length", sort: "duration_s", width: "62px", align: "right", show: (t) => <Box component="span" sx={figure}>{clock(t.duration_s)}</Box> },
  { name: "LUFS", sort: "lufs", width: "58px", align: "right", show: (t) => <Box component="span" sx={figure}>{lufs(t.lufs)}</Box> },
  { name: "Stars", sort: "rating", width: "92px", show: (t, rate) => <Stars value={t.rating} onChange={rate} label={t.title} /> },
  { name: "Style", sort: "genre", width: "104px", show: (t) => t.genre && <Box component="span" sx={{ border: 1, borderColor: "divider", borderRadius: "3px", px: 0.7, py: 0.1, fontSize: "0.85em", bgcolor: "background.paper" }}>{t.genre}</Box> },
  { name: "Cues", width: "70px", show: (t) => <Box component="span" sx={figure}>{t.cues || "–"}</Box> },
  { name: "Added", sort: "added_at", width: "82px", show: (t) => <Box component="span" sx={{ ...figure, color: "text.secondary" }}>{day(t.added_at)}</Box> },
  { name: "Doubt", sort: "doubt", width: "56px", show: (t) => <Doubt value={t.doubt} reasons={t.doubt_reasons} /> },
];

/** Widths of the row's number and of the columns. */
export function gridOf(columns: Column[]): string {
  return `44px ${columns.map((column) => column.width).join(" ")}`;
}
