import type { TempoMap } from "../drawing/tempo-map";
import { CHUNK_FRAMES, Pcm, RATE } from "./pcm";
import workletUrl from "./player-worklet.ts?worker&url";
import type { FromPlayer, LoopFrames, ToPlayer } from "./protocol";

const AHEAD = 3;
const MOST_CHUNKS = 140;

export interface EngineState {
  track: number | null;
  duration: number;
  playing: boolean;
  click: boolean;
  loop: { start: number; end: number } | null;
  problem: string | null;
}

const SILENT: EngineState = { track: null, duration: 0, playing: false, click: false, loop: null, problem: null };

/** The one player of this window: fetches pieces of the listening copy and drives the audio thread. */
export class Engine {
  pcm = new Pcm();
  private state = SILENT;
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private starting: Promise<void> | null = null;
  private readonly waiting: { message: ToPlayer; transfer: Transferable[] }[] = [];
  private readonly listeners = new Set<() => void>();
  private loaded = new Map<number, "fetching" | "there" | "failed">();
  private last: FromPlayer | null = null;
  private rest = 0;
  private clickGain = 0.6;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): EngineState => this.state;

  /** Make a track the one to play, from its start. Its first pieces are fetched at once. */
  load(track: number, duration: number): void {
    if (this.state.track === track) return;
    this.pcm = new Pcm();
    this.loaded = new Map();
    this.rest = 0;
    this.last = null;
    this.change({ ...SILENT, track, duration, click: this.state.click });
    this.send({ type: "load", frames: Math.round(duration * RATE), track });
    this.fetchAround(0);
  }

  async play(): Promise<void> {
    for (const [index, state] of this.loaded) if (state === "failed") this.loaded.delete(index);
    this.fetchAround(this.position());
    await this.start();
    this.send({ type: "play" });
  }

  pause(): void {
    this.send({ type: "pause" });
  }

  toggle(): void {
    if (this.state.playing) this.pause();
    else void this.play();
  }

  seek(time: number): void {
    const to = Math.max(0, Math.min(this.state.duration, time));
    this.rest = to;
    if (this.last) this.last = { ...this.last, frame: to * RATE, at: this.context?.currentTime ?? 0, moving: false };
    this.send({ type: "seek", frame: to * RATE });
    this.fetchAround(to);
    this.listeners.forEach((listener) => listener());
  }

  /** Jump from wherever the sound is at that instant, so that a jump by beats keeps the beat. */
  jumpBy(seconds: number): void {
    const to = this.position() + seconds;
    if (!this.state.playing || to <= 0 || to >= this.state.duration) {
      this.seek(to);
      return;
    }
    this.send({ type: "jump", by: Math.round(seconds * RATE) });
    this.fetchAround(to);
  }

  setClick(on: boolean): void {
    this.change({ ...this.state, click: on });
    this.send({ type: "click", on, gain: this.clickGain });
  }

  /** The grid that the metronome clicks on. */
  setGrid(map: TempoMap | null): void {
    const frames: number[] = [];
    const accents: number[] = [];
    if (map) {
      const last = map.beatAt(this.state.duration);
      for (let beat = Math.ceil(map.beatAt(0) - 1e-6); beat <= last; beat++) {
        frames.push(map.timeAt(beat) * RATE);
        accents.push(beat % map.beatsPerBar === 0 ? 1 : 0);
      }
    }
    this.send({ type: "clicks", frames: Float64Array.from(frames), accents: Uint8Array.from(accents) });
  }

  /** Loops that begin by themselves when they are reached. */
  setEngaging(loops: { start: number; end: number }[]): void {
    this.send({ type: "loops", loops: loops.map(toFrames) });
  }

  setLoop(loop: { start: number; end: number } | null): void {
    this.change({ ...this.state, loop });
    this.send({ type: "loop", loop: loop && toFrames(loop) });
  }

  /** What is heard now, in seconds of the track. */
  position(): number {
    const { last, context } = this;
    if (!last || !context) return this.rest;
    const heardAt = context.currentTime - (context.outputLatency || 0);
    const since = last.moving ? Math.max(-1, Math.min(1, heardAt - last.at)) : 0;
    let frame = last.frame + since * RATE;
    if (last.loop && last.moving && frame >= last.loop.end) frame = last.loop.start + ((frame - last.loop.start) % (last.loop.end - last.loop.start));
    return Math.max(0, Math.min(this.state.duration, frame / RATE));
  }

  private async start(): Promise<void> {
    this.starting ??= this.open();
    await this.starting;
    if (this.context?.state === "suspended") await this.context.resume();
  }

  private async open(): Promise<void> {
    const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    await context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(context, "vinyl-player", { numberOfInputs: 0, outputChannelCount: [2] });
    node.port.onmessage = (event: MessageEvent<FromPlayer>) => this.receive(event.data);
    node.connect(context.destination);
    this.context = context;
    this.node = node;
    for (const { message, transfer } of this.waiting.splice(0)) node.port.postMessage(message, transfer);
  }

  /** Before the first play there is no audio thread yet; what it must know waits for it. */
  private send(message: ToPlayer, transfer: Transferable[] = []): void {
    if (this.node) this.node.port.postMessage(message, transfer);
    else this.waiting.push({ message, transfer });
  }

  private receive(message: FromPlayer): void {
    if (message.track !== this.state.track) return;
    this.last = message;
    this.rest = message.frame / RATE;
    this.fetchAround(message.frame / RATE);
    const loop = message.loop && { start: message.loop.start / RATE, end: message.loop.end / RATE };
    if (message.playing !== this.state.playing || loop?.start !== this.state.loop?.start || loop?.end !== this.state.loop?.end) {
      this.change({ ...this.state, playing: message.playing, loop });
    }
  }

  private fetchAround(time: number): void {
    const first = Math.max(0, Math.floor((time * RATE) / CHUNK_FRAMES));
    const final = Math.floor(Math.max(0, this.state.duration * RATE - 1) / CHUNK_FRAMES);
    for (let index = first; index <= Math.min(first + AHEAD, final); index++) void this.fetchChunk(index);
    if (first > 0) void this.fetchChunk(first - 1);
    const { loop } = this.state;
    if (loop) void this.fetchChunk(Math.floor((loop.start * RATE) / CHUNK_FRAMES));
    this.forgetOld(first);
  }

  private async fetchChunk(index: number): Promise<void> {
    const { track } = this.state;
    if (track === null || this.loaded.has(index)) return;
    const { loaded, pcm } = this;
    loaded.set(index, "fetching");
    const response = await fetch(`/api/tracks/${track}/listening?first_frame=${index * CHUNK_FRAMES}&frames=${CHUNK_FRAMES}`).catch(() => null);
    if (this.state.track !== track) return;
    if (!response?.ok) {
      loaded.set(index, "failed");
      this.change({ ...this.state, problem: await reason(response) });
      return;
    }
    const samples = new Int16Array(await response.arrayBuffer());
    if (this.state.track !== track) return;
    loaded.set(index, "there");
    pcm.add(index, samples);
    this.send({ type: "chunk", track, index, samples }, [samples.buffer]);
    if (this.state.problem) this.change({ ...this.state, problem: null });
    this.listeners.forEach((listener) => listener());
  }

  /** A long mix must not fill the memory: pieces far from the present go. */
  private forgetOld(present: number): void {
    if (this.loaded.size <= MOST_CHUNKS) return;
    const there = [...this.loaded].filter(([, state]) => state === "there").map(([index]) => index);
    const farthest = there.sort((a, b) => Math.abs(b - present) - Math.abs(a - present))[0];
    if (farthest === undefined) return;
    this.loaded.delete(farthest);
    this.send({ type: "drop", index: farthest });
  }

  private change(state: EngineState): void {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }
}

function toFrames({ start, end }: { start: number; end: number }): LoopFrames {
  return { start: Math.round(start * RATE), end: Math.round(end * RATE) };
}

async function reason(response: Response | null): Promise<string> {
  if (!response) return "The server does not answer; the sound cannot be fetched.";
  const body = (await response.json().catch(() => null)) as { detail?: string } | null;
  return body?.detail ?? `The sound cannot be fetched (${response.status}).`;
}

export const engine = new Engine();
