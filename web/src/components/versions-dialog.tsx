/** Versions of one work: which tracks they are, of what kind each is, and the way out again. */
import { Autocomplete, Box, Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { rowsQuery, versionsQuery } from "../api/queries";
import { clock } from "./format";
import { FormDialog } from "./form-dialog";

const KINDS = [
  ...["original", "radio", "extended", "instrumental", "a cappella", "clean", "another voice", "edit"],
  "live",
];
const MOST = 40;

export interface VersionLine {
  id: number;
  words: string;
  kind: string;
}

/** The versions of the chosen track, or the chosen ones, to be linked. */
export function VersionsDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const ids = (picked.chosen.ids ?? []).slice(0, MOST);
  const first = ids[0] ?? 0;
  const known = useQuery({ ...versionsQuery(first), enabled: first > 0 }).data;
  const rows = useQuery(rowsQuery(ids)).data;
  if (!known || !rows) return null;
  const kinds = new Map(known.map(({ track_id, kind }) => [track_id, kind]));
  const lines =
    picked.count === 1
      ? known.map((each) => lineOf(each.track_id, each, each.kind))
      : rows.map((row) => lineOf(row.id, row, kinds.get(row.id) ?? ""));
  return (
    <VersionsForm
      key={lines.length}
      title="Versions of one work"
      name={known[0]?.work ?? rows[0]?.title ?? ""}
      lines={lines}
      apart={known.length ? ids : undefined}
      onClose={onClose}
      onDone={onClose}
    />
  );
}

function lineOf(
  id: number,
  { title, artist, duration_s }: { title: string; artist: string; duration_s: number },
  kind: string,
): VersionLine {
  return { id, words: `${[artist, title].filter(Boolean).join(" – ")}, ${clock(duration_s)}`, kind };
}

interface FormProps {
  title: string;
  name: string;
  lines: readonly VersionLine[];
  /** Tracks that can be taken out of their work. */
  apart?: number[] | undefined;
  onClose: () => void;
  onDone: () => void;
}

export function VersionsForm({ title, name: first, lines, apart, onClose, onDone }: FormProps) {
  const [name, setName] = useState(first);
  const [kinds, setKinds] = useState<Record<string, string>>({});
  const changes = useVersionChanges();
  const done = () => {
    onClose();
    onDone();
  };
  const ids = lines.map(({ id }) => id);
  return (
    <FormDialog
      title={title}
      action="Link them"
      width="sm"
      disabled={!name.trim() || lines.length < 2}
      apart={
        apart && (
          <Button
            sx={{ mr: "auto" }}
            onClick={() => changes.apart.mutate({ track_ids: apart }, { onSuccess: done })}
          >
            Take {apart.length === 1 ? "it" : "them"} out
          </Button>
        )
      }
      onSubmit={() => changes.link.mutate({ track_ids: ids, name: name.trim(), kinds }, { onSuccess: done })}
      onClose={onClose}
    >
      {lines.length < 2 && (
        <Box sx={{ color: "text.secondary", mb: 1 }}>
          This track has no other version yet. Choose two tracks or more to link them.
        </Box>
      )}
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Name of the work"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      {lines.map((line) => (
        <KindLine
          key={line.id}
          line={line}
          onKind={(kind) => setKinds((before) => ({ ...before, [line.id]: kind }))}
        />
      ))}
    </FormDialog>
  );
}

function KindLine({ line, onKind }: { line: VersionLine; onKind: (kind: string) => void }) {
  return (
    <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", mt: 1 }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowWrap: "anywhere" }}>{line.words}</Box>
      <Autocomplete
        freeSolo
        size="small"
        sx={{ width: 210, flex: "none" }}
        options={KINDS}
        defaultValue={line.kind}
        onInputChange={(_, kind) => onKind(kind)}
        renderInput={(parameters) => <TextField {...parameters} label="Kind" />}
      />
    </Box>
  );
}

function useVersionChanges() {
  const link = useChange(
    (body: Schema["VersionsIn"]) => unwrap(client.PUT("/api/versions", { body })),
    (_, { track_ids, name }) => `${counted(track_ids.length, "version")} of “${name}”.`,
  );
  const apart = useChange(
    (body: Schema["GroupIn"]) => unwrap(client.POST("/api/versions/apart", { body })),
    () => "Taken out of the work.",
  );
  return { link, apart };
}
