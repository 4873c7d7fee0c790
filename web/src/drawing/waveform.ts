/** The waveform summary of vinyl.core.waveform.summary: values 0 to 255, `rate` a second. */
export interface Waveform {
  rate: number;
  peak: Uint8Array;
  body: Uint8Array;
  low: Uint8Array;
  onset: Uint8Array;
}

const HEAD_BYTES = 16;

export function parseWaveform(buffer: ArrayBuffer): Waveform {
  const view = new DataView(buffer);
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4));
  if (magic !== "VWF1") throw new Error("This waveform is of a kind that this page does not know. Reload the page.");
  const count = view.getUint32(4, true);
  const part = (n: number) => new Uint8Array(buffer, HEAD_BYTES + n * count, count);
  return { rate: view.getFloat64(8, true), peak: part(0), body: part(1), low: part(2), onset: part(3) };
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
