/** The locks of a track. */
import { Box, Tooltip } from "@mui/material";
import type { Part } from "../../api/client";
import { useLock } from "../../api/changes";
import { shown } from "../../components/key-map";
import { KEYS, type KeyEntry } from "../../components/keys";
import { isLocked, type Bench } from "./bench";

const PARTS: { part: Part; entry: KeyEntry }[] = [
  { part: "grid", entry: KEYS.grid.lock },
  { part: "cues", entry: KEYS.cues.lock },
  { part: "key", entry: KEYS.track.lockKey },
  { part: "tags", entry: KEYS.track.lockTags },
];

/** Each part of a track can be locked on its own: then edits, analysis and imports leave it alone. */
export function Locks({ bench }: { bench: Bench }) {
  const lock = useLock();
  return (
    <Box
      role="group"
      aria-label="Locks"
      sx={{ display: "flex", border: 1, borderColor: "divider", borderRadius: "3px", overflow: "hidden" }}
    >
      {PARTS.map(({ part, entry }) => {
        const on = isLocked(bench, part);
        return (
          <Tooltip key={part} title={`${on ? "Locked: unlock" : "Open: lock"} the ${part} (${shown(entry)})`}>
            <Box
              component="button"
              type="button"
              aria-pressed={on}
              aria-label={`Lock ${part}`}
              onClick={() => lock.mutate({ ids: [bench.track.data.track.id], part, locked: !on })}
              sx={(theme) => ({
                border: 0,
                borderLeft: part === "grid" ? 0 : 1,
                borderColor: theme.inks.rule,
                px: 0.8,
                py: 0.2,
                font: "inherit",
                fontSize: "0.75rem",
                cursor: "pointer",
                bgcolor: on ? theme.inks.ink : theme.inks.paper,
                color: on ? theme.inks.paper : theme.inks.faint,
              })}
            >
              {on ? "▪ " : ""}
              {part}
            </Box>
          </Tooltip>
        );
      })}
    </Box>
  );
}
