import { Box, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { rasterQuery } from "../../api/queries";
import { drawRaster, SIDE, type Lean, type Raster as RasterData } from "../../drawing/raster";
import type { TempoMap } from "../../drawing/tempo-map";
import { isLocked, type Bench } from "./bench";

const TALL = 168;

interface Hold {
  x: number;
  y: number;
  lean: boolean;
  by: number;
}

/** Bars on top of each other. Dragged sideways it shifts the grid; with Shift it leans, and changes the tempo; a double click splits the map there. */
export function Raster({ bench, map }: { bench: Bench; map: TempoMap }) {
  const { inks } = useTheme();
  const { data, actions } = bench.track;
  const raster = useQuery(rasterQuery(data.track.id, data.grid)).data ?? null;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [hold, setHold] = useState<Hold | null>(null);
  const lean = raster && hold ? leanOf(hold, raster, map) : null;
  useEffect(() => {
    if (canvas.current && raster)
      drawRaster(canvas.current, raster, lean, map.beatsPerBar, anchorRows(map, raster), inks);
  }, [raster, lean, map, inks]);

  const timeOfRow = (row: number) =>
    map.timeAt((Math.round(row) + (raster?.firstBar ?? 0)) * map.beatsPerBar);
  const rowAt = (y: number) => (y / TALL) * (raster?.bars ?? 1);
  const wanted = raster && hold ? whatIsWanted(hold, raster, map) : null;
  const release = () => {
    setHold(null);
    if (!hold || !wanted || Math.abs(hold.by) < 1e-4) return;
    if (wanted.bpm === null) actions.grid.mutate({ edit: "shift", by_s: wanted.by_s });
    else if (map.anchors.length > 1)
      actions.grid.mutate({ edit: "tempo of this part", time_s: timeOfRow(rowAt(hold.y)), bpm: wanted.bpm });
    else actions.grid.mutate({ edit: "set tempo", bpm: wanted.bpm, hold_s: timeOfRow(0) });
  };
  const words = !wanted
    ? ""
    : wanted.bpm === null
      ? `${(1000 * wanted.by_s).toFixed(1)} ms`
      : `${wanted.bpm.toFixed(3)} bpm`;
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between" }}>
        <Typography variant="overline">Bars on top of each other</Typography>
        <Typography variant="overline" role="status">
          {words}
        </Typography>
      </Box>
      <canvas
        ref={canvas}
        role="img"
        aria-label="Each bar's onsets as a row, the first bar on top; a right grid stands in straight stripes"
        title="Drag: shift the grid. ⇧ and drag: lean it, the top stays, the tempo changes. Double click on a break: split the grid there."
        style={{
          width: "100%",
          height: TALL,
          display: "block",
          cursor: isLocked(bench, "grid") ? "not-allowed" : "ew-resize",
          touchAction: "none",
        }}
        onPointerDown={(e) => {
          if (isLocked(bench, "grid")) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          setHold({ x: e.clientX, y: e.nativeEvent.offsetY, lean: e.shiftKey, by: 0 });
        }}
        onPointerMove={(e) =>
          hold &&
          setHold({ ...hold, by: ((e.clientX - hold.x) * (1 + 2 * SIDE)) / e.currentTarget.clientWidth })
        }
        onPointerUp={release}
        onDoubleClick={(e) =>
          actions.grid.mutate({ edit: "add anchor", time_s: timeOfRow(rowAt(e.nativeEvent.offsetY)) })
        }
      />
    </Box>
  );
}

function leanOf(hold: Hold, raster: RasterData, map: TempoMap): Lean {
  const at = (hold.y / TALL) * raster.bars;
  return hold.lean
    ? { shift: 0, by: hold.by, from: leanFrom(map, raster, at), at }
    : { shift: hold.by, by: 0, from: 0, at: 1 };
}

/** The shift, or the tempo, that would put the stripes where the hand holds them. */
function whatIsWanted(hold: Hold, raster: RasterData, map: TempoMap): { bpm: number | null; by_s: number } {
  const row = (hold.y / TALL) * raster.bars;
  const at = map.timeAt((Math.round(row) + raster.firstBar) * map.beatsPerBar);
  if (hold.lean)
    return { bpm: map.bpmAt(at) / (1 - hold.by / Math.max(1, row - leanFrom(map, raster, row))), by_s: 0 };
  return { bpm: null, by_s: (-hold.by * map.beatsPerBar * 60) / map.bpmAt(at) };
}

/** The row that is held while leaning: where the part begins that the hand has taken. */
function leanFrom(map: TempoMap, raster: RasterData, row: number): number {
  const beat = (raster.firstBar + row) * map.beatsPerBar;
  const anchor = map.anchors.findLast((each) => each.beat <= beat) ?? map.anchors[0];
  return map.anchors.length > 1 && anchor ? Math.max(0, anchor.beat / map.beatsPerBar - raster.firstBar) : 0;
}

function anchorRows(map: TempoMap, raster: RasterData): number[] {
  return map.anchors.length > 1
    ? map.anchors.map((anchor) => anchor.beat / map.beatsPerBar - raster.firstBar)
    : [];
}
