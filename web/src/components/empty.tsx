/** What stands where there is nothing yet. */
import { Box, Typography } from "@mui/material";
import type { ReactNode } from "react";

/** What a room says while there is nothing in it, and what to do about it. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box sx={{ m: "auto", p: 4, maxWidth: 460, textAlign: "left" }}>
      <Typography variant="h1" sx={{ mb: 1 }}>
        {title}
      </Typography>
      <Box sx={{ color: "text.secondary", "& > * + *": { mt: 1.5 } }}>{children}</Box>
    </Box>
  );
}
