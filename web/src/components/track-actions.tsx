/** What can be done with the chosen tracks, in a strip under the table, each with its key. */
import { Box, Button } from "@mui/material";
import { counted } from "../api/changes";
import type { KeyEntry } from "./keys";
import { KeyHint } from "./key-hint";
import { shown } from "./key-map";

export interface TrackAction {
  words: string;
  at: KeyEntry;
  act: () => void;
}

export function TrackActions({ chosen, actions }: { chosen: number; actions: TrackAction[] }) {
  return (
    <Box
      role="toolbar"
      aria-label="With the chosen tracks"
      sx={(theme) => ({
        display: "flex",
        alignItems: "center",
        gap: 0.8,
        px: 2,
        py: 0.5,
        borderTop: 1,
        borderColor: "divider",
        bgcolor: theme.inks.panel,
        fontSize: "0.8rem",
      })}
    >
      <Box sx={{ color: "text.secondary", minWidth: 96 }}>
        {chosen ? `${counted(chosen, "track")} chosen` : "none chosen"}
      </Box>
      {actions.map(({ words, at, act }) => (
        <Button key={at.id} size="small" disabled={!chosen} onClick={act}>
          {words} <KeyHint>{shown(at)}</KeyHint>
        </Button>
      ))}
    </Box>
  );
}
