/** A night that comes into the Logbook: typed by hand, out of a file, or from a list; what is known of it is said before. */
import { Box, Button, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { cratesQuery, toldQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { useRested } from "../../components/use-rested";
import { FolderChooser } from "../arrivals/folder-chooser";
import { TableColumns } from "../arrivals/table-columns";
import { GigFieldsRow, type GigFields } from "./gig-dialog";
import type { Logbook } from "./use-logbook";
import { dayOf, isoOf, whereOf } from "./words";

export type TellingKind = "by hand" | "file" | "list";
type Telling = Schema["TellingIn"];
const TITLES: Record<TellingKind, string> = {
  "by hand": "A gig by hand",
  file: "A gig out of a file",
  list: "A gig from a list",
};

/** What tells of the night. */
interface SourceOf {
  text: string;
  path: string;
  crate_id: number | null;
  columns: Schema["ColumnsBody"] | null;
}

interface Props {
  kind: TellingKind;
  logbook: Logbook;
  onClose: () => void;
}

export function TellingDialog({ kind, logbook, onClose }: Props) {
  const [source, setSource] = useState<SourceOf>({ text: "", path: "", crate_id: null, columns: null });
  const [fields, setFields] = useState(fieldsFor(logbook));
  const telling = useRested(tellingOf(kind, source, fields), 250);
  const ready = kind === "by hand" || (kind === "file" ? source.path !== "" : source.crate_id !== null);
  const told = useQuery(toldQuery(telling, ready));
  const take = useChange(
    (body: Telling) => unwrap(client.POST("/api/nights", { body })),
    (taken) => saidOf(taken),
  );
  const done = (taken: Schema["NightTakenOut"][]) => {
    const night = taken[0]?.gig_id;
    if (night !== undefined) logbook.go({ view: "nights", venue: null, night, beside: null });
    onClose();
  };
  const first = told.data?.nights[0];
  // A night by hand may begin empty; a file or a list that tells of nothing is not understood yet.
  const empty = kind !== "by hand" && !told.data?.nights.some(({ plays }) => plays.length);
  return (
    <FormDialog
      title={TITLES[kind]}
      action={first?.same ? "Join them" : "Take in"}
      width="md"
      disabled={!ready || empty || !fields.on || take.isPending || told.isError}
      onSubmit={() => take.mutate(tellingOf(kind, source, fields), { onSuccess: done })}
      onClose={onClose}
    >
      <GigFieldsRow fields={fields} venues={logbook.venues} onChange={setFields} first={kind === "by hand"} />
      <Source kind={kind} source={source} onChange={setSource} />
      {ready && told.error && <Box sx={{ color: "error.main", mt: 1 }}>{told.error.message}</Box>}
      {ready && told.data?.table && (
        <Box sx={{ mt: 1.5 }}>
          <TableColumns
            played
            table={told.data.table}
            onChange={(columns) => setSource({ ...source, columns })}
          />
        </Box>
      )}
      {ready && told.data && <Found logbook={logbook} told={told.data} />}
    </FormDialog>
  );
}

function fieldsFor({ venue }: Logbook): GigFields {
  const weekly = venue?.recurring[0];
  return {
    venue: venue?.name ?? "",
    on: isoOf(new Date()),
    begins: weekly?.begins ?? "",
    ends: weekly?.ends ?? "",
    kind: weekly?.kind ?? "",
  };
}

function tellingOf(
  kind: TellingKind,
  source: SourceOf,
  { venue, on, begins, ends, kind: what }: GigFields,
): Telling {
  return {
    path: kind === "file" ? source.path || null : null,
    text: kind === "by hand" ? source.text : null,
    crate_id: kind === "list" ? source.crate_id : null,
    columns: kind === "file" ? source.columns : null,
    ...{ on: on || null, begins: begins || null, ends: ends || null, venue, kind: what, name: "", note: "" },
  };
}

/** What became of nights that were taken in. */
function saidOf(taken: readonly Schema["NightTakenOut"][]): string {
  const joined = taken.filter((each) => each.was_there);
  const added = taken.reduce((sum, each) => sum + each.added, 0);
  const plays = counted(added, "play");
  if (!joined.length) return `${counted(taken.length, "night")} taken in, ${plays}.`;
  const shared = joined.reduce((sum, each) => sum + each.shared, 0);
  const off = Math.max(...joined.map((each) => Math.abs(each.clock_off_s)));
  const clock = off > 300 ? ` Its clock was ${Math.round(off / 60)} min off, which was set right.` : "";
  return `The night was in the Logbook already and is joined: ${shared} plays are the same, ${added} came in.${clock}`;
}

interface SourceProps {
  kind: TellingKind;
  source: SourceOf;
  onChange: (source: SourceProps["source"]) => void;
}

function Source({ kind, source, onChange }: SourceProps) {
  const put = (change: Partial<SourceProps["source"]>) => onChange({ ...source, ...change });
  if (kind === "list") return <ListSource id={source.crate_id} onChange={(crate_id) => put({ crate_id })} />;
  if (kind === "file")
    return <FileSource path={source.path} onChange={(path) => put({ path, columns: null })} />;
  return (
    <TextField
      multiline
      fullWidth
      minRows={7}
      maxRows={12}
      margin="dense"
      label="What was played, a line each"
      placeholder={"21:00 Artist – Title\n21:07 A title alone\nwithout a time, too"}
      value={source.text}
      onChange={(event) => put({ text: event.target.value })}
      slotProps={{ inputLabel: { shrink: true } }}
    />
  );
}

function ListSource({ id, onChange }: { id: number | null; onChange: (id: number | null) => void }) {
  const crates = useQuery(cratesQuery).data?.filter((crate) => !crate.is_folder) ?? [];
  return (
    <TextField
      select
      fullWidth
      size="small"
      margin="normal"
      label="List"
      value={id ?? ""}
      onChange={(event) => onChange(Number(event.target.value))}
    >
      {crates.map((crate) => (
        <MenuItem key={crate.id} value={crate.id}>
          {crate.name}
        </MenuItem>
      ))}
    </TextField>
  );
}

function FileSource({ path, onChange }: { path: string; onChange: (path: string) => void }) {
  const [browsing, setBrowsing] = useState(false);
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center", mt: 2 }}>
      <TextField
        fullWidth
        size="small"
        label="File: M3U, PLS, XSPF, cue sheet, table (CSV), or text"
        value={path}
        onChange={(event) => onChange(event.target.value)}
      />
      <Button onClick={() => setBrowsing(true)}>Browse…</Button>
      {browsing && (
        <FolderChooser
          title="Choose a file that tells of a night"
          action="Choose"
          onChoose={([chosen]) => chosen && onChange(chosen)}
          onPlaylist={(chosen) => {
            onChange(chosen);
            setBrowsing(false);
          }}
          onClose={() => setBrowsing(false)}
        />
      )}
    </Box>
  );
}

const SHOWN = 12;

/** What was understood: night by night, what of it is on the Shelf, and what the Logbook knows already. */
function Found({ logbook, told }: { logbook: Logbook; told: Schema["ToldOut"] }) {
  const [first] = told.nights;
  const plays = told.nights.reduce((sum, night) => sum + night.plays.length, 0);
  const here = told.nights.reduce((sum, night) => sum + night.here, 0);
  if (!plays) return <Box sx={{ mt: 1, color: "text.secondary" }}>Nothing stands there yet.</Box>;
  return (
    <Box sx={{ mt: 1.5, fontSize: "0.86rem" }} data-testid="told">
      <Box sx={{ mb: 0.5 }}>
        <b>{counted(plays, "play")}</b> in {counted(told.nights.length, "night")}; {here} on the Shelf,{" "}
        {plays - here} kept as text until they are.
        {told.has_dates && " Dates and times stand in the file."}
      </Box>
      {told.nights.map(
        (night) =>
          night.same && (
            <Box key={night.same.id} sx={{ color: "error.main" }}>
              {dayOf(night.on)} is in the Logbook already ({whereOf(night.same, logbook.venues)},{" "}
              {dayOf(night.same.on)}): {night.shared} of {night.plays.length} plays are the same. They are
              joined, each counted once.
            </Box>
          ),
      )}
      {first?.plays.slice(0, SHOWN).map((play, i) => (
        <Box key={i} sx={{ color: play.track_id === null ? "warning.main" : "text.primary" }}>
          {play.at ?? "–"} {[play.artist, play.title].filter(Boolean).join(" – ") || `track ${play.track_id}`}
          {play.track_id === null && " (not on the Shelf)"}
        </Box>
      ))}
      {(first?.plays.length ?? 0) > SHOWN && <Box sx={{ color: "text.secondary" }}>and so on</Box>}
    </Box>
  );
}
