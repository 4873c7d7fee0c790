/** The raster: bars on top of each other. */
import type { Inks } from "../theme";

/** Onsets of every bar as the core has folded them: rows of `columns` from `margin` of a bar before it to as much after. */
export interface Raster {
  bars: number;
  columns: number;
  firstBar: number;
  margin: number;
  low: Uint8Array;
  high: Uint8Array;
}

/** How a hand moves the raster before it lets go: all bars by so many bars, and each row leaning more than the one before. */
export interface Lean {
  shift: number;
  /** Bars to the right at row `at`; rows before `from` stand still. */
  by: number;
  from: number;
  at: number;
}

/** How much of a bar before and after it is in sight. */
export const SIDE = 0.07;
const HEAD = 16;

export function parseRaster(buffer: ArrayBuffer): Raster {
  const view = new DataView(buffer);
  const [bars, columns, firstBar, margin] = [
    view.getInt32(0, true),
    view.getInt32(4, true),
    view.getInt32(8, true),
    view.getFloat32(12, true),
  ];
  return {
    bars,
    columns,
    firstBar,
    margin,
    low: new Uint8Array(buffer, HEAD, bars * columns),
    high: new Uint8Array(buffer, HEAD + bars * columns),
  };
}

/** How far a row is moved, in bars. */
export function rowShift(lean: Lean | null, row: number): number {
  if (!lean) return 0;
  return (
    lean.shift + (row > lean.from ? (lean.by * (row - lean.from)) / Math.max(1, lean.at - lean.from) : 0)
  );
}

/** Bars on top of each other, the first on top: the low band in ink, what lies above it in blue. A right grid stands in straight stripes. */
export function drawRaster(
  canvas: HTMLCanvasElement,
  raster: Raster,
  lean: Lean | null,
  beatsPerBar: number,
  anchorRows: readonly number[],
  inks: Inks,
): void {
  const context = canvas.getContext("2d");
  if (!context || !canvas.clientWidth) return;
  const [columns, rows] = [Math.round(canvas.clientWidth), raster.bars];
  canvas.width = columns;
  canvas.height = rows;
  const image = context.createImageData(columns, rows);
  const inkOf = mixer(rgb(inks.paper), rgb(inks.ink), rgb(inks.sure));
  const perColumn = ((1 + 2 * SIDE) / columns) * (raster.columns / (1 + 2 * raster.margin));
  for (let row = 0; row < rows; row++) {
    const from = ((raster.margin - SIDE - rowShift(lean, row)) / (1 + 2 * raster.margin)) * raster.columns;
    for (let x = 0; x < columns; x++) {
      const column = Math.round(from + x * perColumn);
      const inside = column >= 0 && column < raster.columns;
      const at = row * raster.columns + column;
      inkOf(
        image.data,
        4 * (row * columns + x),
        inside ? (raster.low[at] ?? 0) : 0,
        inside ? (raster.high[at] ?? 0) : 0,
      );
    }
  }
  context.putImageData(image, 0, 0);
  for (let beat = 0; beat <= beatsPerBar; beat++) {
    context.globalAlpha = beat % beatsPerBar === 0 ? 0.9 : 0.4;
    context.fillStyle = inks.now;
    context.fillRect(Math.round(((beat / beatsPerBar + SIDE) / (1 + 2 * SIDE)) * columns), 0, 1, rows);
  }
  context.globalAlpha = 0.8;
  context.fillStyle = inks.chosen;
  for (const row of anchorRows)
    context.fillRect(0, row, Math.round(columns * 0.045), Math.max(1, rows / 150));
  context.globalAlpha = 1;
}

type Rgb = readonly [number, number, number];

function mixer(
  paper: Rgb,
  ink: Rgb,
  blue: Rgb,
): (pixels: Uint8ClampedArray, at: number, low: number, high: number) => void {
  return (pixels, at, low, high) => {
    const strong = Math.min(1, low / 200);
    const bright = Math.min(1, high / 210) * (1 - strong);
    for (const c of [0, 1, 2] as const)
      pixels[at + c] = paper[c] * (1 - strong - bright) + ink[c] * strong + blue[c] * bright;
    pixels[at + 3] = 255;
  };
}

function rgb(hex: string): Rgb {
  const value = parseInt(hex.slice(1), 16);
  return [value >> 16, (value >> 8) & 255, value & 255];
}
