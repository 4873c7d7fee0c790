/** What its owner has noted about a crate, under its name. */
import { Box } from "@mui/material";
import type { Crate } from "../../api/client";

export function Note({ crate }: { crate: Crate }) {
  if (!crate.note) return null;
  return (
    <Box
      data-testid="note"
      sx={{ fontSize: "0.86rem", whiteSpace: "pre-wrap", maxHeight: "4.2em", overflow: "auto", mt: 0.3 }}
    >
      {crate.note}
    </Box>
  );
}
