import { useDroppable, type Over } from "@dnd-kit/core";
import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Crate } from "../../api/client";
import { counted, cratesQuery } from "../../api/queries";

/** The crate that something was dropped on. */
export function crateOf(over: Over | null): Crate | null {
  return (over?.data.current?.["crate"] as Crate | undefined) ?? null;
}

/** Crates to drop tracks on, there only while tracks are dragged. */
export function CrateDrop() {
  const crates = useQuery(cratesQuery).data ?? [];
  return (
    <Box
      data-testid="crate-drop"
      sx={(theme) => ({
        position: "fixed",
        right: 0,
        top: 50,
        bottom: 0,
        width: 260,
        zIndex: 1200,
        bgcolor: theme.inks.panel,
        borderLeft: `2px solid ${theme.inks.ink}`,
        p: 2,
        overflow: "auto",
      })}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>
        Drop into a crate
      </Typography>
      {crates.map((crate) => (
        <Target key={crate.id} crate={crate} />
      ))}
      {!crates.length && (
        <Box sx={{ color: "text.secondary" }}>There is no crate yet. Let go, and press P to make one.</Box>
      )}
    </Box>
  );
}

function Target({ crate }: { crate: Crate }) {
  const { setNodeRef, isOver } = useDroppable({ id: `crate-${crate.id}`, data: { crate } });
  return (
    <Box
      ref={setNodeRef}
      data-crate={crate.name}
      sx={(theme) => ({
        mb: 1,
        p: 1.2,
        border: `1px solid ${isOver ? theme.inks.chosen : theme.inks.rule}`,
        borderRadius: "4px",
        bgcolor: isOver ? theme.inks.chosenWash : "background.paper",
      })}
    >
      <Box sx={{ fontWeight: 600 }}>{crate.name}</Box>
      <Typography variant="overline">{counted(crate.tracks, "track")}</Typography>
    </Box>
  );
}
