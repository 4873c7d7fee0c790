import type { Cue, Schema } from "../api/client";
import { cueColour, FIGURES, TEXT, type Inks } from "../theme";
import { prepare } from "./canvas";
import type { TempoMap } from "./tempo-map";
import { highest, levelFor, type Waveform } from "./waveform";

export const LINE_BARS = 16;
export const MARGIN = 62;
const GAP = 7;
const TALLEST = 60;
const LEAST = 18;

/** Where the lines of a page lie. */
export interface PageLayout {
  /** The beat on which the first line begins: a phrase start. */
  firstBeat: number;
  lines: number;
  lineBeats: number;
  lineHeight: number;
  width: number;
}

export interface PageContent {
  map: TempoMap;
  waveform: Waveform;
  duration: number;
  cues: Cue[];
  chosenCue: number | null;
  sections: Section[];
}

export type Section = Schema["SectionOut"];

/** A page has a line for every 16 bars, from the line that holds the start of the sound. */
export function layOut(map: TempoMap, duration: number, width: number, height: number): PageLayout {
  const lineBeats = LINE_BARS * map.beatsPerBar;
  const firstBeat = map.firstPhraseBeat + Math.floor((map.beatAt(0) + 0.25 - map.firstPhraseBeat) / lineBeats) * lineBeats;
  const lines = Math.max(1, Math.ceil((map.beatAt(duration) - 0.25 - firstBeat) / lineBeats));
  const lineHeight = Math.max(LEAST, Math.min(TALLEST, height / lines));
  return { firstBeat, lines, lineBeats, lineHeight, width: width - MARGIN - 6 };
}

/** The place of a time on the page. */
export function placeOf(layout: PageLayout, map: TempoMap, time: number): { x: number; y: number } {
  const beat = map.beatAt(time);
  const line = Math.max(0, Math.min(layout.lines - 1, Math.floor((beat + 1e-6 - layout.firstBeat) / layout.lineBeats)));
  const within = (beat - layout.firstBeat) / layout.lineBeats - line;
  return { x: MARGIN + within * layout.width, y: line * layout.lineHeight };
}

/** The time at a place on the page, within the track. */
export function timeOf(layout: PageLayout, map: TempoMap, duration: number, x: number, y: number): number {
  const line = Math.max(0, Math.min(layout.lines - 1, Math.floor(y / layout.lineHeight)));
  const within = Math.max(0, Math.min(1, (x - MARGIN) / layout.width));
  const time = map.timeAt(layout.firstBeat + (line + within) * layout.lineBeats);
  return Math.max(0, Math.min(duration, time));
}

/** Everything on the page that stands still while playing. */
export function drawPage(canvas: HTMLCanvasElement, content: PageContent, inks: Inks): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const layout = layOut(content.map, content.duration, width, height);
  for (let line = 0; line < layout.lines; line++) drawLine(context, layout, content, line, inks);
  for (const section of content.sections) drawSectionName(context, layout, content.map, section, inks);
  for (const cue of content.cues) if (cue.length_s !== null) drawLoop(context, layout, content.map, cue, inks);
  for (const cue of content.cues) drawFlag(context, layout, content.map, cue, cue.id === content.chosenCue, inks);
}

function drawLine(context: CanvasRenderingContext2D, layout: PageLayout, content: PageContent, line: number, inks: Inks): void {
  const { map, waveform, duration } = content;
  const top = line * layout.lineHeight;
  const tall = layout.lineHeight - GAP;
  const firstBeat = layout.firstBeat + line * layout.lineBeats;
  const start = map.timeAt(firstBeat);
  const end = map.timeAt(firstBeat + layout.lineBeats);
  const from = MARGIN + (layout.width * Math.max(0, -start)) / (end - start);
  const to = MARGIN + layout.width * Math.min(1, (duration - start) / (end - start));
  context.fillStyle = inks.panel;
  context.fillRect(from, top, to - from, tall);
  drawSound(context, waveform, map, firstBeat, layout, top + tall / 2, tall / 2 - 1, inks);
  drawBars(context, layout, map.beatsPerBar, top, tall, to, inks);
  context.fillStyle = inks.faint;
  context.font = `11px ${FIGURES}`;
  context.textAlign = "right";
  const bar = firstBeat / map.beatsPerBar + 1;
  const named = content.sections.some((section) => Math.abs(map.beatAt(section.start_s) - firstBeat) < map.beatsPerBar / 2);
  context.fillText(bar > 0 ? String(bar) : "pick-up", MARGIN - 9, top + tall / 2 + (named ? 11 : 4));
}

function drawSound(context: CanvasRenderingContext2D, waveform: Waveform, map: TempoMap, firstBeat: number, layout: PageLayout, middle: number, half: number, inks: Inks): void {
  const beatsPerPixel = layout.lineBeats / layout.width;
  let from = map.timeAt(firstBeat);
  const level = levelFor(waveform, map.timeAt(firstBeat + beatsPerPixel) - from);
  for (let x = 0; x < layout.width; x++) {
    const to = map.timeAt(firstBeat + (x + 1) * beatsPerPixel);
    const peak = (highest(level.peak, level.rate, from, to) / 255) * half;
    const body = (highest(level.body, level.rate, from, to) / 255) * 1.25 * half;
    context.fillStyle = inks.peak;
    context.fillRect(MARGIN + x, middle - peak, 1, 2 * peak);
    context.fillStyle = inks.body;
    context.fillRect(MARGIN + x, middle - Math.min(body, peak), 1, 2 * Math.min(body, peak));
    from = to;
  }
}

/** A section's name: in the margin where it begins a line, else in the line on a slip of paper. */
function drawSectionName(context: CanvasRenderingContext2D, layout: PageLayout, map: TempoMap, section: Section, inks: Inks): void {
  const { x, y } = placeOf(layout, map, section.start_s + 1e-3);
  const tall = layout.lineHeight - GAP;
  context.font = `600 11px ${TEXT}`;
  if (x - MARGIN < layout.width / LINE_BARS / 2) {
    context.fillStyle = inks.ink;
    context.textAlign = "right";
    context.fillText(section.label, MARGIN - 9, y + tall / 2 - 2);
    return;
  }
  const width = context.measureText(section.label).width + 8;
  context.fillStyle = inks.paper;
  context.fillRect(x + 1, y + tall - 13, width, 13);
  context.fillStyle = inks.ink;
  context.textAlign = "left";
  context.fillText(section.label, x + 5, y + tall - 3);
}

function drawBars(context: CanvasRenderingContext2D, layout: PageLayout, beatsPerBar: number, top: number, tall: number, end: number, inks: Inks): void {
  const barWidth = (layout.width * beatsPerBar) / layout.lineBeats;
  for (let bar = 0; bar <= LINE_BARS; bar++) {
    const x = MARGIN + bar * barWidth;
    if (x > end + 1) break;
    const phrase = bar % 8 === 0;
    context.fillStyle = phrase ? inks.ink : inks.rule;
    context.globalAlpha = phrase ? 0.9 : 0.6;
    context.fillRect(x - 0.5, top, 1, tall);
    context.globalAlpha = 1;
  }
}

function drawLoop(context: CanvasRenderingContext2D, layout: PageLayout, map: TempoMap, cue: Cue, inks: Inks): void {
  const end = cue.position_s + (cue.length_s ?? 0);
  const first = placeOf(layout, map, cue.position_s);
  const last = placeOf(layout, map, end - 1e-4);
  context.fillStyle = cueColour(cue.colour, inks);
  context.globalAlpha = 0.32;
  for (let y = first.y; y <= last.y + 0.5; y += layout.lineHeight) {
    const from = y === first.y ? first.x : MARGIN;
    const to = Math.abs(y - last.y) < 0.5 ? last.x : MARGIN + layout.width;
    context.fillRect(from, y, to - from, layout.lineHeight - GAP);
  }
  context.globalAlpha = 1;
}

/** What stands on a cue's flag: the pad's number, or a sign for its role. */
export function cueSign(cue: Pick<Cue, "pad" | "role" | "length_s">): string {
  if (cue.role === "in") return "▸";
  if (cue.role === "out") return "◂";
  if (cue.pad !== null) return String(cue.pad);
  if (cue.role === "main") return "M";
  return cue.length_s === null ? "•" : "∞";
}

export function drawFlag(context: CanvasRenderingContext2D, layout: PageLayout, map: TempoMap, cue: Cue, chosen: boolean, inks: Inks): void {
  const { x, y } = placeOf(layout, map, cue.position_s);
  drawFlagAt(context, x, y, layout.lineHeight - GAP, cue, chosen, inks);
}

export function drawFlagAt(context: CanvasRenderingContext2D, x: number, y: number, tall: number, cue: Cue, chosen: boolean, inks: Inks): void {
  const colour = cueColour(cue.colour, inks);
  context.fillStyle = colour;
  context.fillRect(x - 1, y, 2, tall);
  context.beginPath();
  context.moveTo(x - 1, y);
  context.lineTo(x + 16, y);
  context.lineTo(x + 12, y + 6.5);
  context.lineTo(x + 16, y + 13);
  context.lineTo(x - 1, y + 13);
  context.closePath();
  context.fill();
  if (chosen) {
    context.strokeStyle = inks.ink;
    context.lineWidth = 1.5;
    context.stroke();
  }
  context.fillStyle = inks.onStrong;
  context.font = `600 10px ${FIGURES}`;
  context.textAlign = "center";
  context.fillText(cueSign(cue), x + 5.5, y + 10);
}

/** The line of the present, over the whole page. */
export function drawPagePlayhead(canvas: HTMLCanvasElement, map: TempoMap, duration: number, time: number, inks: Inks): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const layout = layOut(map, duration, width, height);
  const { x, y } = placeOf(layout, map, time);
  context.fillStyle = inks.now;
  context.fillRect(x - 1, y - 2, 2, layout.lineHeight - GAP + 4);
}
