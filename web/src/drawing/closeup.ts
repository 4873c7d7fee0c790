/** The close-up around the present. */
import type { Cue, Schema } from "../api/client";
import type { Pcm } from "../audio/pcm";
import { FIGURES, type Inks } from "../theme";
import { prepare } from "./canvas";
import { drawFlagAt, drawGhostAt, shadeOf, type Palette } from "./flags";
import type { TempoMap } from "./tempo-map";
import { firstFrom, highest, levelFor, type Waveform } from "./waveform";

export interface CloseupContent {
  map: TempoMap | null;
  /** The grid as analysis found it, where it was changed by hand. */
  analysed: TempoMap | null;
  waveform: Waveform | null;
  pcm: Pcm | null;
  cues: Cue[];
  proposals: Schema["ProposalOut"][];
  chosenCue: number | null;
  duration: number;
  mark: { from: number; to: number } | null;
  palette: Palette;
}

export const NOW_SHARE = 0.31;
/** Anchors have their handles in so many pixels at the bottom. */
export const HANDLES = 13;
const FOOT = 14;
const NEAR_S = 20;

/** The stretch around the present: the sound, beats, bars, anchors, attacks and cues. `span` is how many seconds are in sight. */
export function drawCloseup(
  canvas: HTMLCanvasElement,
  content: CloseupContent,
  time: number,
  span: number,
  inks: Inks,
): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const start = time - NOW_SHARE * span;
  const xOf = (t: number) => ((t - start) / span) * width;
  context.fillStyle = inks.panel;
  const from = Math.max(0, xOf(0));
  context.fillRect(from, 0, Math.min(width, xOf(content.duration)) - from, height);
  if (content.mark) drawMark(context, xOf(content.mark.from), xOf(content.mark.to), height, inks);
  drawSound(context, content, start, span, width, height, inks);
  if (content.waveform && span <= NEAR_S)
    drawOnsetTimes(context, content.waveform, start, start + span, xOf, height, inks);
  if (content.analysed && span <= NEAR_S)
    drawAnalysed(context, content.analysed, start, start + span, xOf, height, inks);
  if (content.map) drawBeats(context, content.map, start, start + span, xOf, height, width, inks);
  if (content.map) drawAnchors(context, content.map, xOf, width, height, inks);
  drawCues(context, content, xOf, span, width, height, inks);
  drawNow(context, NOW_SHARE * width, height, inks);
}

function drawCues(
  context: CanvasRenderingContext2D,
  content: CloseupContent,
  xOf: (t: number) => number,
  span: number,
  width: number,
  height: number,
  inks: Inks,
): void {
  for (const cue of content.cues) {
    const x = xOf(cue.position_s);
    if (cue.length_s !== null) {
      context.globalAlpha = 0.2;
      context.fillStyle = shadeOf(content.palette, cue.colour, inks);
      context.fillRect(x, 0, (cue.length_s / span) * width, height);
      context.globalAlpha = 1;
    }
    if (x > -20 && x < width)
      drawFlagAt(
        context,
        x,
        height - 13 - HANDLES,
        13,
        cue,
        cue.id === content.chosenCue,
        content.palette,
        inks,
      );
  }
  for (const ghost of content.proposals) {
    const x = xOf(ghost.position_s);
    if (x > -20 && x < width) drawGhostAt(context, x, height - 13 - HANDLES, 13, ghost, inks);
  }
}

function drawMark(
  context: CanvasRenderingContext2D,
  from: number,
  to: number,
  height: number,
  inks: Inks,
): void {
  context.fillStyle = inks.chosenWash;
  context.fillRect(from, 0, Math.max(1, to - from), height);
}

function drawSound(
  context: CanvasRenderingContext2D,
  content: CloseupContent,
  start: number,
  span: number,
  width: number,
  height: number,
  inks: Inks,
): void {
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

/** Attacks as small ticks under the bar numbers, taller where they are stronger. */
function drawOnsetTimes(
  context: CanvasRenderingContext2D,
  waveform: Waveform,
  start: number,
  end: number,
  xOf: (t: number) => number,
  height: number,
  inks: Inks,
): void {
  const { times, strength } = waveform.onsetTimes;
  context.fillStyle = inks.sure;
  for (let i = firstFrom(times, start); i < times.length && (times[i] ?? 0) <= end; i++) {
    const tall = 2 + (7 * (strength[i] ?? 0)) / 255;
    context.fillRect(xOf(times[i] ?? 0) - 0.75, height - tall, 1.5, tall);
  }
}

function drawAnalysed(
  context: CanvasRenderingContext2D,
  map: TempoMap,
  start: number,
  end: number,
  xOf: (t: number) => number,
  height: number,
  inks: Inks,
): void {
  context.strokeStyle = inks.doubt;
  context.lineWidth = 1;
  context.setLineDash([3, 4]);
  context.beginPath();
  for (let beat = Math.ceil(map.beatAt(start)); beat <= map.beatAt(end); beat++) {
    const x = Math.round(xOf(map.timeAt(beat))) + 0.5;
    context.moveTo(x, beat % map.beatsPerBar === 0 ? 14 : height * 0.55);
    context.lineTo(x, height - HANDLES);
  }
  context.stroke();
  context.setLineDash([]);
}

/** Bars are numbered where there is room; single beats are left out where they would run together. */
function drawBeats(
  context: CanvasRenderingContext2D,
  map: TempoMap,
  start: number,
  end: number,
  xOf: (t: number) => number,
  height: number,
  width: number,
  inks: Inks,
): void {
  const first = Math.ceil(map.beatAt(start));
  const last = Math.floor(map.beatAt(end));
  const apart = width / Math.max(1, last - first);
  const barApart = apart * map.beatsPerBar;
  const step = apart > 5 ? 1 : barApart > 5 ? map.beatsPerBar : map.phraseBeats;
  const offset = step === map.phraseBeats ? map.firstPhraseBeat : 0;
  const every = barApart > 48 ? map.beatsPerBar : barApart * 8 > 48 ? map.phraseBeats : map.phraseBeats * 4;
  context.font = `11.5px ${FIGURES}`;
  context.textAlign = "left";
  for (let beat = Math.ceil((first - offset) / step) * step + offset; beat <= last; beat += step) {
    const x = xOf(map.timeAt(beat));
    const phrase = map.isPhraseStart(beat);
    if (beat % map.beatsPerBar === 0) {
      context.fillStyle = inks.now;
      context.globalAlpha = phrase || barApart > 20 ? 1 : 0.5;
      context.fillRect(x - (phrase ? 1.25 : 0.6), phrase ? 0 : 4, phrase ? 2.5 : 1.2, height - HANDLES);
      context.globalAlpha = 1;
      if (beat >= 0 && (phrase ? beat - map.firstPhraseBeat : beat) % every === 0) {
        context.fillStyle = inks.ink;
        context.fillText(
          phrase ? `bar ${beat / map.beatsPerBar + 1}` : String(beat / map.beatsPerBar + 1),
          x + 5,
          12,
        );
      }
    } else {
      context.fillStyle = inks.ink;
      context.globalAlpha = 0.5;
      context.fillRect(x - 0.5, 16, 1, height - 16 - HANDLES);
      context.globalAlpha = 1;
    }
  }
}

/** Anchors as pins below their lines; they can be taken there. */
function drawAnchors(
  context: CanvasRenderingContext2D,
  map: TempoMap,
  xOf: (t: number) => number,
  width: number,
  height: number,
  inks: Inks,
): void {
  context.fillStyle = inks.chosen;
  for (const anchor of map.anchors) {
    const x = xOf(anchor.time);
    if (x < -8 || x > width + 8) continue;
    context.fillRect(x - 0.75, height - HANDLES - 10, 1.5, 12);
    context.beginPath();
    context.arc(x, height - HANDLES / 2, 4.5, 0, 2 * Math.PI);
    context.fill();
  }
}

function drawNow(context: CanvasRenderingContext2D, x: number, height: number, inks: Inks): void {
  context.fillStyle = inks.now;
  context.fillRect(x - 1, 0, 2, height);
  context.beginPath();
  context.moveTo(x, 9);
  context.lineTo(x - 8, 0);
  context.lineTo(x + 8, 0);
  context.closePath();
  context.fill();
}
