/** A name that is written anew in its place: Enter keeps it, Esc leaves it as it was. */
import { TextField } from "@mui/material";
import { useRef, useState } from "react";
import type { Crate } from "../../api/client";
import { useCrateActions } from "./use-crate-actions";

export function RenameField({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const [name, setName] = useState(crate.name);
  const { rename } = useCrateActions(crate);
  // Leaving the field keeps the name too, but only once.
  const over = useRef(false);
  const end = (keep: boolean) => {
    if (over.current) return;
    over.current = true;
    if (keep && name.trim() && name.trim() !== crate.name) rename.mutate(name.trim());
    onClose();
  };
  return (
    <TextField
      autoFocus
      fullWidth
      size="small"
      value={name}
      onChange={(event) => setName(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={() => end(true)}
      onKeyDown={(event) => {
        if (event.key === "Enter") end(true);
        if (event.key === "Escape") end(false);
      }}
      slotProps={{ htmlInput: { "aria-label": `Name of ${crate.name}`, maxLength: 120 } }}
      sx={{ mb: 0.8 }}
    />
  );
}
