/** The player in the audio thread. */
import { Metronome } from "./metronome";
import { RATE } from "./pcm";
import { FADE_FRAMES, Pieces } from "./pieces";
import type { FromPlayer, JumpFrames, LoopFrames, Pace, ToPlayer } from "./protocol";
import { Slow } from "./slow";

declare const currentTime: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(name: string, processor: new () => AudioWorkletProcessor): void;

const GAIN_FRAMES = 128;
const REPORT_BLOCKS = 6;
const SCRUB_REACH_FRAMES = 1300;
const SCRUB_FASTEST = 6;

/** Plays the pieces of a listening copy sample by sample, loops, follows a way of jumps, and mixes in the metronome. */
class Player extends AudioWorkletProcessor {
  private readonly pieces = new Pieces();
  private readonly metronome = new Metronome();
  private readonly slow = new Slow();
  private track = 0;
  private frames = 0;
  private position = 0;
  private playing = false;
  private gain = 0;
  private pace: Pace = "full";
  private pendingSeek: number | null = null;
  private pendingJump = 0;
  private scrub: number | null = null;
  private scrubSpeed = 0;
  private loop: LoopFrames | null = null;
  private loops: LoopFrames[] = [];
  private way: JumpFrames[] = [];
  private blocks = 0;
  private moving = false;

  constructor() {
    super();
    this.port.onmessage = (event: MessageEvent<ToPlayer>) => this.receive(event.data);
  }

  private receive(message: ToPlayer): void {
    switch (message.type) {
      case "load":
        this.load(message.track, message.frames);
        break;
      case "chunk":
        if (message.track === this.track) this.pieces.add(message.index, message.samples);
        break;
      case "drop":
        this.pieces.drop(message.index);
        break;
      case "play":
        this.playing = true;
        this.metronome.countIn(message.countIn);
        break;
      case "pause":
        this.playing = false;
        this.metronome.countIn(null);
        break;
      case "seek":
        if (this.gain > 0) this.pendingSeek = message.frame;
        else this.jump(message.frame);
        break;
      case "jump":
        if (this.gain > 0) this.pendingJump += message.by;
        else this.jump(this.position + message.by);
        break;
      case "scrub":
        this.startScrub(message.frame);
        break;
      case "pace":
        this.pace = message.pace;
        this.position = Math.round(this.position);
        this.slow.reset();
        break;
      case "clicks":
        this.metronome.setGrid(message.frames, message.accents, this.position);
        break;
      case "click":
        this.metronome.on = message.on;
        this.metronome.gain = message.gain;
        break;
      case "loops":
        this.loops = message.loops;
        break;
      case "loop":
        this.loop = message.loop;
        break;
      case "way":
        this.way = [...message.jumps];
        break;
    }
    this.report();
  }

  private load(track: number, frames: number): void {
    this.pieces.clear();
    this.track = track;
    this.frames = frames;
    this.playing = false;
    this.gain = 0;
    this.loop = null;
    this.loops = [];
    this.way = [];
    this.scrub = null;
    this.metronome.countIn(null);
    this.jump(0);
  }

  private jump(frame: number): void {
    this.position = Math.max(0, Math.min(this.frames, Math.round(frame)));
    this.pendingSeek = null;
    this.pendingJump = 0;
    if (this.loop && (this.position < this.loop.start || this.position >= this.loop.end)) this.loop = null;
    this.metronome.seek(this.position);
    this.slow.reset();
  }

  private startScrub(frame: number | null): void {
    if (frame === null && this.scrub !== null) this.jump(this.scrub);
    else if (frame !== null)
      this.position = this.scrub === null && this.pendingSeek !== null ? this.pendingSeek : this.position;
    if (this.scrub === null) this.scrubSpeed = 0;
    this.scrub = frame;
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
    if (this.scrub !== null) this.scrubFrame(left, right, i, this.scrub);
    else if (!(this.playing && this.metronome.holdsBack())) this.playFrame(left, right, i);
    this.metronome.mix(left, right, i);
  }

  private playFrame(left: Float32Array, right: Float32Array, i: number): void {
    const leaving = this.pendingSeek !== null || this.pendingJump !== 0;
    const wanted = this.playing && !leaving ? 1 : 0;
    if (this.gain !== wanted)
      this.gain =
        wanted > this.gain
          ? Math.min(1, this.gain + 1 / GAIN_FRAMES)
          : Math.max(0, this.gain - 1 / GAIN_FRAMES);
    // A jump counts this silent frame too, so that the beat is kept.
    if (this.gain === 0 && leaving)
      this.leave(this.pendingSeek ?? this.position + this.pendingJump + this.speed());
    if (this.gain > 0) this.sample(left, right, i);
  }

  private leave(to: number): void {
    const from = this.position;
    this.jump(to);
    this.post({ type: "jumped", track: this.track, from, to: this.position });
  }

  private sample(left: Float32Array, right: Float32Array, i: number): void {
    if (this.position >= this.frames || !this.pieces.has(Math.floor(this.position))) return;
    const [l, r] = this.pace === "half" ? this.slow.next(this.pieces, this.position) : this.joined();
    left[i] = l * this.gain;
    right[i] = r * this.gain;
    this.advance();
  }

  /** The sound at the position; just before a joint, what leads up to the joint's other side is faded in. */
  private joined(): [number, number] {
    const l = this.pieces.between(this.position, 0);
    const r = this.pieces.between(this.position, 1);
    const joint = this.joint();
    const left = joint ? joint.from - this.position : Infinity;
    if (!joint || left > FADE_FRAMES || left <= 0) return [l, r];
    const rise = 1 - left / (FADE_FRAMES + 1);
    const lead = joint.to - left;
    const other = (channel: 0 | 1) => (lead < 0 ? 0 : this.pieces.between(lead, channel));
    return [l + rise * (other(0) - l), r + rise * (other(1) - r)];
  }

  /** Where playing goes on elsewhere by itself. */
  private joint(): JumpFrames | null {
    if (this.loop) return { from: this.loop.end, to: this.loop.start };
    return this.way[0] ?? null;
  }

  private speed(): number {
    return this.pace === "full" ? 1 : 0.5;
  }

  private advance(): void {
    this.moving = true;
    this.metronome.reach(this.position);
    const before = this.position;
    this.position += this.speed();
    // On a way no loop engages by itself: it would hold the way up for ever.
    if (!this.way.length)
      this.loop ??= this.loops.find((loop) => loop.start >= before && loop.start < this.position) ?? null;
    const joint = this.joint();
    if (joint && before < joint.from && this.position >= joint.from) this.goOn(joint);
    else if (this.loop && this.position >= this.loop.end)
      this.goOn({ from: this.loop.end, to: this.loop.start });
    if (this.position >= this.frames) this.playing = false;
  }

  private goOn(joint: JumpFrames): void {
    if (!this.loop) this.way.shift();
    this.position = joint.to;
    this.metronome.seek(joint.to);
  }

  /** The sound follows the hand: it moves to where the hand is in some 30 ms, at most six times as fast as it plays. */
  private scrubFrame(left: Float32Array, right: Float32Array, i: number, to: number): void {
    const wanted = Math.max(
      -SCRUB_FASTEST,
      Math.min(SCRUB_FASTEST, (to - this.position) / SCRUB_REACH_FRAMES),
    );
    this.scrubSpeed += (wanted - this.scrubSpeed) / 200;
    const gain = Math.min(1, 3 * Math.abs(this.scrubSpeed));
    const at = Math.max(0, Math.min(this.frames - 1, this.position));
    left[i] = this.pieces.between(at, 0) * gain;
    right[i] = this.pieces.between(at, 1) * gain;
    this.position = Math.max(0, Math.min(this.frames, this.position + this.scrubSpeed));
  }

  /** `ahead` frames of the block that is being rendered are already counted in the position. */
  private report(ahead = 0): void {
    const frame = this.pendingSeek ?? this.position + this.pendingJump;
    const moving = this.playing && this.scrub === null && (this.moving || ahead === 0);
    const { track, playing, loop } = this;
    this.post({
      type: "position",
      track,
      frame,
      at: currentTime + ahead / RATE,
      speed: this.speed(),
      playing,
      moving,
      loop,
      jumpsLeft: this.way.length,
    });
  }

  private post(message: FromPlayer): void {
    this.port.postMessage(message);
  }
}

registerProcessor("vinyl-player", Player);
