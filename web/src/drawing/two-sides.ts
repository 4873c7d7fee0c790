/** One track on both sides: the same waveform twice, with our cues above and theirs below. */
import { FIGURES, type Inks } from "../theme";
import { highest, levelFor, type Waveform } from "./waveform";

export interface Flag {
  position_s: number;
  length_s: number | null;
  mark: string;
  /** Whether it is on the other side too. */
  stays: boolean;
}

export interface Sides {
  waveform: Waveform | null;
  duration: number;
  ours: readonly Flag[];
  theirs: readonly Flag[];
  ourBars: readonly number[];
  theirBars: readonly number[];
}

const FLAG = { width: 20, height: 14 };
const MARGIN = 18;

export function drawTwoSides(
  canvas: CanvasRenderingContext2D,
  width: number,
  height: number,
  sides: Sides,
  inks: Inks,
) {
  const half = height / 2;
  const x = (time: number) => (time / sides.duration) * (width - FLAG.width) + 1;
  if (sides.waveform) {
    drawWave(
      canvas,
      sides.waveform,
      sides.duration,
      x,
      { middle: MARGIN + (half - MARGIN) / 2, tall: half - MARGIN - 8 },
      inks,
    );
    drawWave(
      canvas,
      sides.waveform,
      sides.duration,
      x,
      { middle: half + (half - MARGIN) / 2, tall: half - MARGIN - 8 },
      inks,
    );
  }
  drawBars(canvas, sides.ourBars, x, [MARGIN, half], inks);
  drawBars(canvas, sides.theirBars, x, [half, height - MARGIN], inks);
  for (const flag of sides.ours)
    drawFlag(canvas, flag, x, [0, flag.stays ? height - MARGIN : half], inks, true);
  for (const flag of sides.theirs) drawFlag(canvas, flag, x, [height - MARGIN, half], inks, false);
}

interface Band {
  middle: number;
  tall: number;
}

type Place = (time: number) => number;

function drawWave(
  canvas: CanvasRenderingContext2D,
  waveform: Waveform,
  duration: number,
  x: Place,
  { middle, tall }: Band,
  inks: Inks,
) {
  const end = Math.floor(x(duration));
  const seconds = duration / Math.max(1, end);
  const level = levelFor(waveform, seconds);
  for (const [values, colour] of [
    [level.peak, inks.peak],
    [level.body, inks.body],
  ] as const) {
    canvas.fillStyle = colour;
    for (let at = 0; at < end; at++) {
      const tallest = (highest(values, level.rate, at * seconds, (at + 1) * seconds) / 255) * tall;
      canvas.fillRect(at, middle - tallest / 2, 1, Math.max(1, tallest));
    }
  }
}

/** Bar starts, as far as they stand apart. */
function drawBars(
  canvas: CanvasRenderingContext2D,
  bars: readonly number[],
  x: Place,
  [top, bottom]: readonly [number, number],
  inks: Inks,
) {
  const [first, second] = bars;
  if (first === undefined || second === undefined) return;
  let every = 1;
  while ((x(second) - x(first)) * every < 6) every *= 2;
  canvas.fillStyle = inks.sure;
  bars.forEach((time, at) => {
    if (at % every === 0) canvas.fillRect(Math.round(x(time)), bottom - 4, 1, 4);
    if (at % (every * 8) === 0)
      canvas.fillRect(Math.round(x(time)), top + (bottom - top) / 2, 1, (bottom - top) / 2);
  });
}

function drawFlag(
  canvas: CanvasRenderingContext2D,
  flag: Flag,
  x: Place,
  [from, to]: readonly [number, number],
  inks: Inks,
  isOurs: boolean,
) {
  const at = Math.round(x(flag.position_s));
  const colour = !isOurs ? inks.ink : flag.stays ? inks.sure : inks.now;
  canvas.strokeStyle = colour;
  canvas.fillStyle = colour;
  canvas.lineWidth = 1.5;
  canvas.setLineDash(isOurs && !flag.stays ? [3, 3] : []);
  canvas.beginPath();
  canvas.moveTo(at, from);
  canvas.lineTo(at, to);
  canvas.stroke();
  canvas.setLineDash([]);
  const top = isOurs ? 0 : from;
  canvas.fillRect(at, top, FLAG.width, FLAG.height);
  if (flag.length_s !== null)
    canvas.fillRect(
      at,
      isOurs ? FLAG.height : from - 3,
      Math.max(3, x(flag.position_s + flag.length_s) - at),
      3,
    );
  canvas.fillStyle = inks.paper;
  canvas.font = `600 10px ${FIGURES}`;
  canvas.textAlign = "center";
  canvas.fillText(flag.mark, at + FLAG.width / 2, top + 11);
}
