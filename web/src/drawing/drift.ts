/** The drift line: how far attacks lie from the grid. */
import type { Schema } from "../api/client";
import { FIGURES, type Inks } from "../theme";
import { prepare } from "./canvas";

const LEAST_REACH_MS = 12;
const SURE_MS = 6;
const LEFT = 62;
const RIGHT = 6;

/** The time at a place on the drift line. */
export function driftTime(x: number, width: number, duration: number): number {
  return Math.max(0, Math.min(duration, ((x - LEFT) / (width - LEFT - RIGHT)) * duration));
}

/** How far attacks lie from the grid along the whole track, in ms: the line, its spread as a band, and the worst place. */
export function drawDrift(
  canvas: HTMLCanvasElement,
  drift: Schema["DriftOut"],
  duration: number,
  inks: Inks,
): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const reach = Math.max(LEAST_REACH_MS, ...drift.offset_ms.map((offset) => Math.abs(offset) + 3));
  const xOf = (time: number) => LEFT + (time / duration) * (width - LEFT - RIGHT);
  const yOf = (ms: number) => height / 2 - (ms / reach) * (height / 2 - 1);
  context.fillStyle = inks.panel;
  context.fillRect(LEFT, 0, width - LEFT - RIGHT, height);
  context.fillStyle = inks.rule;
  context.fillRect(LEFT, height / 2 - 0.5, width - LEFT - RIGHT, 1);
  const wide = Math.max(2, (width - LEFT) / Math.max(1, drift.times_s.length));
  drift.times_s.forEach((time, i) => {
    const offset = drift.offset_ms[i] ?? 0;
    const spread = Math.min(reach, drift.spread_ms[i] ?? 0);
    context.globalAlpha = 0.35;
    context.fillStyle = inks.peak;
    context.fillRect(
      xOf(time) - wide / 2,
      yOf(offset + spread),
      wide,
      Math.max(1, yOf(offset - spread) - yOf(offset + spread)),
    );
    context.globalAlpha = 1;
    context.fillStyle = Math.abs(offset) > SURE_MS ? inks.now : inks.ink;
    context.fillRect(xOf(time) - wide / 2, yOf(offset) - 1, wide, 2);
  });
  context.font = `10.5px ${FIGURES}`;
  context.textAlign = "right";
  context.fillStyle = inks.faint;
  context.fillText(`+${Math.round(reach)} ms`, LEFT - 9, 9);
  context.fillText(`−${Math.round(reach)}`, LEFT - 9, height - 1);
}
