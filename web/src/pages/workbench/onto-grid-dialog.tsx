/** Cues onto the grid in one step, after showing how far each goes. */
import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { clock } from "../../components/format";
import { FIGURES } from "../../theme";
import type { Bench, Snap } from "./bench";

/** Cues keep their seconds when a grid changes; here they are moved onto it in one step, after showing how far each goes. */
export function OntoGridDialog({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { id } = bench.track.data.track;
  const [snap, setSnap] = useState<Snap>("beat");
  const moves = useQuery({
    queryKey: ["tracks", "onto grid", id, snap],
    queryFn: () =>
      unwrap(
        client.POST("/api/tracks/{track_id}/cues/onto-grid", {
          params: { path: { track_id: id } },
          body: { snap, apply: false },
        }),
      ),
  }).data;
  const far = moves?.filter((move) => Math.abs(move.by_ms) >= 0.05).length ?? 0;
  const move = (event: React.FormEvent) => {
    event.preventDefault();
    bench.track.actions.ontoGrid.mutate({ snap, apply: true }, { onSuccess: onClose });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={move}>
        <DialogTitle>Cues onto the grid</DialogTitle>
        <DialogContent>
          <TextField
            select
            autoFocus
            size="small"
            margin="dense"
            label="To the nearest"
            value={snap}
            onChange={(e) => setSnap(e.target.value as Snap)}
          >
            {["beat", "bar", "phrase"].map((unit) => (
              <MenuItem key={unit} value={unit}>
                {unit}
              </MenuItem>
            ))}
          </TextField>
          <Moves moves={moves ?? []} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!far}>
            {far ? `Move ${far}` : "All lie on it"}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

interface Move {
  cue_id: number;
  label: string;
  from_s: number;
  by_ms: number;
}

function Moves({ moves }: { moves: Move[] }) {
  return (
    <Box sx={{ mt: 1, fontSize: "0.86rem" }}>
      {moves.map((each) => (
        <Box
          key={each.cue_id}
          sx={{
            ...{ display: "grid", gridTemplateColumns: "1fr auto 90px", gap: 1, py: 0.3 },
            ...{ borderBottom: 1, borderColor: "divider" },
          }}
        >
          <span>{each.label || "Cue"}</span>
          <Box sx={{ fontFamily: FIGURES, color: "text.secondary" }}>{clock(each.from_s, true)}</Box>
          <Box
            sx={{
              ...{ fontFamily: FIGURES, textAlign: "right" },
              color: Math.abs(each.by_ms) > 100 ? "error.main" : "text.primary",
            }}
          >
            {wordsOf(each.by_ms)}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function wordsOf(by_ms: number): string {
  if (Math.abs(by_ms) < 0.05) return "stays";
  return `${by_ms > 0 ? "+" : "−"}${Math.abs(by_ms).toFixed(1)} ms`;
}
