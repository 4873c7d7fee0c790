/** The drift line below the close-up. */
import { Box, Button, Tooltip } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef } from "react";
import type { Schema } from "../../api/client";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { shown } from "../../components/key-map";
import { KeyHint } from "../../components/key-hint";
import { KEYS } from "../../components/keys";
import { drawDrift, driftTime } from "../../drawing/drift";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { gridActions } from "./grid-actions";
import { useRedraw } from "./use-redraw";

/** How far the attacks lie from the grid, along the whole track; the worst place is a click or a key away. */
export function DriftStrip({ bench, drift }: { bench: Bench; drift: Schema["DriftOut"] }) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const duration = bench.track.data.track.duration_s;
  useRedraw(canvas, (element) => drawDrift(element, drift, duration, inks));
  const worst = drift.times_s.reduce(
    (most, _, i) => (Math.abs(drift.offset_ms[i] ?? 0) > Math.abs(drift.offset_ms[most] ?? 0) ? i : most),
    0,
  );
  const offset = drift.offset_ms[worst] ?? 0;
  const words = `${offset > 0 ? "+" : offset < 0 ? "−" : ""}${Math.abs(offset).toFixed(0)} ms at ${clock(drift.times_s[worst] ?? 0)}`;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 0.9 }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Drift of attacks from the grid; most ${words}`}
        title="How far attacks lie from the grid, in ms, with their spread. Above the line they are late."
        style={{ flex: 1, minWidth: 0, height: 32, cursor: "pointer" }}
        onClick={(e) => engine.seek(driftTime(e.nativeEvent.offsetX, e.currentTarget.clientWidth, duration))}
      />
      <Tooltip describeChild title="Go to the worst place of the grid">
        <Button
          onClick={gridActions(bench).worst}
          sx={{
            fontFamily: FIGURES,
            fontSize: "0.72rem",
            fontWeight: 500,
            px: 0.7,
            color: Math.abs(offset) > 6 ? "error.main" : "text.primary",
          }}
        >
          {words}
          <KeyHint>{shown(KEYS.grid.worst)}</KeyHint>
        </Button>
      </Tooltip>
    </Box>
  );
}
