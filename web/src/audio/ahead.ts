/** Fetches pieces of listening copies, also of tracks that will be opened next. */
import { CHUNK_FRAMES } from "./pcm";

const MOST_TRACKS = 3;
const NOT_READY = 503;
const TRIES = 8;
const PAUSE_MS = 500;

/** Fetches frames of a track's listening copy; while it is still being made, asks again. On refusal throws the server's words. */
export async function fetchPiece(track: number, index: number, triesLeft = TRIES): Promise<Int16Array> {
  const response = await fetch(
    `/api/tracks/${track}/listening?first_frame=${index * CHUNK_FRAMES}&frames=${CHUNK_FRAMES}`,
  ).catch(() => null);
  if (response?.status === NOT_READY && triesLeft > 0) {
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    return fetchPiece(track, index, triesLeft - 1);
  }
  if (!response?.ok) throw new Error(await reason(response));
  return new Int16Array(await response.arrayBuffer());
}

/** Pieces of tracks that will be opened next, so that their sound is there at once. */
export class Ahead {
  private readonly tracks = new Map<number, Map<number, Promise<Int16Array | null>>>();

  /** Fetch the pieces that hold some times (seconds as frames) of a track. */
  fetch(track: number, frames: readonly number[]): void {
    const pieces = this.tracks.get(track) ?? new Map<number, Promise<Int16Array | null>>();
    this.tracks.delete(track);
    this.tracks.set(track, pieces);
    for (const frame of frames) {
      const index = Math.floor(frame / CHUNK_FRAMES);
      if (!pieces.has(index))
        pieces.set(
          index,
          fetchPiece(track, index).catch(() => null),
        );
    }
    const oldest = this.tracks.keys().next();
    if (this.tracks.size > MOST_TRACKS && !oldest.done) this.tracks.delete(oldest.value);
  }

  /** A piece that was fetched ahead, once: it is the caller's from then on. */
  take(track: number, index: number): Promise<Int16Array | null> | undefined {
    const piece = this.tracks.get(track)?.get(index);
    this.tracks.get(track)?.delete(index);
    return piece;
  }
}

async function reason(response: Response | null): Promise<string> {
  if (!response) return "The server does not answer; the sound cannot be fetched.";
  const body = (await response.json().catch(() => null)) as { detail?: string } | null;
  return body?.detail ?? `The sound cannot be fetched (${response.status}).`;
}
