/** The key of a button, written small on it. */
import { Box } from "@mui/material";

/** The key of an action, on its button. */
export function KeyHint({ children }: { children: string }) {
  return (
    <Box
      component="span"
      aria-hidden
      sx={{
        fontFamily: "'IBM Plex Mono', monospace",
        fontSize: "0.78em",
        fontWeight: 400,
        opacity: 0.72,
        ml: 0.9,
      }}
    >
      {children}
    </Box>
  );
}
