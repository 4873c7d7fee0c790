/** Bars on top of each other: a right grid stands in straight stripes. */
import { Box, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { rasterQuery } from "../../api/queries";
import { drawRaster, SIDE, type Lean, type Raster as RasterData } from "../../drawing/raster";
import type { TempoMap } from "../../drawing/tempo-map";
import { isLocked, type Bench } from "./bench";
import type { GridEdit } from "./use-track-actions";

const TALL = 168;

interface Hold {
  x: number;
  y: number;
  lean: boolean;
  by: number;
}

/** Dragged sideways it shifts the grid; with Shift it leans, and changes the tempo; a double click splits the map there. */
export function Raster({ bench, map }: { bench: Bench; map: TempoMap }) {
  const { inks } = useTheme();
  const { data, actions } = bench.track;
  const raster = useQuery(rasterQuery(data.track.id, data.grid)).data ?? null;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [hold, setHold] = useState<Hold | null>(null);
  const lean = raster && hold ? leanOf(hold, raster, map) : null;
  const locked = isLocked(bench, "grid");
  useEffect(() => {
    if (canvas.current && raster)
      drawRaster(canvas.current, raster, lean, map.beatsPerBar, anchorRows(map, raster), inks);
  }, [raster, lean, map, inks]);
  const release = () => {
    setHold(null);
    const edit = raster && hold && Math.abs(hold.by) >= 1e-4 ? editOf(hold, raster, map) : null;
    if (edit) actions.grid.mutate(edit);
  };
  return (
    <Box>
      <Heading words={raster && hold ? wordsOf(hold, raster, map) : ""} />
      <canvas
        ref={canvas}
        role="img"
        aria-label="Each bar's onsets as a row, the first bar on top; a right grid stands in straight stripes"
        title="Drag: shift the grid. ⇧ and drag: lean it, the top stays, the tempo changes. Double click on a break: split the grid there."
        style={{ ...STYLE, cursor: locked ? "not-allowed" : "ew-resize" }}
        onPointerDown={(e) => {
          if (locked) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          setHold({ x: e.clientX, y: e.nativeEvent.offsetY, lean: e.shiftKey, by: 0 });
        }}
        onPointerMove={(e) => {
          const by = ((e.clientX - (hold?.x ?? 0)) * (1 + 2 * SIDE)) / e.currentTarget.clientWidth;
          if (hold) setHold({ ...hold, by });
        }}
        onPointerUp={release}
        onDoubleClick={(e) => {
          const time_s = raster ? timeOfRow(rowAt(e.nativeEvent.offsetY, raster), raster, map) : null;
          if (time_s !== null) actions.grid.mutate({ edit: "add anchor", time_s });
        }}
      />
    </Box>
  );
}

const STYLE = { width: "100%", height: TALL, display: "block", touchAction: "none" } as const;

function Heading({ words }: { words: string }) {
  return (
    <Box sx={{ display: "flex", justifyContent: "space-between" }}>
      <Typography variant="overline">Bars on top of each other</Typography>
      <Typography variant="overline" role="status">
        {words}
      </Typography>
    </Box>
  );
}

function rowAt(y: number, raster: RasterData): number {
  return (y / TALL) * raster.bars;
}

function timeOfRow(row: number, raster: RasterData, map: TempoMap): number {
  return map.timeAt((Math.round(row) + raster.firstBar) * map.beatsPerBar);
}

function wordsOf(hold: Hold, raster: RasterData, map: TempoMap): string {
  const { bpm, by_s } = whatIsWanted(hold, raster, map);
  return bpm === null ? `${(1000 * by_s).toFixed(1)} ms` : `${bpm.toFixed(3)} bpm`;
}

function editOf(hold: Hold, raster: RasterData, map: TempoMap): GridEdit {
  const { bpm, by_s } = whatIsWanted(hold, raster, map);
  if (bpm === null) return { edit: "shift", by_s };
  const time_s = timeOfRow(rowAt(hold.y, raster), raster, map);
  if (map.anchors.length > 1) return { edit: "tempo of this part", time_s, bpm };
  return { edit: "set tempo", bpm, hold_s: timeOfRow(0, raster, map) };
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
