/** The page: a track as lines of 16 bars. */
import type { Cue, Schema } from "../api/client";
import { FIGURES, TEXT, type Inks } from "../theme";
import { prepare } from "./canvas";
import { drawFlagAt, drawGhostAt, shadeOf, type Palette } from "./flags";
import type { BeatMap } from "./tempo-map";
import { highest, levelFor, type Waveform } from "./waveform";

export const LINE_BARS = 16;
export const MARGIN = 62;
const GAP = 7;
/** What lies so little before a line belongs to it. */
const NEAR_BEATS = 0.04;
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
  map: BeatMap;
  waveform: Waveform;
  duration: number;
  cues: Cue[];
  chosenCue: number | null;
  sections: Section[];
  proposals: Schema["ProposalOut"][];
  jumps: { from: number; to: number }[];
  mark: { from: number; to: number } | null;
  palette: Palette;
}

export type Section = Schema["SectionOut"];

/** A page has a line for every 16 bars, from the line that holds the start of the sound. */
export function layOut(map: BeatMap, duration: number, width: number, height: number): PageLayout {
  const lineBeats = LINE_BARS * map.beatsPerBar;
  const firstBeat =
    map.firstPhraseBeat + Math.floor((map.beatAt(0) + 0.25 - map.firstPhraseBeat) / lineBeats) * lineBeats;
  const lines = Math.max(1, Math.ceil((map.beatAt(duration) - 0.25 - firstBeat) / lineBeats));
  const lineHeight = Math.max(LEAST, Math.min(TALLEST, height / lines));
  return { firstBeat, lines, lineBeats, lineHeight, width: width - MARGIN - 6 };
}

/** The place of a time on the page. */
export function placeOf(layout: PageLayout, map: BeatMap, time: number): { x: number; y: number } {
  const beat = map.beatAt(time);
  const line = Math.max(
    0,
    Math.min(layout.lines - 1, Math.floor((beat + NEAR_BEATS - layout.firstBeat) / layout.lineBeats)),
  );
  const within = (beat - layout.firstBeat) / layout.lineBeats - line;
  return { x: MARGIN + within * layout.width, y: line * layout.lineHeight };
}

/** The time at a place on the page, within the track. */
export function timeOf(layout: PageLayout, map: BeatMap, duration: number, x: number, y: number): number {
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
  if (content.mark)
    drawStretch(context, layout, content.map, content.mark.from, content.mark.to, inks.chosen, 0.22);
  for (const cue of content.cues) {
    if (cue.length_s !== null)
      drawStretch(
        context,
        layout,
        content.map,
        cue.position_s,
        cue.position_s + cue.length_s,
        shadeOf(content.palette, cue.colour, inks),
        0.32,
      );
  }
  for (const jump of content.jumps) drawJump(context, layout, content.map, jump.from, jump.to, inks);
  for (const ghost of content.proposals) {
    const { x, y } = placeOf(layout, content.map, ghost.position_s);
    drawGhostAt(context, x, y, layout.lineHeight - GAP, ghost, inks);
  }
  for (const cue of content.cues) drawFlag(context, layout, content, cue, inks);
}

function drawLine(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  content: PageContent,
  line: number,
  inks: Inks,
): void {
  const { map, waveform, duration } = content;
  const top = line * layout.lineHeight;
  const tall = layout.lineHeight - GAP;
  const firstBeat = layout.firstBeat + line * layout.lineBeats;
  const share = (time: number) => Math.max(0, Math.min(1, (map.beatAt(time) - firstBeat) / layout.lineBeats));
  const from = MARGIN + layout.width * share(0);
  const to = MARGIN + layout.width * share(duration);
  context.fillStyle = inks.panel;
  context.fillRect(from, top, to - from, tall);
  drawSound(context, waveform, map, firstBeat, layout, top + tall / 2, tall / 2 - 1, inks);
  drawBars(context, layout, map.beatsPerBar, top, tall, to, inks);
  context.fillStyle = inks.faint;
  context.font = `11px ${FIGURES}`;
  context.textAlign = "right";
  const bar = firstBeat / map.beatsPerBar + 1;
  const named = content.sections.some(
    (section) => Math.abs(map.beatAt(section.start_s) - firstBeat) < map.beatsPerBar / 2,
  );
  context.fillText(bar > 0 ? String(bar) : "pick-up", MARGIN - 9, top + tall / 2 + (named ? 11 : 4));
}

function drawSound(
  context: CanvasRenderingContext2D,
  waveform: Waveform,
  map: BeatMap,
  firstBeat: number,
  layout: PageLayout,
  middle: number,
  half: number,
  inks: Inks,
): void {
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
function drawSectionName(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  map: BeatMap,
  section: Section,
  inks: Inks,
): void {
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

function drawBars(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  beatsPerBar: number,
  top: number,
  tall: number,
  end: number,
  inks: Inks,
): void {
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

function drawFlag(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  content: PageContent,
  cue: Cue,
  inks: Inks,
): void {
  const { x, y } = placeOf(layout, content.map, cue.position_s);
  drawFlagAt(
    context,
    x,
    y,
    layout.lineHeight - GAP,
    cue,
    cue.id === content.chosenCue,
    content.palette,
    inks,
  );
}

/** A stretch of the page, over as many lines as it takes. */
function drawStretch(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  map: BeatMap,
  start: number,
  end: number,
  colour: string,
  share: number,
): void {
  const first = placeOf(layout, map, start);
  const last = placeOf(layout, map, end - 1e-4);
  context.fillStyle = colour;
  context.globalAlpha = share;
  for (let y = first.y; y <= last.y + 0.5; y += layout.lineHeight) {
    const from = y === first.y ? first.x : MARGIN;
    const to = Math.abs(y - last.y) < 0.5 ? last.x : MARGIN + layout.width;
    context.fillRect(from, y, to - from, layout.lineHeight - GAP);
  }
  context.globalAlpha = 1;
}

/** A jump as it is drawn: from where it leaves to where it comes in. */
function drawJump(
  context: CanvasRenderingContext2D,
  layout: PageLayout,
  map: BeatMap,
  from: number,
  to: number,
  inks: Inks,
): void {
  const tall = layout.lineHeight - GAP;
  const [a, b] = [placeOf(layout, map, from - 1e-3), placeOf(layout, map, to + 1e-3)];
  context.strokeStyle = inks.chosen;
  context.fillStyle = inks.chosen;
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(a.x, a.y + tall / 2);
  context.quadraticCurveTo((a.x + b.x) / 2 + 24, (a.y + b.y + tall) / 2, b.x, b.y + tall / 2);
  context.stroke();
  context.beginPath();
  context.arc(b.x, b.y + tall / 2, 4, 0, 2 * Math.PI);
  context.fill();
}

/** The line of the present, over the whole page. */
export function drawPagePlayhead(
  canvas: HTMLCanvasElement,
  map: BeatMap,
  duration: number,
  time: number,
  inks: Inks,
): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { context, width, height } = prepared;
  const layout = layOut(map, duration, width, height);
  const { x, y } = placeOf(layout, map, time);
  context.fillStyle = inks.now;
  context.fillRect(x - 1, y - 2, 2, layout.lineHeight - GAP + 4);
}
