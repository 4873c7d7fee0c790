/** Half speed at the same pitch. */
import type { Pieces } from "./pieces";

const HOP = 1024;
const SEARCH = 384;
const COARSE = 8;
const COMPARED = 512;

/** Half speed at the same pitch: overlapping grains, each begun where it best goes on from the one before (Verhelst and Roelands, 1993). */
export class Slow {
  private readonly out = [new Float32Array(HOP), new Float32Array(HOP)] as const;
  private readonly tail = [new Float32Array(HOP), new Float32Array(HOP)] as const;
  private readonly window = Float32Array.from(
    { length: HOP },
    (_, i) => 0.5 - 0.5 * Math.cos((Math.PI * (i + 0.5)) / HOP),
  );
  private at = HOP;
  private goesOnAt = -1;

  reset(): void {
    this.at = HOP;
    this.goesOnAt = -1;
    for (const tail of this.tail) tail.fill(0);
  }

  /** The next output frame for a source position. */
  next(pieces: Pieces, position: number): [number, number] {
    if (this.at >= HOP) this.grain(pieces, Math.round(position));
    const i = this.at++;
    return [this.out[0][i] ?? 0, this.out[1][i] ?? 0];
  }

  private grain(pieces: Pieces, wanted: number): void {
    const start = this.goesOnAt < 0 ? wanted : this.best(pieces, wanted);
    for (const channel of [0, 1] as const) {
      for (let i = 0; i < HOP; i++) {
        const rise = this.window[i] ?? 0;
        this.out[channel][i] =
          (this.tail[channel][i] ?? 0) + pieces.at(Math.max(0, start + i), channel) * rise;
        this.tail[channel][i] = pieces.at(Math.max(0, start + HOP + i), channel) * (1 - rise);
      }
    }
    this.goesOnAt = start + HOP;
    this.at = 0;
  }

  /** The start near the one wanted from which the sound is most like what the last grain would have gone on with. */
  private best(pieces: Pieces, wanted: number): number {
    let best = wanted;
    let most = -Infinity;
    for (let start = Math.max(0, wanted - SEARCH); start <= wanted + SEARCH; start += COARSE) {
      let alike = 0;
      for (let i = 0; i < COMPARED; i += COARSE)
        alike += pieces.at(start + i, 0) * pieces.at(this.goesOnAt + i, 0);
      if (alike > most) {
        most = alike;
        best = start;
      }
    }
    return best;
  }
}
