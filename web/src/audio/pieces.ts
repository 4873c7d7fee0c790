/** Pieces of sound by their place. */
import { CHUNK_FRAMES } from "./pcm";

/** How far before a joint the sound of the other side is faded in, so that no joint clicks. */
export const FADE_FRAMES = 264;

/** The loaded pieces of a listening copy, read frame by frame. */
export class Pieces {
  private readonly chunks = new Map<number, Int16Array>();
  private last = -1;
  private chunk: Int16Array | undefined;

  add(index: number, samples: Int16Array): void {
    this.chunks.set(index, samples);
    this.last = -1;
  }

  drop(index: number): void {
    this.chunks.delete(index);
    this.last = -1;
  }

  clear(): void {
    this.chunks.clear();
    this.last = -1;
  }

  has(frame: number): boolean {
    return this.find(frame) !== undefined;
  }

  /** One channel's sample at a whole frame, -1 to 1; silence where nothing is loaded. */
  at(frame: number, channel: 0 | 1): number {
    const chunk = this.find(frame);
    return chunk ? (chunk[2 * (frame % CHUNK_FRAMES) + channel] ?? 0) / 32768 : 0;
  }

  /** The same between frames. */
  between(position: number, channel: 0 | 1): number {
    const frame = Math.floor(position);
    const part = position - frame;
    const here = this.at(frame, channel);
    return part === 0 ? here : here + part * (this.at(frame + 1, channel) - here);
  }

  private find(frame: number): Int16Array | undefined {
    const index = Math.floor(frame / CHUNK_FRAMES);
    if (index !== this.last) {
      this.chunk = this.chunks.get(index);
      this.last = index;
    }
    return this.chunk;
  }
}
