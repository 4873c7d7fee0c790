/** Keeping all files of a group as versions of one work, each with what kind of version it is. */
import { Autocomplete, Box, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import { clock } from "../../components/format";
import { useTwinChanges, type Group } from "./use-twins";

const KINDS = [
  "original",
  "radio",
  "extended",
  "instrumental",
  "a cappella",
  "clean",
  "another voice",
  "edit",
  "live",
];

interface Props {
  group: Group;
  onClose: () => void;
  onDone: () => void;
}

export function VersionsDialog({ group, onClose, onDone }: Props) {
  const [name, setName] = useState(group.tracks[0]?.title ?? "");
  const [kinds, setKinds] = useState<Record<string, string>>({});
  const { versions } = useTwinChanges();
  const save = () =>
    versions.mutate(
      { track_ids: group.track_ids, name, kinds },
      {
        onSuccess: () => {
          onClose();
          onDone();
        },
      },
    );
  return (
    <FormDialog
      title="Keep all, as versions of one work"
      action="Link them"
      width="sm"
      disabled={!name.trim()}
      onSubmit={save}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Name of the work"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      {group.tracks.map((track) => (
        <Box key={track.track_id} sx={{ display: "flex", gap: 1.5, alignItems: "center", mt: 1 }}>
          <Box sx={{ flex: 1, minWidth: 0, overflowWrap: "anywhere" }}>
            {track.path.split("/").pop()}, {clock(track.duration_s)}
          </Box>
          <Autocomplete
            freeSolo
            size="small"
            sx={{ width: 210 }}
            options={KINDS}
            onInputChange={(_, kind) => setKinds({ ...kinds, [track.track_id]: kind })}
            renderInput={(parameters) => <TextField {...parameters} label="Kind" />}
          />
        </Box>
      ))}
    </FormDialog>
  );
}
