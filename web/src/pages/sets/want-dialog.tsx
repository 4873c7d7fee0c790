/** Putting a track that is not owned yet into a set: it stands there by its name until its file arrives. */
import { Button, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import type { Entry, useSetChanges } from "./use-sets";

interface Props {
  /** The track that it is placed after. */
  after: Entry | undefined;
  before: number | null;
  changes: ReturnType<typeof useSetChanges>;
  onClose: () => void;
}

const MOST = 400;

export function WantDialog({ after, before, changes, onClose }: Props) {
  const [artist, setArtist] = useState("");
  const [title, setTitle] = useState("");
  const ready = Boolean(artist.trim() && title.trim());
  const want = (placed: boolean) => {
    changes.want.mutate({ artist, title, placed, before: placed ? before : null });
    onClose();
  };
  const field = (label: string, value: string, change: (text: string) => void, first = false) => (
    <TextField
      autoFocus={first}
      fullWidth
      size="small"
      margin="dense"
      label={label}
      value={value}
      onChange={(event) => change(event.target.value)}
      slotProps={{ htmlInput: { maxLength: MOST } }}
    />
  );
  return (
    <FormDialog
      title="Want a track that you do not have"
      action={after ? `Place it after “${after.title}”` : "Place it"}
      disabled={!ready}
      others={
        <Button onClick={() => want(false)} disabled={!ready}>
          Into the tray
        </Button>
      }
      onSubmit={() => want(true)}
      onClose={onClose}
    >
      <p>When a file of this artist and title comes in, it takes this place by itself.</p>
      {field("Artist", artist, setArtist, true)}
      {field("Title", title, setTitle)}
    </FormDialog>
  );
}
