/** What a divider says: its name, a sign, a colour. */
import { Box, TextField } from "@mui/material";
import { useState } from "react";
import type { Crate } from "../../api/client";
import { ColourChoice, type Colour } from "../../components/colour-choice";
import { FormDialog } from "../../components/form-dialog";
import { useDividerChanges, useListChanges } from "./list-changes";
import type { Writing } from "./use-dividers";

interface Props {
  crate: Crate;
  writing: Writing;
  onClose: () => void;
}

export function DividerDialog({ crate, writing, onClose }: Props) {
  const there = "section" in writing ? writing.section : null;
  const [name, setName] = useState(there?.name ?? "");
  const [sign, setSign] = useState(there?.sign ?? "");
  const [colour, setColour] = useState((there?.colour || null) as Colour | null);
  const { addDivider } = useListChanges(crate);
  const { change } = useDividerChanges();
  const done = () => {
    const said = { name: name.trim(), sign: sign.trim(), colour: colour ?? ("" as const) };
    if ("section" in writing) change.mutate({ id: writing.section.divider_id ?? 0, body: said });
    else addDivider.mutate({ ...said, at: writing.at });
    onClose();
  };
  return (
    <FormDialog
      title={there ? "Change a divider" : "Set a divider"}
      action={there ? "Change" : "Set"}
      disabled={!name.trim()}
      onSubmit={done}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="What it says"
        value={name}
        onChange={(event) => setName(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 120 } }}
      />
      <LookFields {...{ sign, colour }} onSign={setSign} onColour={setColour} />
    </FormDialog>
  );
}

interface LookProps {
  sign: string;
  colour: Colour | null;
  onSign: (sign: string) => void;
  onColour: (colour: Colour | null) => void;
}

/** A sign and a colour, each of which may be left out. */
export function LookFields({ sign, colour, onSign, onColour }: LookProps) {
  return (
    <Box sx={{ display: "flex", gap: 2, alignItems: "flex-end", mt: 1 }}>
      <TextField
        size="small"
        label="Sign"
        value={sign}
        onChange={(event) => onSign(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 8 } }}
        sx={{ width: 110 }}
      />
      <ColourChoice label="Colour" colour={colour} none="no colour" onChange={onColour} />
    </Box>
  );
}
