/** One resolution of a waveform: values 0 to 255, `rate` a second. */
export interface Level {
  rate: number;
  peak: Uint8Array;
  body: Uint8Array;
  low: Uint8Array;
}

/** The waveform summary of docs/formats/waveform.md: levels from fine to coarse, and attacks at the finest steps. */
export interface Waveform {
  levels: [Level, ...Level[]];
  onsetLow: Uint8Array;
  onsetHigh: Uint8Array;
  onsetTimes: OnsetTimes;
}

/** Attacks as points: times in seconds, and how strong each is, 0 to 255. */
export interface OnsetTimes {
  times: Float64Array;
  strength: Uint8Array;
}

const TICKS_PER_S = 100_000;

const STEPS_A_PIXEL = 3;

export function parseWaveform(buffer: ArrayBuffer): Waveform {
  const view = new DataView(buffer);
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4));
  if (magic !== "VWF3")
    throw new Error(
      "This waveform is of a kind that this page does not know. Reload the page, and analyse the track again.",
    );
  const rate = view.getUint32(4, true);
  let at = 12;
  const take = (count: number) => new Uint8Array(buffer, (at += count) - count, count);
  const levels: Level[] = [];
  for (let left = view.getUint32(8, true); left > 0; left--) {
    const [hop, count] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    at += 8;
    levels.push({ rate: rate / hop, peak: take(count), body: take(count), low: take(count) });
  }
  const [finest, ...coarser] = levels;
  if (!finest) throw new Error("This waveform is empty. Analyse the track again.");
  const count = finest.peak.length;
  const [onsetLow, onsetHigh] = [take(count), take(count)];
  const points = view.getUint32(at, true);
  at += 4;
  const times = Float64Array.from(
    { length: points },
    (_, i) => view.getUint32(at + 4 * i, true) / TICKS_PER_S,
  );
  at += 4 * points;
  const [low, high] = [take(points), take(points)];
  const strength = Uint8Array.from({ length: points }, (_, i) => Math.max(low[i] ?? 0, high[i] ?? 0));
  return { levels: [finest, ...coarser], onsetLow, onsetHigh, onsetTimes: { times, strength } };
}

/** The coarsest level that still has a few steps in each stretch of so many seconds. */
export function levelFor(waveform: Waveform, seconds: number): Level {
  return waveform.levels.findLast((level) => level.rate * seconds >= STEPS_A_PIXEL) ?? waveform.levels[0];
}

/** The largest value between two times. */
export function highest(values: Uint8Array, rate: number, from: number, to: number): number {
  if (to <= 0) return 0;
  const first = Math.max(0, Math.floor(from * rate));
  const last = Math.min(values.length, Math.max(first + 1, Math.ceil(to * rate)));
  let most = 0;
  for (let i = first; i < last; i++) most = Math.max(most, values[i] ?? 0);
  return most;
}

/** The place of the first of sorted values that is not less than one. */
export function firstFrom(values: Float64Array, least: number): number {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((values[middle] ?? 0) < least) low = middle + 1;
    else high = middle;
  }
  return low;
}
