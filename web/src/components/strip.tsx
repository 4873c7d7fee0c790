/** What is left of a part at the side that is folded away: a strip that brings it back; and the sign that folds it. */
import { Box, IconButton, Tooltip } from "@mui/material";
import { shown } from "./key-map";
import type { KeyEntry } from "./keys";

interface Props {
  name: string;
  entry: KeyEntry;
  side: "left" | "right";
  onClick: () => void;
}

export function Strip({ name, entry, side, onClick }: Props) {
  return (
    <Tooltip title={`Show: ${name} (${shown(entry)})`}>
      <Box
        component="button"
        type="button"
        aria-label={`Show: ${name}`}
        aria-expanded={false}
        onClick={onClick}
        sx={(theme) => ({
          ...{ width: "1.9rem", border: 0, p: 0, pt: 1, cursor: "pointer", color: "text.secondary" },
          ...{ bgcolor: theme.inks.panel, font: "inherit", fontSize: "0.78rem", textAlign: "start" },
          writingMode: "vertical-rl",
          [side === "left" ? "borderRight" : "borderLeft"]: `1px solid ${theme.inks.rule}`,
        })}
      >
        {name}
      </Box>
    </Tooltip>
  );
}

/** Folds a part away. */
export function FoldSign({ name, entry, side, onClick }: Props) {
  return (
    <Tooltip title={`Fold: ${name} (${shown(entry)})`}>
      <IconButton
        size="small"
        aria-label={`Fold: ${name}`}
        aria-expanded
        onClick={onClick}
        sx={{ fontSize: "0.95rem", p: 0.2, lineHeight: 1, color: "text.secondary" }}
      >
        {side === "left" ? "‹" : "›"}
      </IconButton>
    </Tooltip>
  );
}
