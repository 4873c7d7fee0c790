import type { Cue } from "../api/client";
import type { Pcm } from "../audio/pcm";
import { FIGURES, type Inks } from "../theme";
import { prepare } from "./canvas";
import { drawFlagAt } from "./page";
import type { TempoMap } from "./tempo-map";
import { highest, levelFor, type Waveform } from "./waveform";

export interface CloseupContent {
  map: TempoMap | null;
  waveform: Waveform | null;
  pcm: Pcm | null;
  cues: Cue[];
  chosenCue: number | null;
  duration: number;
}

export const NOW_SHARE = 0.31;
const FOOT = 14;

/** The stretch around the present: the sound, beats, bars and cues. `span` is how many seconds are in sight. */
export function drawCloseup(canvas: HTMLCanvasElement, content: CloseupContent, time: number, span: number, inks: Inks): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const start = time - NOW_SHARE * span;
  const xOf = (t: number) => ((t - start) / span) * width;
  context.fillStyle = inks.panel;
  const from = Math.max(0, xOf(0));
  const to = Math.min(width, xOf(content.duration));
  context.fillRect(from, 0, to - from, height);
  drawSound(context, content, start, span, width, height, inks);
  if (content.map) drawBeats(context, content.map, start, start + span, xOf, height, inks);
  for (const cue of content.cues) {
    if (cue.length_s !== null) {
      context.globalAlpha = 0.2;
      context.fillStyle = inks.doubt;
      context.fillRect(xOf(cue.position_s), 0, (cue.length_s / span) * width, height);
      context.globalAlpha = 1;
    }
    const x = xOf(cue.position_s);
    if (x > -20 && x < width) drawFlagAt(context, x, height - 13, 13, cue, cue.id === content.chosenCue, inks);
  }
  drawNow(context, NOW_SHARE * width, height, inks);
}

function drawSound(context: CanvasRenderingContext2D, content: CloseupContent, start: number, span: number, width: number, height: number, inks: Inks): void {
  const middle = (height - FOOT) / 2 + 8;
  const half = (height - FOOT) / 2 - 10;
  const { pcm, waveform } = content;
  const level = waveform && levelFor(waveform, span / width);
  for (let x = 0; x < width; x++) {
    const a = start + (x / width) * span;
    const b = start + ((x + 1) / width) * span;
    if (b < 0 || a > content.duration) continue;
    const exact = pcm?.peak(a, b) ?? null;
    const stored = level ? highest(level.peak, level.rate, a, b) / 255 : 0;
    const peak = (exact ?? stored) * half;
    const body = level ? Math.min(peak, (highest(level.low, level.rate, a, b) / 255) * 1.4 * half) : 0;
    context.fillStyle = inks.peak;
    context.fillRect(x, middle - peak, 1, 2 * peak);
    context.fillStyle = inks.body;
    context.fillRect(x, middle - body, 1, 2 * body);
  }
}

function drawBeats(context: CanvasRenderingContext2D, map: TempoMap, start: number, end: number, xOf: (t: number) => number, height: number, inks: Inks): void {
  const first = Math.ceil(map.beatAt(start));
  const last = Math.floor(map.beatAt(end));
  const dense = last - first > 200;
  context.font = `11.5px ${FIGURES}`;
  context.textAlign = "left";
  for (let beat = first; beat <= last; beat++) {
    const x = xOf(map.timeAt(beat));
    const isBar = beat % map.beatsPerBar === 0;
    if (isBar) {
      const phrase = beat % map.phraseBeats === 0;
      context.fillStyle = inks.now;
      context.fillRect(x - (phrase ? 1.25 : 0.75), 0, phrase ? 2.5 : 1.5, height);
      if (!dense || phrase) {
        context.fillStyle = inks.ink;
        context.fillText(`bar ${beat / map.beatsPerBar + 1}`, x + 5, 12);
      }
    } else if (!dense) {
      context.fillStyle = inks.ink;
      context.globalAlpha = 0.55;
      context.fillRect(x - 0.5, 16, 1, height - 16);
      context.globalAlpha = 1;
    }
  }
}

function drawNow(context: CanvasRenderingContext2D, x: number, height: number, inks: Inks): void {
  context.fillStyle = inks.now;
  context.fillRect(x - 1, 0, 2, height);
  context.beginPath();
  context.moveTo(x, height - 9);
  context.lineTo(x - 8, height);
  context.lineTo(x + 8, height);
  context.closePath();
  context.fill();
}
