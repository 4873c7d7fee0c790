/** The strip of a track around what is heard now: its sound, its beats, its cues. */
import { beatsOf, type StickTrack } from "./stick";

const SPAN_S = 6;
const INK = {
  back: "#0e1719",
  sound: "#8fc3a8",
  bar: "#ff7a59",
  beat: "#5c7a70",
  now: "#fff6d6",
  cue: "#e6b04a",
};

export function drawStrip(
  canvas: HTMLCanvasElement,
  track: StickTrack,
  samples: Float32Array,
  rate: number,
  now_s: number,
  toTheRight: boolean,
): void {
  const context = canvas.getContext("2d");
  const { clientWidth: width, clientHeight: height } = canvas;
  if (!context) return;
  if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
  context.setTransform(toTheRight ? -1 : 1, 0, 0, 1, toTheRight ? width : 0, 0);
  const start = now_s - SPAN_S / 3;
  const x = (at_s: number) => ((at_s - start) / SPAN_S) * width;
  context.fillStyle = INK.back;
  context.fillRect(0, 0, width, height);
  context.fillStyle = INK.sound;
  for (let column = 0; column < width; column++) {
    const first = Math.round((start + (column / width) * SPAN_S) * rate);
    let most = 0;
    for (let i = Math.max(0, first); i < first + (SPAN_S / width) * rate; i += 4)
      most = Math.max(most, Math.abs(samples[i] ?? 0));
    context.fillRect(column, height / 2 - (most * height) / 2.3, 1, (most * height) / 1.15);
  }
  const perBar = track.beats_per_bar ?? 4;
  for (const { time, beat } of beatsOf(track)) {
    if (time < start || time > start + SPAN_S) continue;
    const bar = beat % perBar === 0;
    context.fillStyle = bar ? INK.bar : INK.beat;
    context.fillRect(x(time) - 1, 0, bar ? 2 : 1, height);
  }
  context.fillStyle = INK.cue;
  for (const cue of track.cues) {
    const wide = cue.length_s === null ? 4 : Math.max(4, (cue.length_s / SPAN_S) * width);
    context.fillRect(x(cue.position_s), height - 8, wide, 8);
  }
  context.fillStyle = INK.now;
  context.fillRect(width / 3 - 1, 0, 3, height);
}
