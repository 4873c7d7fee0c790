/** The one player of this window. */
import type { TempoMap } from "../drawing/tempo-map";
import { Ahead, fetchPiece } from "./ahead";
import { SILENT, type EngineState, type Jump } from "./engine-state";
import { CHUNK_FRAMES, Pcm, RATE } from "./pcm";
import workletUrl from "./player-worklet.ts?worker&url";
import type { CountIn, FromPlayer, JumpFrames, LoopFrames, Pace, Position, ToPlayer } from "./protocol";

export type { EngineState, Jump };

const AHEAD = 3;
const MOST_CHUNKS = 140;
const JUMPS_AHEAD = 3;
const COUNT_IN_BARS = 2;

/** The one player of this window: fetches pieces of the listening copy and drives the audio thread. */
export class Engine {
  pcm = new Pcm();
  /** Jumps by hand since recording began, in seconds. */
  recorded: Jump[] = [];
  private state = SILENT;
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private starting: Promise<void> | null = null;
  private readonly waiting: { message: ToPlayer; transfer: Transferable[] }[] = [];
  private readonly listeners = new Set<() => void>();
  private loaded = new Map<number, "fetching" | "there" | "failed">();
  private readonly ahead = new Ahead();
  private last: Position | null = null;
  private rest = 0;
  private clickGain = 0.6;
  private jumps: Jump[] = [];
  /** Reports from before the way was followed must not end it. */
  private wayBegun = false;
  private map: TempoMap | null = null;

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
    this.jumps = [];
    this.change({ ...SILENT, track, duration, click: this.state.click, pace: this.state.pace });
    this.send({ type: "load", frames: Math.round(duration * RATE), track });
    this.fetchAround(0);
  }

  /** Fetch the sound of a track at some times (seconds), so that it plays at once when it is opened. */
  prefetch(track: number, times: readonly number[]): void {
    if (track !== this.state.track)
      this.ahead.fetch(
        track,
        times.map((time) => time * RATE),
      );
  }

  async play(countIn = false): Promise<void> {
    for (const [index, state] of this.loaded) if (state === "failed") this.loaded.delete(index);
    this.fetchAround(this.position());
    this.change({ ...this.state, waiting: this.isOnItsWay() });
    await this.start();
    this.send({ type: "play", countIn: countIn ? this.countIn() : null });
  }

  pause(): void {
    if (this.state.waiting) this.change({ ...this.state, waiting: false });
    this.send({ type: "pause" });
  }

  toggle(): void {
    if (this.state.playing || this.state.waiting) this.pause();
    else void this.play();
  }

  seek(time: number): void {
    this.leaveWay();
    this.moveTo(time);
  }

  /** Jump from wherever the sound is at that instant, so that a jump by beats keeps the beat. */
  jumpBy(seconds: number): void {
    const to = this.position() + seconds;
    if (!this.state.playing || to <= 0 || to >= this.state.duration) {
      this.seek(to);
      return;
    }
    this.leaveWay();
    this.send({ type: "jump", by: Math.round(seconds * RATE) });
    this.fetchAround(to);
  }

  /** The sound follows the hand to a time; null lets go. */
  async scrub(time: number | null): Promise<void> {
    if (time === null) {
      this.send({ type: "scrub", frame: null });
      return;
    }
    const to = Math.max(0, Math.min(this.state.duration, time));
    this.leaveWay();
    this.rest = to;
    this.fetchAround(to);
    await this.start();
    this.send({ type: "scrub", frame: to * RATE });
  }

  setPace(pace: Pace): void {
    this.change({ ...this.state, pace });
    this.send({ type: "pace", pace });
  }

  setClick(on: boolean, gain = this.clickGain): void {
    this.clickGain = gain;
    this.change({ ...this.state, click: on });
    this.send({ type: "click", on, gain });
  }

  /** The grid that the metronome clicks on. */
  setGrid(map: TempoMap | null): void {
    const frames: number[] = [];
    const accents: number[] = [];
    this.map = map;
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

  /** Have the sound at some times there before it is jumped to. */
  makeReady(times: readonly number[]): void {
    for (const time of times) void this.fetchChunk(Math.floor((time * RATE) / CHUNK_FRAMES));
  }

  setLoop(loop: { start: number; end: number } | null): void {
    this.change({ ...this.state, loop });
    this.send({ type: "loop", loop: loop && toFrames(loop) });
  }

  /** Play from a time and follow jumps: the stops of a walk, or a route. */
  async follow(way: "walk" | "route", from: number, jumps: Jump[]): Promise<void> {
    this.setLoop(null);
    this.moveTo(from);
    this.jumps = jumps;
    this.wayBegun = false;
    this.change({ ...this.state, way });
    this.send({
      type: "way",
      jumps: jumps.map((jump): JumpFrames => ({
        from: Math.round(jump.from * RATE),
        to: Math.round(jump.to * RATE),
      })),
    });
    this.fetchJumps(jumps.length);
    await this.play();
  }

  /** Keep the jumps made by hand while playing, from now on. */
  record(on: boolean): void {
    if (on) this.recorded = [];
    this.change({ ...this.state, recording: on });
  }

  /** What is heard now, in seconds of the track. */
  position(): number {
    const { last, context } = this;
    if (!last || !context) return this.rest;
    const heardAt = context.currentTime - (context.outputLatency || 0);
    const since = last.moving ? Math.max(-1, Math.min(1, heardAt - last.at)) : 0;
    let frame = last.frame + since * RATE * last.speed;
    if (last.loop && last.moving && frame >= last.loop.end)
      frame = last.loop.start + ((frame - last.loop.start) % (last.loop.end - last.loop.start));
    return Math.max(0, Math.min(this.state.duration, frame / RATE));
  }

  private moveTo(time: number): void {
    const to = Math.max(0, Math.min(this.state.duration, time));
    this.rest = to;
    if (this.last)
      this.last = { ...this.last, frame: to * RATE, at: this.context?.currentTime ?? 0, moving: false };
    this.send({ type: "seek", frame: to * RATE });
    this.fetchAround(to);
    this.listeners.forEach((listener) => listener());
  }

  private leaveWay(): void {
    if (!this.state.way) return;
    this.jumps = [];
    this.change({ ...this.state, way: null });
    this.send({ type: "way", jumps: [] });
  }

  private countIn(): CountIn | null {
    const { map } = this;
    if (!map) return null;
    const now = this.position();
    const beat = Math.round(map.beatAt(now));
    return {
      clicks: COUNT_IN_BARS * map.beatsPerBar,
      every: (map.timeAt(beat + 1) - map.timeAt(beat)) * RATE,
      bar: map.beatsPerBar,
    };
  }

  private async start(): Promise<void> {
    this.starting ??= this.open();
    await this.starting;
    if (this.context?.state === "suspended") await this.context.resume();
  }

  private async open(): Promise<void> {
    const context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    await context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(context, "vinyl-player", {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
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
    if (message.type === "jumped") {
      if (this.state.recording) this.recorded.push({ from: message.from / RATE, to: message.to / RATE });
      this.listeners.forEach((listener) => listener());
      return;
    }
    this.last = message;
    this.rest = message.frame / RATE;
    this.fetchAround(message.frame / RATE);
    this.fetchJumps(message.jumpsLeft);
    const loop = message.loop && { start: message.loop.start / RATE, end: message.loop.end / RATE };
    const waiting = message.playing && this.isOnItsWay();
    if (
      message.playing !== this.state.playing ||
      waiting !== this.state.waiting ||
      loop?.start !== this.state.loop?.start ||
      loop?.end !== this.state.loop?.end
    ) {
      this.change({ ...this.state, playing: message.playing, waiting, loop });
    }
    if (message.playing) this.wayBegun = true;
    else if (this.wayBegun && message.jumpsLeft === 0) this.leaveWay();
  }

  private fetchJumps(left: number): void {
    const next = this.jumps.length - left;
    for (const jump of this.jumps.slice(next, next + JUMPS_AHEAD))
      void this.fetchChunk(Math.floor((jump.to * RATE) / CHUNK_FRAMES));
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
    try {
      const samples = (await this.ahead.take(track, index)) ?? (await fetchPiece(track, index));
      if (this.state.track !== track) return;
      loaded.set(index, "there");
      pcm.add(index, samples);
      this.send({ type: "chunk", track, index, samples }, [samples.buffer]);
      const waiting = this.state.waiting && this.isOnItsWay();
      if (this.state.problem || !waiting) this.change({ ...this.state, problem: null, waiting });
      this.listeners.forEach((listener) => listener());
    } catch (error) {
      if (this.state.track !== track) return;
      loaded.set(index, "failed");
      const problem = error instanceof Error ? error.message : String(error);
      this.change({ ...this.state, problem, waiting: false });
    }
  }

  /** Whether the sound that is to be heard now is still being fetched. */
  private isOnItsWay(): boolean {
    const at = Math.min(this.position(), Math.max(0, this.state.duration - 1 / RATE));
    return this.loaded.get(Math.floor((at * RATE) / CHUNK_FRAMES)) === "fetching";
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

export const engine = new Engine();
