/** Draws two tracks over the time of their mix: the outgoing above, the incoming below, with their fades. */
import { gainAt, trackTime, type Deck, type Mix } from "../audio/mix-way";
import type { Inks } from "../theme";
import { prepare } from "./canvas";
import { highest, levelFor, type Waveform } from "./waveform";

export interface MixContent {
  mix: Mix;
  waveforms: Record<Deck, Waveform | null>;
  /** The times of the mix that the picture shows. */
  from: number;
  to: number;
}

const GAP = 6;

interface Frame {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
  xOf: (at: number) => number;
}

export function drawMix(canvas: HTMLCanvasElement, content: MixContent, inks: Inks): void {
  const prepared = prepare(canvas);
  if (!prepared) return;
  const { from, to } = content;
  const frame = { ...prepared, xOf: (at: number) => ((at - from) / (to - from)) * prepared.width };
  drawOverlap(frame, content.mix, inks);
  const half = (frame.height - GAP) / 2;
  drawLane(frame, content, "out", 0, half, inks);
  drawLane(frame, content, "into", half + GAP, half, inks);
}

/** The overlap with its bars, and where the low end changes hands. */
function drawOverlap({ context, height, xOf }: Frame, { bars_s, over_s, low_s }: Mix, inks: Inks): void {
  context.fillStyle = inks.chosenWash;
  context.fillRect(xOf(0), 0, xOf(over_s) - xOf(0), height);
  const each = Math.max(1, 2 ** Math.ceil(Math.log2(bars_s.length / 32)));
  bars_s.forEach((at, bar) => {
    if (bar % each) return;
    context.fillStyle = inks.chosen;
    context.globalAlpha = bar === 0 || at === over_s ? 1 : bar % 8 === 0 ? 0.5 : 0.22;
    context.fillRect(Math.round(xOf(at)), 0, 1, height);
  });
  context.globalAlpha = 1;
  if (low_s !== null) {
    context.fillStyle = inks.now;
    for (let y = 0; y < height; y += 6) context.fillRect(Math.round(xOf(low_s)), y, 2, 3);
  }
}

function drawLane(
  frame: Frame,
  { mix, waveforms, from, to }: MixContent,
  deck: Deck,
  top: number,
  tall: number,
  inks: Inks,
): void {
  const { context, width } = frame;
  const waveform = waveforms[deck];
  const step = (to - from) / width;
  const middle = top + tall / 2;
  const loud = deck === "into" ? 10 ** (mix.gain_db / 20) : 1;
  for (let x = 0; waveform && x < width; x++) {
    const at = from + x * step;
    const [first, last] = [trackTime(mix, deck, at), trackTime(mix, deck, at + step)];
    if (last <= 0 || first >= mix[deck].duration_s) continue;
    const level = levelFor(waveform, last - first);
    // What is not heard is only hinted at.
    context.globalAlpha = 0.25 + 0.75 * gainAt(mix, deck, at);
    for (const [values, ink] of [
      [level.peak, inks.peak],
      [level.body, inks.body],
    ] as const) {
      const high = Math.min(1, (loud * highest(values, level.rate, first, last)) / 255) * (tall / 2 - 1);
      context.fillStyle = ink;
      context.fillRect(x, middle - high, 1, Math.max(1, 2 * high));
    }
  }
  context.globalAlpha = 1;
  drawFade(frame, mix, deck, top, tall, deck === "out" ? inks.now : inks.sure);
}

function drawFade(
  { context, width, xOf }: Frame,
  mix: Mix,
  deck: Deck,
  top: number,
  tall: number,
  ink: string,
): void {
  const yOf = (gain: number) => top + 1 + (1 - gain) * (tall - 2);
  context.strokeStyle = ink;
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(0, yOf(deck === "out" ? 1 : 0));
  for (const [at = 0, out = 0, into = 0] of mix.fades)
    context.lineTo(xOf(at), yOf(deck === "out" ? out : into));
  context.lineTo(width, yOf(deck === "out" ? 0 : 1));
  context.stroke();
}
