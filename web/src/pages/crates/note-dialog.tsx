/** What is noted on places of a crate. */
import { TextField } from "@mui/material";
import { useState } from "react";
import { counted } from "../../api/changes";
import { FormDialog } from "../../components/form-dialog";
import type { OpenCrateState } from "./use-open-crate";

interface Props {
  open: OpenCrateState;
  places: number[];
  onClose: () => void;
}

const LONGEST = 400;

/** Asks for a note on the chosen places, in the crate's own order. */
export function useNoting(open: OpenCrateState) {
  const [places, setPlaces] = useState<number[] | null>(null);
  return {
    ask: () => {
      if (open.byHand && open.selection.count) setPlaces(open.chosen());
    },
    dialog: places && <NoteDialog open={open} places={places} onClose={() => setPlaces(null)} />,
  };
}

function NoteDialog({ open, places, onClose }: Props) {
  const [before] = places.map((place) => open.notes?.[place] ?? "");
  const [note, setNote] = useState(before ?? "");
  const { note: save } = open.actions;
  return (
    <FormDialog
      title={places.length === 1 ? "Note on this place" : `Note on ${counted(places.length, "place")}`}
      action={note.trim() ? "Keep" : "No note"}
      disabled={save.isPending}
      onSubmit={() => save.mutate({ places, note: note.trim() }, { onSuccess: onClose })}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Note"
        placeholder="mix out early, only after midnight…"
        value={note}
        onChange={(event) => setNote(event.target.value)}
        onFocus={(event) => event.target.select()}
        slotProps={{ htmlInput: { maxLength: LONGEST } }}
      />
    </FormDialog>
  );
}
