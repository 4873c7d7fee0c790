/** One deck of the stand-in player. */
import { readFile, type StickTrack } from "./stick";

/** Plays one track of a stick from memory. */
export class Deck {
  track: StickTrack | null = null;
  buffer: AudioBuffer | null = null;
  private readonly context = new AudioContext();
  private source: AudioBufferSourceNode | null = null;
  private startedAt = 0;
  private from = 0;
  private heard = 0;
  /** When the loaded track was first played. */
  begunAt: Date | null = null;

  async load(stick: string, track: StickTrack): Promise<void> {
    this.stop();
    this.track = null;
    this.from = 0;
    this.heard = 0;
    this.begunAt = null;
    const buffer = await this.context.decodeAudioData(await readFile(stick, track.file));
    this.buffer = withoutPadding(this.context, buffer, track);
    this.track = track;
  }

  get playing(): boolean {
    return this.source !== null;
  }

  /** Seconds for which the loaded track was heard in all. */
  heard_s(): number {
    return this.heard + (this.source ? Math.max(0, this.context.currentTime - this.startedAt) : 0);
  }

  position(): number {
    return this.source ? this.from + this.context.currentTime - this.startedAt : this.from;
  }

  play(from = this.position()): void {
    this.stop();
    if (!this.buffer) return;
    void this.context.resume();
    const source = this.context.createBufferSource();
    source.buffer = this.buffer;
    source.connect(this.context.destination);
    source.onended = () => {
      if (this.source === source) this.stop();
    };
    this.startedAt = this.context.currentTime + 0.02;
    this.from = from;
    source.start(this.startedAt, from);
    this.source = source;
    this.begunAt ??= new Date();
  }

  stop(): void {
    this.heard = this.heard_s();
    this.from = Math.max(0, this.position());
    this.source?.stop();
    this.source = null;
  }
}

/**
 * The index counts from the first sample after the codec's padding. Some decoders leave the padding in: then what was
 * decoded is longer than the track, and its start is cut off here.
 */
function withoutPadding(context: AudioContext, decoded: AudioBuffer, track: StickTrack): AudioBuffer {
  const padding_s = track.padding_samples / track.rate_hz;
  if (padding_s === 0 || decoded.duration < track.duration_s + padding_s * 0.9) return decoded;
  const skip = Math.round(padding_s * decoded.sampleRate);
  const trimmed = context.createBuffer(decoded.numberOfChannels, decoded.length - skip, decoded.sampleRate);
  for (let channel = 0; channel < decoded.numberOfChannels; channel++)
    trimmed.copyToChannel(decoded.getChannelData(channel).subarray(skip), channel);
  return trimmed;
}
