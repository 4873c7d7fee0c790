/** The clicks of the metronome. */
import { RATE } from "./pcm";
import type { CountIn } from "./protocol";

const CLICK_FRAMES = Math.round(0.03 * RATE);

/** Clicks on the frames of a grid, mixed into the very same output frames as the sound. */
export class Metronome {
  on = false;
  gain = 0.6;
  private frames: Float64Array = new Float64Array(0);
  private accents: Uint8Array = new Uint8Array(0);
  private next = 0;
  private sounding: { tone: Float32Array; at: number }[] = [];
  private readonly tones = [clickTone(1320), clickTone(1980)] as const;
  private counting: { count: CountIn; frame: number } | null = null;

  setGrid(frames: Float64Array, accents: Uint8Array, position: number): void {
    this.frames = frames;
    this.accents = accents;
    this.seek(position);
  }

  /** The next click is the first at or after a position. */
  seek(position: number): void {
    let low = 0;
    let high = this.frames.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.frames[middle] ?? 0) < position) low = middle + 1;
      else high = middle;
    }
    this.next = low;
  }

  /** The sound has come to a position. */
  reach(position: number): void {
    while (position >= (this.frames[this.next] ?? Infinity) - 0.5) {
      if (this.on) this.strike(this.accents[this.next] === 1);
      this.next++;
    }
  }

  countIn(count: CountIn | null): void {
    this.counting = count && { count, frame: 0 };
  }

  /** Goes on counting by a frame; whether the count still holds the sound back. */
  holdsBack(): boolean {
    if (!this.counting) return false;
    const { count, frame } = this.counting;
    if (frame >= count.clicks * count.every) {
      this.counting = null;
      return false;
    }
    const click = Math.round(frame / count.every);
    if (Math.round(click * count.every) === frame) this.strike(click % count.bar === 0);
    this.counting.frame++;
    return true;
  }

  mix(left: Float32Array, right: Float32Array, i: number): void {
    for (const click of this.sounding) {
      const value = (click.tone[click.at++] ?? 0) * this.gain;
      left[i] = (left[i] ?? 0) + value;
      right[i] = (right[i] ?? 0) + value;
    }
    if ((this.sounding[0]?.at ?? 0) >= CLICK_FRAMES) this.sounding.shift();
  }

  private strike(accent: boolean): void {
    this.sounding.push({ tone: this.tones[accent ? 1 : 0], at: 0 });
  }
}

function clickTone(hz: number): Float32Array {
  const tone = new Float32Array(CLICK_FRAMES);
  for (let i = 0; i < tone.length; i++)
    tone[i] = Math.cos((2 * Math.PI * hz * i) / RATE) * Math.exp(-i / (0.006 * RATE));
  return tone;
}
