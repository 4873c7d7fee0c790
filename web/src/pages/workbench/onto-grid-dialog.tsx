/** Cues onto the grid in one step, after showing how far each goes. */
import { Box, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
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
  const move = () => {
    bench.track.actions.ontoGrid.mutate({ snap, apply: true }, { onSuccess: onClose });
  };
  return (
    <FormDialog
      title="Cues onto the grid"
      action={far ? `Move ${far}` : "All lie on it"}
      disabled={!far}
      onSubmit={move}
      onClose={onClose}
    >
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
    </FormDialog>
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
