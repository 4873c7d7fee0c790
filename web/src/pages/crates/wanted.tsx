/** What is wanted in a crate and not owned yet: each entry with its place, under the crate's name. */
import { Box, Button, Collapse, IconButton } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Crate, type Schema } from "../../api/client";
import { wantedQuery } from "../../api/queries";
import { useRemembered } from "../../settings";
import { FIGURES } from "../../theme";

export function Wanted({ crate }: { crate: Crate }) {
  const [open, setOpen] = useRemembered("wanted open", true);
  if (!crate.wanted) return null;
  return (
    <Box
      sx={(theme) => ({ borderTop: 1, borderColor: "divider", bgcolor: theme.inks.panel, px: 2, py: 0.6 })}
    >
      <Button
        onClick={() => setOpen(!open)}
        aria-expanded={open}
        sx={{ color: "warning.main", textTransform: "none", px: 0.5 }}
      >
        {open ? "▾" : "▸"} {counted(crate.wanted, "entry", "entries")} wanted: each takes its place here when
        its file arrives
      </Button>
      <Collapse in={open} unmountOnExit>
        <Entries crate={crate} />
      </Collapse>
    </Box>
  );
}

function Entries({ crate }: { crate: Crate }) {
  const entries = useQuery(wantedQuery(crate.id)).data ?? [];
  const drop = useChange((ids: number[]) =>
    unwrap(
      client.POST("/api/crates/{crate_id}/wanted/remove", {
        params: { path: { crate_id: crate.id } },
        body: { ids },
      }),
    ),
  );
  return (
    <Box role="list" aria-label="Wanted" sx={{ maxHeight: 150, overflow: "auto" }}>
      {entries.map((entry) => (
        <Entry key={entry.id} entry={entry} onDrop={() => drop.mutate([entry.id])} />
      ))}
      {crate.wanted > entries.length && entries.length > 0 && (
        <Box sx={{ pl: 5.8, color: "text.secondary", fontSize: "0.86rem" }}>
          and {counted(crate.wanted - entries.length, "more entry", "more entries")}
        </Box>
      )}
    </Box>
  );
}

function Entry({ entry, onDrop }: { entry: Schema["WantedOut"]; onDrop: () => void }) {
  const name = [entry.artist, entry.title].filter(Boolean).join(" – ") || entry.path.split(/[\\/]/).pop();
  return (
    <Box
      role="listitem"
      title={entry.path}
      sx={{ display: "flex", alignItems: "center", gap: 1.2, fontSize: "0.86rem", minHeight: 30 }}
    >
      <Box sx={{ fontFamily: FIGURES, width: 34, textAlign: "right", color: "text.secondary" }}>?</Box>
      <Box sx={{ fontWeight: 600 }}>{name}</Box>
      <Box sx={{ color: "text.secondary", flex: 1, minWidth: 0 }}>
        {entry.after ? `after “${entry.after}”` : "at the beginning"}, from {entry.came_from}
      </Box>
      <IconButton
        size="small"
        aria-label={`Want ${name} no more`}
        title="Want it no more (Undo brings it back)"
        onClick={onDrop}
      >
        ×
      </IconButton>
    </Box>
  );
}
