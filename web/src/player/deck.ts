/** One deck of the stand-in player. */
import heldKeyUrl from "./held-key-worklet.ts?worker&url";
import { readFile, readSound, type StickFile, type StickTrack } from "./stick";

export interface Loop {
  start_s: number;
  end_s: number;
}

/** Plays one track of a stick from memory. */
export class Deck {
  track: StickTrack | null = null;
  buffer: AudioBuffer | null = null;
  /** When the loaded track was first played. */
  begunAt: Date | null = null;
  loop: Loop | null = null;
  /** Times that are left, and where it goes on. */
  jumps: readonly [number, number][] = [];
  private readonly context = new AudioContext();
  private readonly level = this.context.createGain();
  private heldKey: AudioWorkletNode | null = null;
  private holdsKey = false;
  private source: AudioBufferSourceNode | null = null;
  private startedAt = 0;
  private from = 0;
  private heard = 0;
  private speed = 1;

  constructor() {
    this.level.connect(this.context.destination);
  }

  /** Whether the key stays when the tempo changes. */
  async holdKey(holds: boolean): Promise<void> {
    if (holds && !this.heldKey) {
      await this.context.audioWorklet.addModule(heldKeyUrl);
      this.heldKey = new AudioWorkletNode(this.context, "held-key", { outputChannelCount: [2] });
      this.heldKey.connect(this.level);
    }
    this.holdsKey = holds;
    if (this.source) this.join(this.source);
  }

  /** Leads a source to the output, through what holds the key where that is at work. */
  private join(source: AudioBufferSourceNode): void {
    source.disconnect();
    this.heldKey?.port.postMessage(1 / this.speed);
    source.connect(this.heldKey && this.holdsKey && this.speed !== 1 ? this.heldKey : this.level);
  }

  /** Loads a track; a player that knows them obeys loudness tags. */
  async load(stick: string, track: StickTrack, file: StickFile, levels: boolean): Promise<void> {
    this.stop();
    this.track = this.loop = null;
    this.jumps = [];
    this.from = this.heard = 0;
    this.begunAt = null;
    const buffer = await this.decode(stick, track.file);
    this.level.gain.value = 10 ** ((levels ? (file.gain_db ?? 0) : 0) / 20);
    this.buffer = withoutPadding(this.context, buffer, track, file);
    this.track = track;
  }

  private async decode(stick: string, file: string): Promise<AudioBuffer> {
    const data = await readFile(stick, file);
    try {
      return await this.context.decodeAudioData(data);
    } catch {
      return this.context.decodeAudioData(await readSound(stick, file));
    }
  }

  get playing(): boolean {
    return this.source !== null;
  }

  get rate(): number {
    return this.speed;
  }

  /** Seconds for which the loaded track was heard in all. */
  heard_s(): number {
    return this.heard + (this.source ? Math.max(0, this.context.currentTime - this.startedAt) : 0);
  }

  position(): number {
    if (!this.source) return this.from;
    const at = this.from + (this.context.currentTime - this.startedAt) * this.speed;
    if (!this.loop || at < this.loop.end_s || this.from >= this.loop.end_s) return at;
    const { start_s, end_s } = this.loop;
    return start_s + ((at - start_s) % (end_s - start_s));
  }

  /** Goes to a place: plays from there, or stands there. */
  seek(to_s: number): void {
    if (this.playing) this.play(to_s);
    else this.from = Math.max(0, to_s);
  }

  play(from = this.position()): void {
    this.stop();
    if (!this.buffer) return;
    void this.context.resume();
    const source = this.context.createBufferSource();
    source.buffer = this.buffer;
    source.playbackRate.value = this.speed;
    this.join(source);
    const [leaves, comes] = this.jumps.find(([left]) => left > from + 0.001) ?? [];
    source.onended = () => {
      if (this.source !== source) return;
      if (comes === undefined) this.stop();
      else this.play(comes);
    };
    this.startedAt = this.context.currentTime + 0.02;
    this.from = from;
    if (this.loop && from < this.loop.end_s) this.loopIn(source, this.loop);
    source.start(this.startedAt, from, leaves === undefined ? undefined : leaves - from);
    this.source = source;
    this.begunAt ??= new Date();
  }

  stop(): void {
    this.heard = this.heard_s();
    this.from = Math.max(0, this.position());
    this.source?.stop();
    this.source = null;
  }

  setRate(rate: number): void {
    this.rebase();
    this.speed = rate;
    if (!this.source) return;
    this.source.playbackRate.value = rate;
    this.join(this.source);
  }

  /** Loops, or leaves the loop and goes on. */
  setLoop(loop: Loop | null): void {
    this.rebase();
    this.loop = loop;
    if (!this.source) return;
    if (loop) this.loopIn(this.source, loop);
    else this.source.loop = false;
  }

  private loopIn(source: AudioBufferSourceNode, loop: Loop): void {
    source.loopStart = loop.start_s;
    source.loopEnd = loop.end_s;
    source.loop = true;
  }

  /** What was played so far counts as it was; from here on anew. */
  private rebase(): void {
    if (!this.source) return;
    const position = this.position();
    this.heard = this.heard_s();
    this.startedAt = this.context.currentTime;
    this.from = position;
  }
}

/**
 * The index counts from the first sample after the codec's padding. Some decoders leave the padding in: then what was
 * decoded is longer than the track, and its start is cut off here.
 */
function withoutPadding(
  context: AudioContext,
  decoded: AudioBuffer,
  track: StickTrack,
  file: StickFile,
): AudioBuffer {
  const padding_s = file.padding_samples / file.rate_hz;
  if (padding_s === 0 || decoded.duration < track.duration_s + padding_s * 0.9) return decoded;
  const skip = Math.round(padding_s * decoded.sampleRate);
  const trimmed = context.createBuffer(decoded.numberOfChannels, decoded.length - skip, decoded.sampleRate);
  for (let channel = 0; channel < decoded.numberOfChannels; channel++)
    trimmed.copyToChannel(decoded.getChannelData(channel).subarray(skip), channel);
  return trimmed;
}
