/** The columns of the track table: what each shows, how wide it is, and what it sorts by. */
import { createColumnHelper, type RowData } from "@tanstack/react-table";
import type { ReactNode } from "react";
import type { EditName, Track } from "../api/client";
import type { SortName } from "../api/queries";
import { Doubt } from "./doubt";
import { clock, day, lufs } from "./format";
import { Stars } from "./stars";
import type { TableLook } from "./table-look";
import { Energy, Key, Tags, Tempo, Title } from "./track-cells";

declare module "@tanstack/react-table" {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  interface ColumnMeta<TData extends RowData, TValue> {
    /** Least width in rem; a column that is `wide` takes so many shares of the room that is left. */
    rem: number;
    wide?: number;
    sort?: SortName;
    right?: boolean;
    /** How its text is set. */
    look?: "figure" | "faint" | "figure faint";
    /** The field that is set by typing into it. */
    edits?: EditName;
    /** What it shows of a track. Rows draw themselves by it: they are many, and come and go while one scrolls. */
    cell: Cell;
  }
}

/** What cells need beside their track. */
export interface CellContext {
  look: TableLook;
  rate: (id: number, stars: number) => void;
}

type Cell = (track: Track, context: CellContext) => ReactNode;

const column = createColumnHelper<Track>();

interface Shape {
  rem: number;
  wide?: number;
  sort?: SortName;
  right?: boolean;
  look?: "figure" | "faint" | "figure faint";
  edits?: EditName;
}

function make(id: string, shape: Shape, cell: Cell) {
  const meta = { ...shape, cell };
  const first = meta.sort !== undefined && DOWN_FIRST.includes(meta.sort);
  // Rows come sorted: what a column is sorted by is only its being sortable.
  if (!meta.sort) return column.display({ id, meta });
  return column.accessor((track) => track.id as unknown, { id, meta, sortDescFirst: first });
}

/** What people want to see the highest of first. */
const DOWN_FIRST: readonly SortName[] = [
  "added_at",
  "rating",
  "doubt",
  "plays",
  "last_played",
  "last_at",
  "went_well",
  "cue_count",
];

export const COLUMNS = [
  make("Title", { edits: "title", rem: 9, wide: 2.2, sort: "title" }, (t, { look }) => (
    <Title track={t} look={look} />
  )),
  make("Artist", { edits: "artist", rem: 6, wide: 1.3, sort: "artist", look: "faint" }, (t) => t.artist),
  make("Tempo", { rem: 4.875, sort: "bpm", look: "figure" }, (t) => <Tempo track={t} />),
  make("Key", { edits: "key", rem: 6.4, sort: "key" }, (t, { look }) => <Key track={t} look={look} />),
  make("Length", { rem: 3.875, sort: "duration_s", right: true, look: "figure" }, (t) => clock(t.duration_s)),
  make("Energy", { edits: "energy", rem: 3.9, sort: "energy", look: "figure" }, (t) => (
    <Energy value={t.energy} />
  )),
  make("LUFS", { rem: 3.625, sort: "lufs", right: true, look: "figure" }, (t) => lufs(t.lufs)),
  make("Stars", { rem: 5.75, sort: "rating" }, (t, { rate }) => (
    <Stars value={t.rating} onChange={(stars) => rate(t.id, stars)} label={t.title} />
  )),
  make("Tags", { rem: 9, wide: 1.4 }, (t, { look }) => <Tags ids={t.tags} look={look} />),
  make(
    "Style",
    { edits: "genre", rem: 6.5, sort: "genre" },
    (t) => t.genre && <span className="tag">{t.genre}</span>,
  ),
  make("Cues", { rem: 4.375, sort: "cue_count", look: "figure" }, (t) => t.cues || "–"),
  make("Plays", { rem: 3.2, sort: "plays", right: true, look: "figure" }, (t) => t.plays || "–"),
  make("Last played", { rem: 5.4, sort: "last_played", look: "faint" }, (t) =>
    t.last_played ? day(t.last_played) : "never",
  ),
  make("Added", { rem: 5.125, sort: "added_at", look: "figure faint" }, (t) => day(t.added_at)),
  make("Doubt", { rem: 3.5, sort: "doubt" }, (t) => <Doubt value={t.doubt} reasons={t.doubt_reasons} />),
  make("Went well", { rem: 4.6, sort: "went_well", right: true, look: "figure" }, (t) => t.went_well || "–"),
  make("Last there", { rem: 5.4, sort: "last_at", look: "faint" }, (t) =>
    t.there ? day(t.there.last_at) : "never",
  ),
  make("Times there", { rem: 5.4, right: true, look: "figure" }, (t) => t.there?.times ?? "–"),
  make("Album", { edits: "album", rem: 7, sort: "album", look: "faint" }, (t) => t.album),
  make("Label", { edits: "label", rem: 6, sort: "label", look: "faint" }, (t) => t.label),
  make("Year", { edits: "year", rem: 3.2, sort: "year", right: true, look: "figure" }, (t) => t.year ?? "–"),
  make("Remixer", { edits: "remixer", rem: 6, sort: "remixer", look: "faint" }, (t) => t.remixer),
  make("Composer", { edits: "composer", rem: 6, sort: "composer", look: "faint" }, (t) => t.composer),
  make("Grouping", { edits: "grouping", rem: 6, sort: "grouping", look: "faint" }, (t) => t.grouping),
  make("Catalogue", { edits: "catalogue", rem: 6, sort: "catalogue", look: "faint" }, (t) => t.catalogue),
  make("Language", { edits: "language", rem: 5.5, sort: "language", look: "faint" }, (t) => t.language),
  make("ISRC", { edits: "isrc", rem: 7.5, look: "figure" }, (t) => t.isrc),
  make("Comment", { edits: "comment", rem: 9, sort: "comment", look: "faint" }, (t) => t.comment),
  make("Colour", { rem: 5.5, sort: "colour" }, (t, { look }) => look.colours.get(t.colour)?.name ?? ""),
  make("Marks", { rem: 4 }, (t) => t.marks),
  make("Backing", { rem: 8, sort: "backing" }, (t) => t.backing?.name ?? ""),
  make("Lists", { rem: 8, look: "faint" }, (t, { look }) =>
    t.lists.flatMap((id) => look.lists.get(id) ?? []).join(", "),
  ),
  make("Left to do", { rem: 6, look: "faint" }, (t) => t.left.join(", ") || "nothing"),
  make("Locks", { rem: 6, sort: "locks", look: "faint" }, (t) => t.locks.join(", ")),
  make("Routes", { rem: 3.8, right: true, look: "figure" }, (t) => t.routes || "–"),
  make("Format", { rem: 4, sort: "codec", look: "faint" }, (t) => t.codec.toUpperCase()),
  make("Bit rate", { rem: 4.4, sort: "bit_rate", right: true, look: "figure" }, (t) =>
    t.bit_rate ? Math.round(t.bit_rate / 1000) : "–",
  ),
  make(
    "Sound",
    { rem: 8, look: "faint" },
    (t) => t.findings.map(({ words }) => words).join("; ") || "no flaw found",
  ),
  make("Tempo from", { rem: 6, look: "faint" }, (t) => t.bpm_source ?? ""),
  make("Key from", { rem: 6, look: "faint" }, (t) => t.key_source ?? ""),
  make("Away", { rem: 4, sort: "away", look: "faint" }, (t) => (t.away ? "away" : "here")),
  make("Wanted", { rem: 5.6, sort: "wanted", look: "faint" }, (t) => (t.wanted ? "a better file" : "")),
  make("File", { rem: 16, look: "faint" }, (t) => t.path),
];

export const NAMES: readonly string[] = COLUMNS.map(({ id }) => id ?? "");
/** What is shown where nothing else was chosen, and what of it gives way where there is no room, the first first. */
export const USUAL: readonly string[] = NAMES.slice(0, 15);
export const GIVING_WAY: readonly string[] = [
  "LUFS",
  "Style",
  "Last played",
  "Length",
  "Energy",
  "Added",
  "Plays",
  "Cues",
  "Tags",
];
export const PLACE_REM = 2.75;
export const [GAP_PX, MARGIN_PX] = [12, 16];

export const META = new Map(COLUMNS.map(({ id, meta }) => [id ?? "", meta]));

/** Widths that were dragged, in rem by column. */
export type Widths = Readonly<Record<string, number>>;

/** The columns without those that give way, for as long as there is no room for all. */
export function fitting(
  columns: readonly string[],
  givingWay: readonly string[],
  roomPx: number,
  remPx: number,
  widths: Widths = {},
): readonly string[] {
  let shown = columns;
  for (const name of givingWay)
    if (leastPx(shown, remPx, widths) > roomPx) shown = shown.filter((each) => each !== name);
  return shown;
}

/** The room that columns need at least. */
export function leastPx(shown: readonly string[], remPx: number, widths: Widths): number {
  const rems = shown.reduce((sum, name) => sum + (widths[name] ?? META.get(name)?.rem ?? 0), PLACE_REM);
  return rems * remPx + shown.length * GAP_PX + 2 * MARGIN_PX;
}

/** The columns as tracks of a CSS grid. */
export function gridOf(shown: readonly string[], widths: Widths): string {
  const columns = shown.map((name) => {
    const { rem = 5, wide } = META.get(name) ?? {};
    if (widths[name]) return `${widths[name]}rem`;
    return wide ? `minmax(${rem}rem, ${wide}fr)` : `${rem}rem`;
  });
  return `${PLACE_REM}rem ${columns.join(" ")}`;
}
