import type { Inks } from "../theme";
import type { TempoMap } from "./tempo-map";
import type { Waveform } from "./waveform";

/** Bars on top of each other: each bar's onsets as one thin row, the first on top. A right grid stands in straight stripes. */
export function drawRaster(canvas: HTMLCanvasElement, map: TempoMap, waveform: Waveform, duration: number, inks: Inks): void {
  const context = canvas.getContext("2d");
  if (!context || !canvas.clientWidth) return;
  const lead = 0.06;
  const firstBar = Math.ceil(map.beatAt(0) / map.beatsPerBar - 0.2);
  const bars = Math.max(1, Math.floor(map.beatAt(duration) / map.beatsPerBar) - firstBar);
  const columns = Math.round(canvas.clientWidth);
  canvas.width = columns;
  canvas.height = bars;
  const image = context.createImageData(columns, bars);
  const [ink, paper] = [rgb(inks.ink), rgb(inks.paper)];
  for (let bar = 0; bar < bars; bar++) {
    for (let x = 0; x < columns; x++) {
      const beat = (firstBar + bar + x / columns - lead) * map.beatsPerBar;
      const step = Math.round(map.timeAt(beat) * waveform.levels[0].rate);
      const strength = Math.min(1, ((waveform.onsetLow[step] ?? 0) + (waveform.onsetHigh[step] ?? 0)) / 240);
      const at = 4 * (bar * columns + x);
      for (let c = 0; c < 3; c++) image.data[at + c] = (paper[c] ?? 0) + ((ink[c] ?? 0) - (paper[c] ?? 0)) * strength;
      image.data[at + 3] = 255;
    }
  }
  context.putImageData(image, 0, 0);
  context.fillStyle = inks.now;
  for (let beat = 0; beat < map.beatsPerBar; beat++) {
    context.globalAlpha = beat === 0 ? 0.9 : 0.4;
    context.fillRect(Math.round((beat / map.beatsPerBar + lead) * columns), 0, 1, bars);
  }
  context.globalAlpha = 1;
}

function rgb(hex: string): [number, number, number] {
  const value = parseInt(hex.slice(1), 16);
  return [value >> 16, (value >> 8) & 255, value & 255];
}
