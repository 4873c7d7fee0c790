/** The whole track as a line of its loudness, from the waveform on the stick (docs/formats/stick.md). */
import type { StickTrack } from "./stick";

export interface Overview {
  step_s: number;
  peak: Uint8Array;
  low: Uint8Array;
}

/** Reads a stick's waveform; null where it is none. */
export function parseOverview(data: ArrayBuffer): Overview | null {
  const view = new DataView(data);
  if (data.byteLength < 16 || view.getUint32(0, false) !== 0x56574f31) return null; // "VWO1"
  const [rate, hop, count] = [view.getUint32(4, true), view.getUint32(8, true), view.getUint32(12, true)];
  if (!rate || data.byteLength < 16 + 3 * count) return null;
  return {
    step_s: hop / rate,
    peak: new Uint8Array(data, 16, count),
    low: new Uint8Array(data, 16 + 2 * count, count),
  };
}

const INK = { back: "#0e1719", high: "#5f8f86", low: "#d9c37a", past: "#fff6d6", cue: "#e6b04a" };

export function drawOverview(
  canvas: HTMLCanvasElement,
  track: StickTrack,
  overview: Overview,
  now_s: number,
): void {
  const context = canvas.getContext("2d");
  const { clientWidth: width, clientHeight: height } = canvas;
  if (!context) return;
  if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  context.fillStyle = INK.back;
  context.fillRect(0, 0, width, height);
  const per = track.duration_s / overview.step_s / width;
  for (let x = 0; x < width; x++) {
    const [from, to] = [Math.floor(x * per), Math.max(Math.floor(x * per) + 1, Math.floor((x + 1) * per))];
    for (const [values, ink] of [
      [overview.peak, INK.high],
      [overview.low, INK.low],
    ] as const) {
      let most = 0;
      for (let i = from; i < to; i++) most = Math.max(most, values[i] ?? 0);
      context.fillStyle = ink;
      context.fillRect(x, height - (most / 255) * height, 1, height);
    }
  }
  const at = (time_s: number) => (time_s / track.duration_s) * width;
  context.fillStyle = INK.cue;
  for (const cue of track.cues) context.fillRect(at(cue.position_s) - 1, 0, 2, 7);
  context.fillStyle = INK.past;
  context.fillRect(at(now_s) - 1, 0, 2, height);
}
