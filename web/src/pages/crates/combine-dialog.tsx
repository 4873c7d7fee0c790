/** What a crate does with another: takes it in, gives up what is in it, or keeps only what both have. */
import {
  FormControlLabel,
  List,
  ListItemButton,
  ListItemText,
  Radio,
  RadioGroup,
  TextField,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Crate, Schema } from "../../api/client";
import { cratesQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { useListChanges } from "./list-changes";

type How = Schema["CombineIn"]["how"];

const HOW: [How, string][] = [
  ["merge", "Put its tracks in, behind what is here"],
  ["subtract", "Take out what is in it"],
  ["intersect", "Leave only what is in it too"],
];

export function CombineDialog({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const others = (useQuery(cratesQuery).data ?? []).filter(({ id }) => id !== crate.id);
  const [how, setHow] = useState<How>("merge");
  const [text, setText] = useState("");
  const [other, setOther] = useState<number | null>(null);
  const found = others.filter(({ name }) => name.toLowerCase().includes(text.trim().toLowerCase()));
  const chosen = found.find(({ id }) => id === other) ?? (text.trim() ? found[0] : undefined);
  const { combine } = useListChanges(crate);
  return (
    <FormDialog
      title={`“${crate.name}” with another crate`}
      action="Do it"
      disabled={!chosen}
      onSubmit={() => {
        if (chosen) combine.mutate({ how, other_id: chosen.id });
        onClose();
      }}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Which one"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <List dense aria-label="Crates" sx={{ maxHeight: 200, overflow: "auto" }}>
        {found.map(({ id, name, fills_itself: itself, is_folder: folder }) => (
          <ListItemButton key={id} selected={id === chosen?.id} onClick={() => setOther(id)}>
            <ListItemText primary={`${itself ? "≡ " : ""}${name}${folder ? ", all that is in it" : ""}`} />
          </ListItemButton>
        ))}
      </List>
      <RadioGroup aria-label="How" value={how} onChange={(event) => setHow(event.target.value as How)}>
        {HOW.map(([value, words]) => (
          <FormControlLabel key={value} value={value} label={words} control={<Radio size="small" />} />
        ))}
      </RadioGroup>
    </FormDialog>
  );
}
