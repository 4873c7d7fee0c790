/** How a list or folder looks among the others, and what its owner notes about it. */
import { TextField } from "@mui/material";
import { useState } from "react";
import type { Crate } from "../../api/client";
import type { Colour } from "../../components/colour-choice";
import { FormDialog } from "../../components/form-dialog";
import { LookFields } from "./divider-dialog";
import { useListChanges } from "./list-changes";

export function LooksDialog({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const [sign, setSign] = useState(crate.sign);
  const [colour, setColour] = useState((crate.colour || null) as Colour | null);
  const [note, setNote] = useState(crate.note);
  const { looks } = useListChanges(crate);
  return (
    <FormDialog
      title={`“${crate.name}”`}
      action="Keep"
      onSubmit={() => {
        looks.mutate({ sign: sign.trim(), colour: colour ?? "", note: note.trim() });
        onClose();
      }}
      onClose={onClose}
    >
      <LookFields {...{ sign, colour }} onSign={setSign} onColour={setColour} />
      <TextField
        fullWidth
        multiline
        minRows={3}
        maxRows={8}
        size="small"
        margin="normal"
        label="Note"
        value={note}
        onChange={(event) => setNote(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 2000 } }}
      />
    </FormDialog>
  );
}
