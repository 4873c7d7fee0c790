/** The columns of the track table: what each shows, how wide it is, and what it sorts by. */
import { createColumnHelper, type RowData } from "@tanstack/react-table";
import type { Track } from "../api/client";
import type { SortName } from "../api/queries";
import { Doubt } from "./doubt";
import { clock, day, lufs } from "./format";
import { KeyRing } from "./key-ring";
import { Marks } from "./marks";
import { Stars } from "./stars";

declare module "@tanstack/react-table" {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  interface ColumnMeta<TData extends RowData, TValue> {
    width: string;
    sort?: SortName;
    right?: true;
  }
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  interface TableMeta<TData extends RowData> {
    rate: (id: number, stars: number) => void;
  }
}

function Title({ track }: { track: Track }) {
  return (
    <span className="title">
      {track.title}
      {track.away && <span className="away">away</span>}
      {track.replaced && (
        <span className="away" title="The file holds another sound than before: check grid and cues">
          replaced
        </span>
      )}
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

function Key({ track, name }: { track: Track; name: string }) {
  const told = track.key_confidence !== null && track.key_source === "analysis";
  const sure = told ? `, ${Math.round((track.key_confidence ?? 0) * 100)} of 100 sure` : "";
  const unsure = told && (track.key_confidence ?? 1) < 0.5;
  return (
    <span className="key" title={`From ${track.key_source}${sure}`}>
      <KeyRing name={name} />
      {unsure ? `~${name}` : name}
    </span>
  );
}

function Energy({ value }: { value: number }) {
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

const column = createColumnHelper<Track>();

export const COLUMNS = [
  column.display({
    id: "Title",
    meta: { sort: "title", width: "minmax(9rem, 2.2fr)" },
    cell: ({ row }) => <Title track={row.original} />,
  }),
  column.display({
    id: "Artist",
    meta: { sort: "artist", width: "minmax(6rem, 1.3fr)" },
    cell: ({ row }) => <span className="faint">{row.original.artist}</span>,
  }),
  column.display({
    id: "Tempo",
    meta: { sort: "bpm", width: "4.875rem" },
    cell: ({ row }) => <Tempo track={row.original} />,
  }),
  column.display({
    id: "Key",
    meta: { sort: "key", width: "7rem" },
    cell: ({ row: { original: t } }) => t.key !== null && <Key track={t} name={t.key} />,
  }),
  column.display({
    id: "Length",
    meta: { sort: "duration_s", width: "3.875rem", right: true },
    cell: ({ row }) => figure(clock(row.original.duration_s)),
  }),
  column.display({
    id: "Energy",
    meta: { sort: "energy", width: "3.9rem" },
    cell: ({ row: { original: t } }) => t.energy !== null && <Energy value={t.energy} />,
  }),
  column.display({
    id: "LUFS",
    meta: { sort: "lufs", width: "3.625rem", right: true },
    cell: ({ row }) => figure(lufs(row.original.lufs)),
  }),
  column.display({
    id: "Stars",
    meta: { sort: "rating", width: "5.75rem" },
    cell: ({ row: { original: t }, table }) => (
      <Stars value={t.rating} onChange={(stars) => table.options.meta?.rate(t.id, stars)} label={t.title} />
    ),
  }),
  column.display({
    id: "Style",
    meta: { sort: "genre", width: "6.5rem" },
    cell: ({ row }) => row.original.genre && <span className="tag">{row.original.genre}</span>,
  }),
  column.display({
    id: "Cues",
    meta: { width: "4.375rem" },
    cell: ({ row }) => figure(row.original.cues || "–"),
  }),
  column.display({
    id: "Added",
    meta: { sort: "added_at", width: "5.125rem" },
    cell: ({ row }) => <span className="figure faint">{day(row.original.added_at)}</span>,
  }),
  column.display({
    id: "Doubt",
    meta: { sort: "doubt", width: "3.5rem" },
    cell: ({ row }) => <Doubt value={row.original.doubt} reasons={row.original.doubt_reasons} />,
  }),
];

/** What gives way where there is no room for all, the first first. */
const GIVING_WAY = ["LUFS", "Style", "Energy", "Added", "Length", "Cues"];
export const PLACE_REM = 2.75;
export const [GAP_PX, MARGIN_PX] = [12, 16];

/** The columns to leave out, so that the others have at least their least width. */
export function leftOut(without: readonly string[], roomPx: number, remPx: number): string[] {
  const left = [...without];
  for (const name of GIVING_WAY) if (leastPx(left, remPx) > roomPx && !left.includes(name)) left.push(name);
  return left;
}

function leastPx(without: readonly string[], remPx: number): number {
  const shown = COLUMNS.filter((each) => !without.includes(each.id ?? ""));
  const least = shown.map((each) => parseFloat(each.meta?.width.replace("minmax(", "") ?? "0"));
  const rems = least.reduce((sum, rem) => sum + rem, PLACE_REM);
  return rems * remPx + shown.length * GAP_PX + 2 * MARGIN_PX;
}
