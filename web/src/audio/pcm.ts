/** The samples of a track that are here. */
export const RATE = 44100;
export const CHUNK_FRAMES = 131072;
const STEP = 32;

/** Peaks of the sound as it was decoded, of the pieces that have been loaded, 1,378 a second. */
export class Pcm {
  private readonly chunks = new Map<number, Uint8Array>();

  add(index: number, samples: Int16Array): void {
    const steps = Math.ceil(samples.length / 2 / STEP);
    const peaks = new Uint8Array(steps);
    for (let i = 0; i < steps; i++) {
      let most = 0;
      const end = Math.min((i + 1) * STEP * 2, samples.length);
      for (let j = i * STEP * 2; j < end; j++) most = Math.max(most, Math.abs(samples[j] ?? 0));
      peaks[i] = Math.min(255, most >> 7);
    }
    this.chunks.set(index, peaks);
  }

  /** The largest sample between two times, 0 to 1, or null where nothing is loaded. */
  peak(from: number, to: number): number | null {
    const first = Math.floor((from * RATE) / STEP);
    const last = Math.max(first + 1, Math.floor((to * RATE) / STEP));
    if (last - first > 64) return null;
    const perChunk = CHUNK_FRAMES / STEP;
    let most = 0;
    for (let step = first; step < last; step++) {
      const chunk = this.chunks.get(Math.floor(step / perChunk));
      if (!chunk) return null;
      most = Math.max(most, chunk[step % perChunk] ?? 0);
    }
    return most / 255;
  }
}
