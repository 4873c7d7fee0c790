/** Choosing the crate, or making one, that tracks are put into. */
import { Box, Button, List, ListItemButton, ListItemText, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useMakeCrate, usePutIntoCrate } from "../api/changes";
import type { Picked } from "../api/client";
import { byHandQuery } from "../api/queries";
import { FormDialog } from "./form-dialog";
import { intoSight, useSteps } from "./use-steps";

/** Choose a crate by typing; a name that is not there yet makes a new one. */
export function PutIntoCrate({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const crates = useQuery(byHandQuery).data ?? [];
  const put = usePutIntoCrate();
  const make = useMakeCrate();
  const [text, setText] = useState("");
  const wanted = text.trim().toLowerCase();
  const found = crates.filter((crate) => crate.name.toLowerCase().includes(wanted));
  const steps = useSteps(found.length);
  const exact = crates.some((crate) => crate.name.toLowerCase() === wanted);
  const into = (crate: { id: number; name: string }) => {
    put.mutate({ crate, chosen: picked.chosen });
    onClose();
  };
  const makeNew = () => make.mutate({ name: text.trim() }, { onSuccess: into });
  const submit = () => {
    const chosen = found[steps.at];
    if (chosen) into(chosen);
    else if (wanted) makeNew();
  };
  return (
    <FormDialog
      title={`Put ${counted(picked.count, "track")} into…`}
      action="Put in"
      disabled={!found.length && !wanted}
      others={wanted && !exact && <Button onClick={makeNew}>Make “{text.trim()}”</Button>}
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Crate"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          steps.toFirst();
        }}
        onKeyDown={steps.onKeyDown}
      />
      <List dense sx={{ maxHeight: 260, overflow: "auto" }}>
        {found.map((crate, i) => (
          <ListItemButton
            key={crate.id}
            selected={i === steps.at}
            ref={i === steps.at ? intoSight : undefined}
            onClick={() => into(crate)}
          >
            <ListItemText primary={crate.name} secondary={counted(crate.tracks, "track")} />
          </ListItemButton>
        ))}
        {!found.length && !wanted && (
          <Box sx={{ color: "text.secondary", py: 1 }}>There is no crate yet. Type a name to make one.</Box>
        )}
      </List>
    </FormDialog>
  );
}
