/** A playlist of another program before it is brought in: what of it is where, and what its paths are here. */
import { Alert, Box, Checkbox, FormControlLabel, TextField } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { FIGURES } from "../../theme";
import { EntryList, STATES } from "./playlist-entries";
import { Mappings } from "./playlist-mappings";
import { TableColumns } from "./table-columns";

type Look = Schema["LookOut"];
type Wanted = Schema["LookIn"];

interface Props {
  path: string;
  onDone: (brought: Schema["BroughtOut"]) => void;
  onClose: () => void;
}

export function PlaylistDialog({ path, onDone, onClose }: Props) {
  const [wanted, setWanted] = useState<Wanted>({ path, mappings: [], by_names: true });
  const [name, setName] = useState<string | null>(null);
  const look = useLook(wanted);
  const bring = useChange(
    (body: Schema["BringIn"]) => unwrap(client.POST("/api/playlists", { body })),
    (brought) => (brought.crate_id === null ? "The marks are offered as cues of the file." : null),
  );
  const found = look.data;
  const named = name ?? found?.name ?? "";
  const submit = () =>
    bring.mutate(
      { ...wanted, name: named.trim() },
      {
        onSuccess: (brought) => {
          onDone(brought);
          onClose();
        },
      },
    );
  return (
    <FormDialog
      title={path.split("/").pop()}
      action={bring.isPending ? "Bringing it in…" : action(found)}
      disabled={!found?.total || !named.trim() || look.isFetching || bring.isPending}
      width="md"
      content={{ display: "flex", flexDirection: "column", gap: 1.5 }}
      onSubmit={submit}
      onClose={onClose}
    >
      {look.error && <Alert severity="error">{look.error.message}</Alert>}
      {!found && look.isPending && "Reading the playlist, and looking for its files…"}
      {found && (
        <Understood look={found} wanted={wanted} name={named} onName={setName} onChange={setWanted} />
      )}
    </FormDialog>
  );
}

function useLook(wanted: Wanted) {
  return useQuery({
    queryKey: ["playlist look", wanted],
    queryFn: ({ signal }) => unwrap(client.POST("/api/playlists/look", { body: wanted, signal })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

function action(look: Look | undefined): string {
  if (look?.marks) return `Offer its ${counted(look.marks, "mark")} as cues`;
  return look?.counts.on_disk
    ? `Make a crate, import ${counted(look.counts.on_disk, "file")}`
    : "Make a crate";
}

interface UnderstoodProps {
  look: Look;
  wanted: Wanted;
  name: string;
  onName: (name: string) => void;
  onChange: (wanted: Wanted) => void;
}

function Understood({ look, wanted, name, onName, onChange }: UnderstoodProps) {
  return (
    <>
      <Summary look={look} />
      {look.table && (
        <TableColumns
          table={look.table}
          onChange={(columns) => onChange({ ...wanted, columns, mappings: [] })}
        />
      )}
      {!look.marks && (
        <TextField
          size="small"
          label="Name of the crate"
          value={name}
          onChange={(e) => onName(e.target.value)}
          sx={{ mt: 1 }}
        />
      )}
      <Mappings
        proposals={look.proposals}
        chosen={wanted.mappings ?? []}
        onChange={(mappings) => onChange({ ...wanted, mappings })}
      />
      {!look.marks && (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={wanted.by_names ?? true}
              onChange={(e) => onChange({ ...wanted, by_names: e.target.checked })}
            />
          }
          label="Where a file is not found, take the track of the same artist and title"
        />
      )}
      <EntryList look={look} />
    </>
  );
}

/** How many entries are where, in a line of words. */
function Summary({ look }: { look: Look }) {
  const { counts } = look;
  const parts = (Object.keys(STATES) as (keyof typeof STATES)[])
    .map((state) => [counts[STATES[state].count], STATES[state].words] as const)
    .filter(([count]) => count > 0);
  return (
    <Box data-playlist-counts>
      {counted(look.total, look.marks ? "file" : "entry", "entries")}:{" "}
      {parts.map(([count, words], i) => (
        <span key={words}>
          {i > 0 && ", "}
          <Box component="span" sx={{ fontFamily: FIGURES, fontWeight: 600 }}>
            {count}
          </Box>{" "}
          {words}
        </span>
      ))}
      .
      <Box component="span" sx={{ color: "text.secondary", fontSize: "0.82rem" }}>
        {" "}
        Written in {look.encoding}
        {look.passed_over > 0 && `; ${counted(look.passed_over, "line")} without a file passed over`}.
      </Box>
    </Box>
  );
}
