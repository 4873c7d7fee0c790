import { CHUNK_FRAMES, RATE } from "./pcm";
import type { FromPlayer, LoopFrames, ToPlayer } from "./protocol";

declare const currentTime: number;
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, processor: new () => AudioWorkletProcessor): void;

const FADE_FRAMES = 128;
const REPORT_BLOCKS = 6;
const CLICK_S = 0.03;

/** Plays the pieces of a listening copy sample by sample, loops, and mixes the metronome into the very same frames. */
class Player extends AudioWorkletProcessor {
  private chunks = new Map<number, Int16Array>();
  private track = 0;
  private frames = 0;
  private position = 0;
  private playing = false;
  private gain = 0;
  private pendingSeek: number | null = null;
  private pendingJump = 0;
  private loop: LoopFrames | null = null;
  private loops: LoopFrames[] = [];
  private clickFrames = new Float64Array(0);
  private accents = new Uint8Array(0);
  private clickOn = false;
  private clickGain = 0.6;
  private nextClick = 0;
  private sounding: { tone: Float32Array; at: number }[] = [];
  private readonly tones = [clickTone(1320), clickTone(1980)];
  private blocks = 0;
  private moving = false;

  constructor() {
    super();
    this.port.onmessage = (event: MessageEvent<ToPlayer>) => this.receive(event.data);
  }

  private receive(message: ToPlayer): void {
    switch (message.type) {
      case "load":
        this.chunks.clear();
        this.track = message.track;
        this.frames = message.frames;
        this.playing = false;
        this.gain = 0;
        this.loop = null;
        this.loops = [];
        this.jump(0);
        break;
      case "chunk":
        if (message.track === this.track) this.chunks.set(message.index, message.samples);
        break;
      case "drop":
        this.chunks.delete(message.index);
        break;
      case "play":
        this.playing = true;
        break;
      case "pause":
        this.playing = false;
        break;
      case "seek":
        if (this.gain > 0) this.pendingSeek = message.frame;
        else this.jump(message.frame);
        break;
      case "jump":
        if (this.gain > 0) this.pendingJump += message.by;
        else this.jump(this.position + message.by);
        break;
      case "clicks":
        this.clickFrames = message.frames;
        this.accents = message.accents;
        this.findClick();
        break;
      case "click":
        this.clickOn = message.on;
        this.clickGain = message.gain;
        break;
      case "loops":
        this.loops = message.loops;
        break;
      case "loop":
        this.loop = message.loop;
        break;
    }
    this.report();
  }

  private jump(frame: number): void {
    this.position = Math.max(0, Math.min(this.frames, Math.round(frame)));
    this.pendingSeek = null;
    this.pendingJump = 0;
    if (this.loop && (this.position < this.loop.start || this.position >= this.loop.end)) this.loop = null;
    this.findClick();
  }

  private findClick(): void {
    let low = 0;
    let high = this.clickFrames.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.clickFrames[middle] ?? 0) < this.position) low = middle + 1;
      else high = middle;
    }
    this.nextClick = low;
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (!left || !right) return true;
    this.moving = false;
    for (let i = 0; i < left.length; i++) this.frame(left, right, i);
    if (++this.blocks % REPORT_BLOCKS === 0) this.report(left.length);
    return true;
  }

  private frame(left: Float32Array, right: Float32Array, i: number): void {
    const leaving = this.pendingSeek !== null || this.pendingJump !== 0;
    const wanted = this.playing && !leaving ? 1 : 0;
    if (this.gain !== wanted) this.gain = wanted > this.gain ? Math.min(1, this.gain + 1 / FADE_FRAMES) : Math.max(0, this.gain - 1 / FADE_FRAMES);
    // A jump counts this silent frame too, so that the beat is kept.
    if (this.gain === 0 && leaving) this.jump(this.pendingSeek ?? this.position + this.pendingJump + 1);
    if (this.gain > 0) this.sample(left, right, i);
    this.mixClicks(left, right, i);
  }

  private sample(left: Float32Array, right: Float32Array, i: number): void {
    const chunk = this.chunks.get(Math.floor(this.position / CHUNK_FRAMES));
    if (!chunk || this.position >= this.frames) return;
    const at = 2 * (this.position % CHUNK_FRAMES);
    left[i] = ((chunk[at] ?? 0) / 32768) * this.gain;
    right[i] = ((chunk[at + 1] ?? 0) / 32768) * this.gain;
    this.advance();
  }

  private advance(): void {
    this.moving = true;
    if (this.position >= (this.clickFrames[this.nextClick] ?? Infinity) - 0.5) {
      if (this.clickOn) this.sounding.push({ tone: this.tones[this.accents[this.nextClick] ? 1 : 0] ?? new Float32Array(0), at: 0 });
      this.nextClick++;
    }
    this.position++;
    const engaged = this.loop ?? this.loops.find((loop) => loop.start === this.position) ?? null;
    this.loop = engaged;
    if (engaged && this.position >= engaged.end) {
      this.position = engaged.start;
      this.findClick();
    }
    if (this.position >= this.frames) this.playing = false;
  }

  private mixClicks(left: Float32Array, right: Float32Array, i: number): void {
    for (const click of this.sounding) {
      const value = (click.tone[click.at++] ?? 0) * this.clickGain;
      left[i] = (left[i] ?? 0) + value;
      right[i] = (right[i] ?? 0) + value;
    }
    if (this.sounding.length && (this.sounding[0]?.at ?? 0) >= CLICK_S * sampleRate) this.sounding.shift();
  }

  /** `ahead` frames of the block that is being rendered are already counted in the position. */
  private report(ahead = 0): void {
    const message: FromPlayer = {
      type: "position", track: this.track, frame: this.pendingSeek ?? this.position + this.pendingJump, at: currentTime + ahead / RATE,
      playing: this.playing, moving: this.playing && (this.moving || ahead === 0), loop: this.loop,
    };
    this.port.postMessage(message);
  }
}

function clickTone(hz: number): Float32Array {
  const tone = new Float32Array(Math.round(CLICK_S * RATE));
  for (let i = 0; i < tone.length; i++) tone[i] = Math.cos((2 * Math.PI * hz * i) / RATE) * Math.exp(-i / (0.006 * RATE));
  return tone;
}

registerProcessor("vinyl-player", Player);
