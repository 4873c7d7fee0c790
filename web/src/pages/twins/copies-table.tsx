/** The files of a group side by side: what differs is marked, and which is better; and what becomes of each. */
import { Box, Button, ToggleButton, ToggleButtonGroup } from "@mui/material";
import type { ReactNode } from "react";
import { clock, day, size } from "../../components/format";
import { FIGURES } from "../../theme";
import { useTwinChanges, type Group, type Track } from "./use-twins";

export type Fate = "keep" | "aside" | "leave";

interface Props {
  group: Group;
  fateOf: (id: number) => Fate;
  onFate: (id: number, fate: Fate) => void;
}

/** What becomes of a file is said by three buttons side by side, in any size of type. */
const COLUMN_REM = 16;
const LOSSLESS = ["FLAC", "ALAC", "WAV", "AIFF"];

interface RowSpec {
  name: string;
  show: (track: Track) => ReactNode;
  /** Greater is better; the best is marked where it is alone. */
  worth?: (track: Track) => number;
  /** Marked where it is otherwise than in the kept file. */
  differs?: (track: Track, kept: Track) => boolean;
  figures?: boolean;
}

const ROWS: readonly RowSpec[] = [
  { name: "File", show: (track) => <FileName track={track} /> },
  {
    name: "Sound",
    show: (track) => <Sound track={track} />,
    worth: (track) =>
      (LOSSLESS.includes(track.codec) ? 10_000 : (track.bit_rate ?? 0) / 1000) -
      20_000 * track.findings.length,
  },
  {
    name: "Length, size",
    show: (track) => `${clock(track.duration_s, true)} · ${size(track.size_bytes)}`,
    figures: true,
  },
  {
    name: "Tempo, key",
    show: (track) => `${track.bpm?.toFixed(2) ?? "–"} · ${track.key ?? "–"}`,
    differs: (track, kept) => track.key !== kept.key,
    figures: true,
  },
  { name: "Grid and cues", show: (track) => workOf(track), worth: (track) => worthOf(track) },
  {
    name: "Plays",
    show: (track) =>
      track.last_played ? `${track.plays}, last ${day(track.last_played)}` : String(track.plays),
    worth: ({ plays }) => plays,
  },
  { name: "In lists", show: (track) => listsOf(track.lists), worth: ({ lists }) => lists.length },
  {
    name: "Tags, stars",
    show: (track) => [track.tags.join(", "), "★".repeat(track.stars)].filter(Boolean).join(" · ") || "none",
    worth: ({ tags, stars }) => tags.length + (stars > 0 ? 1 : 0),
  },
  {
    name: "Style, year, label",
    show: (track) => [track.genre || "–", track.year ?? "–", track.label || "–"].join(" · "),
    differs: (track, kept) =>
      track.genre !== kept.genre || track.year !== kept.year || track.label !== kept.label,
  },
  { name: "Added", show: (track) => day(track.added_at) },
];

const worthOf = (track: Track): number =>
  track.cues + 2 * track.routes + 4 * (track.locks.length + (track.grid_by_hand ? 1 : 0));

function workOf(track: Track): string {
  const grid = track.grid_by_hand ? "grid by hand" : track.bpm ? "grid by analysis" : "no grid";
  const parts = [
    track.locks.length ? `${grid}, ${track.locks.join(" and ")} locked` : grid,
    track.cues ? `${track.cues} cues` : "no cues",
    track.routes ? `${track.routes} routes` : "",
  ];
  return parts.filter(Boolean).join(" · ");
}

function listsOf(lists: readonly string[]): string {
  if (!lists.length) return "none";
  const more = lists.length > 2 ? `, ${lists.length - 2} more` : "";
  return `${lists.slice(0, 2).join(", ")}${more}`;
}

export function CopiesTable({ group, fateOf, onFate }: Props) {
  const kept = group.tracks.find(({ track_id }) => fateOf(track_id) === "keep") ?? group.tracks[0];
  const extra = group.copies.length;
  return (
    <Box sx={{ overflowX: "auto", mt: 1 }} data-wide>
      <Box
        component="table"
        sx={{ ...tableLook, minWidth: `${7 + COLUMN_REM * (group.tracks.length + Number(extra > 0))}rem` }}
      >
        <thead>
          <tr>
            <td />
            {group.tracks.map((track, place) => (
              <th key={track.track_id} scope="col">
                <FateChoice
                  number={place + 1}
                  fate={fateOf(track.track_id)}
                  onFate={(fate) => onFate(track.track_id, fate)}
                />
              </th>
            ))}
            {extra > 0 && <th scope="col">Goes with it</th>}
          </tr>
        </thead>
        <tbody>
          {ROWS.map((row) => (
            <tr key={row.name}>
              <th scope="row">{row.name}</th>
              {group.tracks.map((track) => (
                <Cell key={track.track_id} row={row} track={track} group={group} kept={kept} />
              ))}
              {extra > 0 && <td>{row.name === "File" && <MoreFiles group={group} />}</td>}
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

interface CellProps {
  row: RowSpec;
  track: Track;
  group: Group;
  kept: Track | undefined;
}

function Cell({ row, track, group, kept }: CellProps) {
  const { worth } = row;
  const best = worth ? Math.max(...group.tracks.map(worth)) : 0;
  const isBest =
    worth !== undefined && worth(track) === best && !group.tracks.every((each) => worth(each) === best);
  const differs = kept !== undefined && row.differs?.(track, kept) === true;
  return (
    <Box
      component="td"
      sx={({ inks }) => ({
        ...(row.figures && { fontFamily: FIGURES, fontSize: "0.82rem" }),
        ...(isBest && { color: inks.sure, fontWeight: 600 }),
        ...(differs && { color: inks.doubt }),
      })}
    >
      {row.show(track)}
    </Box>
  );
}

function FateChoice({ number, fate, onFate }: { number: number; fate: Fate; onFate: (fate: Fate) => void }) {
  return (
    <ToggleButtonGroup
      exclusive
      size="small"
      value={fate}
      onChange={(_, value: Fate | null) => value && onFate(value)}
      aria-label={`What becomes of copy ${number}`}
    >
      {(["keep", "aside", "leave"] as const).map((each) => (
        <ToggleButton
          key={each}
          value={each}
          sx={{ px: 0.9, py: 0.15, fontSize: "0.78rem", whiteSpace: "nowrap" }}
        >
          {each === fate ? "● " : ""}
          {{ keep: "Keep", aside: "Gives way", leave: "Stays too" }[each]}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

function FileName({ track }: { track: Track }) {
  const cut = track.path.lastIndexOf("/");
  return (
    <Box title={track.path} sx={{ overflowWrap: "anywhere" }}>
      <Box sx={{ fontWeight: 600 }}>{track.path.slice(cut + 1)}</Box>
      <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
        {track.away
          ? "not there: its drive is away"
          : track.path.slice(0, cut).split("/").slice(-2).join("/")}
      </Box>
    </Box>
  );
}

function Sound({ track }: { track: Track }) {
  const rate = track.bit_rate ? ` ${Math.round(track.bit_rate / 1000)}` : "";
  const name = LOSSLESS.includes(track.codec) ? track.codec : `${track.codec}${rate}`;
  return <span>{[name, ...track.findings].join(", ")}</span>;
}

function MoreFiles({ group }: { group: Group }) {
  const { copy } = useTwinChanges();
  return (
    <Box sx={{ overflowWrap: "anywhere" }}>
      {group.copies.map(({ track_id, path, size_bytes }) => (
        <Box key={path} title={path} sx={{ mb: 0.4 }}>
          <Box sx={{ fontWeight: 600 }}>{path.split("/").pop()}</Box>
          <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
            the very same sound, {size(size_bytes)}
          </Box>
          <Button
            size="small"
            disabled={copy.isPending}
            onClick={() => copy.mutate({ track_id, path })}
            title="The track has this file from now on; the file it has now becomes the copy."
          >
            Keep this file instead
          </Button>
        </Box>
      ))}
    </Box>
  );
}

const tableLook = {
  ...{ width: "100%", borderCollapse: "collapse", tableLayout: "fixed", fontSize: "0.88rem" },
  "& td, & th": {
    borderTop: 1,
    borderColor: "divider",
    textAlign: "left",
    verticalAlign: "top",
    py: 0.55,
    pr: 1,
  },
  "& th[scope=row], & thead td": {
    width: 112,
    fontSize: "0.78rem",
    fontWeight: 600,
    color: "text.secondary",
  },
} as const;
