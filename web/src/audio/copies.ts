/** Plays several copies of one recording side by side, of which one is heard: another is heard at once, at the same place. */
import { fetchPiece } from "./ahead";
import { CHUNK_FRAMES, RATE } from "./pcm";

/** A copy: `its time = speed * time + offset`, where times are those of the first; `gain` makes all equally loud. */
export interface Copy {
  track: number;
  duration: number;
  speed: number;
  offset: number;
  gain: number;
}

export interface CopiesState {
  heard: number;
  playing: boolean;
  problem: string | null;
}

const PIECE_S = CHUNK_FRAMES / RATE;
const LEAD_S = 0.08;
const AHEAD_S = 6;
const LOOK_MS = 200;
/** So quickly one copy gives way to another: no click is heard, and no gap. */
const FADE_S = 0.006;

interface Voice {
  copy: Copy;
  gain: GainNode;
  sources: Set<AudioBufferSourceNode>;
  /** The next piece that is to be scheduled. */
  next: number;
  busy: boolean;
}

/** The start and end of a copy, in times of the first. */
export const spanOf = ({ duration, speed, offset }: Copy): [number, number] => [
  -offset / speed,
  (duration - offset) / speed,
];

export class CopyPlayer {
  private state: CopiesState = { heard: 0, playing: false, problem: null };
  private copies: readonly Copy[] = [];
  private voices: Voice[] = [];
  private context: AudioContext | null = null;
  private timer = 0;
  private rest = 0;
  /** The audio clock's time at which the time `rest` is heard. */
  private begun = 0;
  private readonly listeners = new Set<() => void>();

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): CopiesState => this.state;

  load(copies: readonly Copy[]): void {
    this.stop();
    this.copies = copies;
    this.rest = 0;
    this.change({ heard: 0, playing: false, problem: null });
  }

  async toggle(): Promise<void> {
    if (this.state.playing) this.pause();
    else await this.play();
  }

  async play(): Promise<void> {
    this.context ??= new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    const { context } = this;
    if (context.state === "suspended") await context.resume();
    this.stop();
    if (this.rest >= this.end()) this.rest = 0;
    this.begun = context.currentTime + LEAD_S;
    this.voices = this.copies.map((copy, place) => this.voiceOf(context, copy, place));
    this.change({ ...this.state, playing: true, problem: null });
    this.timer = window.setInterval(() => this.look(), LOOK_MS);
    this.look();
  }

  pause(): void {
    this.rest = this.position();
    this.stop();
    this.change({ ...this.state, playing: false });
  }

  seek(time: number): void {
    const wasPlaying = this.state.playing;
    this.stop();
    this.rest = Math.max(0, Math.min(this.end(), time));
    this.listeners.forEach((listener) => listener());
    if (wasPlaying) void this.play();
  }

  /** Hear another copy, from where the sound is now. */
  hear(place: number): void {
    if (!this.copies[place]) return;
    const now = this.context?.currentTime ?? 0;
    this.voices.forEach(({ gain, copy }, each) => {
      gain.gain.setValueAtTime(gain.gain.value, now);
      gain.gain.linearRampToValueAtTime(each === place ? copy.gain : 0, now + FADE_S);
    });
    this.change({ ...this.state, heard: place });
  }

  /** What is heard now, in seconds of the first copy. */
  position(): number {
    if (!this.state.playing || !this.context) return this.rest;
    const since = this.context.currentTime - (this.context.outputLatency || 0) - this.begun;
    return Math.min(this.end(), this.rest + Math.max(0, since));
  }

  private end(): number {
    return Math.max(0, ...this.copies.map((copy) => spanOf(copy)[1]));
  }

  private voiceOf(context: AudioContext, copy: Copy, place: number): Voice {
    const gain = new GainNode(context, { gain: place === this.state.heard ? copy.gain : 0 });
    gain.connect(context.destination);
    const at = copy.speed * this.rest + copy.offset;
    return { copy, gain, sources: new Set(), next: Math.max(0, Math.floor(at / PIECE_S)), busy: false };
  }

  /** Keeps a few seconds of each copy ahead of what is heard, and ends at the end. */
  private look(): void {
    const now = this.position();
    if (now >= this.end()) {
      this.rest = 0;
      this.stop();
      this.change({ ...this.state, playing: false });
      return;
    }
    for (const voice of this.voices) void this.feed(voice, now);
  }

  private async feed(voice: Voice, now: number): Promise<void> {
    const { copy } = voice;
    const begins = (voice.next * PIECE_S - copy.offset) / copy.speed;
    if (voice.busy || begins > now + AHEAD_S || voice.next * PIECE_S >= copy.duration) return;
    voice.busy = true;
    try {
      const samples = await fetchPiece(copy.track, voice.next);
      if (this.voices.includes(voice)) this.schedule(voice, samples);
    } catch (error) {
      const problem = error instanceof Error ? error.message : String(error);
      if (this.voices.includes(voice)) this.change({ ...this.state, problem });
      voice.next = Number.MAX_SAFE_INTEGER;
    }
    voice.busy = false;
  }

  private schedule(voice: Voice, samples: Int16Array): void {
    const { context } = this;
    if (!context || !samples.length) return;
    const buffer = bufferOf(context, samples);
    const source = new AudioBufferSourceNode(context, { buffer, playbackRate: voice.copy.speed });
    const at = (voice.next * PIECE_S - voice.copy.offset) / voice.copy.speed;
    const when = this.begun + at - this.rest;
    const late = Math.max(0, context.currentTime - when);
    source.connect(voice.gain);
    source.start(Math.max(when, context.currentTime), late * voice.copy.speed);
    source.onended = () => voice.sources.delete(source);
    voice.sources.add(source);
    voice.next += 1;
  }

  private stop(): void {
    window.clearInterval(this.timer);
    for (const { sources, gain } of this.voices) {
      sources.forEach((source) => source.stop());
      gain.disconnect();
    }
    this.voices = [];
  }

  private change(state: CopiesState): void {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }
}

function bufferOf(context: AudioContext, samples: Int16Array): AudioBuffer {
  const frames = samples.length / 2;
  const buffer = new AudioBuffer({ length: frames, numberOfChannels: 2, sampleRate: context.sampleRate });
  for (const side of [0, 1]) {
    const channel = buffer.getChannelData(side);
    for (let frame = 0; frame < frames; frame++) channel[frame] = (samples[2 * frame + side] ?? 0) / 32768;
  }
  return buffer;
}
