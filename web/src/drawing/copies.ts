/** Draws a copy of a recording over the times of another, with its cues. */
import type { Cue } from "../api/client";
import type { Inks } from "../theme";
import { prepare } from "./canvas";
import { drawFlagAt, type Palette } from "./flags";
import { highest, levelFor, type Waveform } from "./waveform";

export interface CopyContent {
  waveform: Waveform | null;
  /** `its time = speed * time + offset`. */
  speed: number;
  offset: number;
  duration: number;
  cues: readonly Cue[];
  palette: Palette;
  /** The times that the picture shows. */
  from: number;
  to: number;
}

export function drawCopy(canvas: HTMLCanvasElement, content: CopyContent, inks: Inks): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const { speed, offset, from, to } = content;
  const middle = height / 2;
  const step = (to - from) / width;
  const timeAt = (x: number) => speed * (from + x * step) + offset;
  if (content.waveform) {
    const level = levelFor(content.waveform, step * speed);
    for (let x = 0; x < width; x++) {
      const [first, last] = [timeAt(x), timeAt(x + 1)];
      if (last <= 0 || first >= content.duration) continue;
      for (const [values, ink] of [
        [level.peak, inks.peak],
        [level.body, inks.body],
      ] as const) {
        const tall = (highest(values, level.rate, first, last) / 255) * (middle - 2);
        context.fillStyle = ink;
        context.fillRect(x, middle - tall, 1, Math.max(1, 2 * tall));
      }
    }
  }
  for (const cue of content.cues) {
    const x = ((cue.position_s - offset) / speed - from) / step;
    drawFlagAt(context, x, 1, height - 2, cue, false, content.palette, inks);
  }
}
