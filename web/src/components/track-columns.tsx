import type { ReactNode } from "react";
import type { Track } from "../api/client";
import type { SortName } from "../api/queries";
import { Doubt } from "./doubt";
import { clock, day, lufs } from "./format";
import { KeyRing } from "./key-ring";
import { Marks } from "./marks";
import { Stars } from "./stars";

export interface Column {
  name: string;
  sort?: SortName;
  width: string;
  align?: "right";
  show: (track: Track, rate: (stars: number) => void) => ReactNode;
}

function Title({ track }: { track: Track }) {
  return (
    <span className="title">
      {track.title}
      {track.away && <span className="away">away</span>}
      <Marks track={track} />
    </span>
  );
}

function Tempo({ track }: { track: Track }) {
  if (track.bpm === null) return <span className="waiting">{WAITING[track.analysis_state]}</span>;
  const unsure = track.doubt !== null && track.doubt >= 0.6;
  return (
    <span className="figure" title={track.bpm_source ?? undefined}>
      {unsure ? `~${track.bpm.toFixed(1)}` : track.bpm.toFixed(2)}
    </span>
  );
}

function Key({ track }: { track: Track & { key: string } }) {
  const sure =
    track.key_confidence === null || track.key_source !== "analysis"
      ? ""
      : `, ${Math.round(track.key_confidence * 100)} of 100 sure`;
  const unsure = sure && (track.key_confidence ?? 1) < 0.5;
  return (
    <span className="key" title={`From ${track.key_source}${sure}`}>
      <KeyRing name={track.key} />
      {unsure ? `~${track.key}` : track.key}
    </span>
  );
}

function Energy({ value }: { value: number | null }) {
  if (value === null) return null;
  return (
    <span className="figure energy" title={`Energy ${value} of 100`}>
      {value}
      <i style={{ width: `${value * 0.24}px` }} />
    </span>
  );
}

const figure = (text: string) => <span className="figure">{text}</span>;
const WAITING: Record<Track["analysis_state"], string> = {
  done: "no beat",
  waiting: "waiting",
  paused: "paused",
  failed: "failed",
  none: "–",
};

export const COLUMNS: Column[] = [
  { name: "Title", sort: "title", width: "minmax(9rem, 2.2fr)", show: (t) => <Title track={t} /> },
  {
    name: "Artist",
    sort: "artist",
    width: "minmax(6rem, 1.3fr)",
    show: (t) => <span className="faint">{t.artist}</span>,
  },
  { name: "Tempo", sort: "bpm", width: "4.875rem", show: (t) => <Tempo track={t} /> },
  {
    name: "Key",
    sort: "key",
    width: "7rem",
    show: (t) => t.key !== null && <Key track={{ ...t, key: t.key }} />,
  },
  {
    name: "Length",
    sort: "duration_s",
    width: "3.875rem",
    align: "right",
    show: (t) => figure(clock(t.duration_s)),
  },
  { name: "Energy", sort: "energy", width: "3.9rem", show: (t) => <Energy value={t.energy} /> },
  { name: "LUFS", sort: "lufs", width: "3.625rem", align: "right", show: (t) => figure(lufs(t.lufs)) },
  {
    name: "Stars",
    sort: "rating",
    width: "5.75rem",
    show: (t, rate) => <Stars value={t.rating} onChange={rate} label={t.title} />,
  },
  {
    name: "Style",
    sort: "genre",
    width: "6.5rem",
    show: (t) => t.genre && <span className="tag">{t.genre}</span>,
  },
  { name: "Cues", width: "4.375rem", show: (t) => figure(t.cues || "–") },
  {
    name: "Added",
    sort: "added_at",
    width: "5.125rem",
    show: (t) => <span className="figure faint">{day(t.added_at)}</span>,
  },
  {
    name: "Doubt",
    sort: "doubt",
    width: "3.5rem",
    show: (t) => <Doubt value={t.doubt} reasons={t.doubt_reasons} />,
  },
];

/** Widths of the row's number and of the columns. */
export function gridOf(columns: Column[]): string {
  return `2.75rem ${columns.map((column) => column.width).join(" ")}`;
}
