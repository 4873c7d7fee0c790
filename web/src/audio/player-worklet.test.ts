import { beforeEach, describe, expect, it, vi } from "vitest";
import { CHUNK_FRAMES, Pcm, RATE } from "./pcm";
import type { FromPlayer, ToPlayer } from "./protocol";

const BLOCK = 128;

interface Processor {
  port: { onmessage: (event: { data: ToPlayer }) => void; postMessage: (message: FromPlayer) => void };
  process: (inputs: Float32Array[][], outputs: Float32Array[][]) => boolean;
}

/** The audio thread's surroundings, and a player in them that is fed a ramp: each sample tells its own frame. */
class Thread {
  readonly reports: FromPlayer[] = [];
  private readonly player: Processor;

  constructor(make: new () => Processor) {
    this.player = new make();
    this.player.port.postMessage = (message) => void this.reports.push(message);
  }

  tell(message: ToPlayer): void {
    this.player.port.onmessage({ data: message });
  }

  load(frames: number): void {
    this.tell({ type: "load", frames, track: 1 });
    for (let index = 0; index * CHUNK_FRAMES < frames; index++) this.tell({ type: "chunk", track: 1, index, samples: ramp(index, frames) });
  }

  /** Renders whole blocks and returns the left channel. */
  render(frames: number): Float32Array {
    const out = new Float32Array(Math.ceil(frames / BLOCK) * BLOCK);
    for (let at = 0; at < out.length; at += BLOCK) {
      const left = out.subarray(at, at + BLOCK);
      this.player.process([], [[left, new Float32Array(BLOCK)]]);
      vi.stubGlobal("currentTime", (globalThis as unknown as { currentTime: number }).currentTime + BLOCK / RATE);
    }
    return out;
  }

  last(): FromPlayer {
    this.tell({ type: "loops", loops: [] });
    const report = this.reports.at(-1);
    if (!report) throw new Error("nothing was reported");
    return report;
  }
}

const STEP = 16384;
const valueOf = (frame: number) => ((frame % STEP) + 1) / 32768;
const ramp = (index: number, frames: number) => {
  const count = Math.min(CHUNK_FRAMES, frames - index * CHUNK_FRAMES);
  return Int16Array.from({ length: 2 * count }, (_, i) => ((index * CHUNK_FRAMES + (i >> 1)) % STEP) + 1);
};

let make: new () => Processor;

beforeEach(async () => {
  vi.resetModules();
  vi.stubGlobal("currentTime", 0);
  vi.stubGlobal("sampleRate", RATE);
  vi.stubGlobal("AudioWorkletProcessor", class {
    port = {};
  });
  vi.stubGlobal("registerProcessor", (_name: string, processor: new () => Processor) => {
    make = processor;
  });
  await import("./player-worklet");
});

describe("the player on the audio thread", () => {
  it("plays every frame once and in order, across pieces, and stops at the end", () => {
    const thread = new Thread(make);
    const frames = CHUNK_FRAMES + 5000;
    thread.load(frames);
    thread.tell({ type: "play" });
    const out = thread.render(frames + 1000);
    for (let i = BLOCK; i < frames; i++) if (Math.abs((out[i] ?? 0) - valueOf(i)) > 1e-6) throw new Error(`frame ${i} is wrong`);
    expect(out.subarray(frames + 200).every((value) => value === 0)).toBe(true);
    expect(thread.last()).toMatchObject({ playing: false, frame: frames });
  });

  it("holds its place while a piece is missing, and goes on with it", () => {
    const thread = new Thread(make);
    thread.tell({ type: "load", frames: CHUNK_FRAMES * 2, track: 1 });
    thread.tell({ type: "play" });
    thread.render(4000);
    expect(thread.last().frame).toBe(0);
    thread.tell({ type: "chunk", track: 9, index: 0, samples: new Int16Array(CHUNK_FRAMES * 2) });
    thread.tell({ type: "chunk", track: 1, index: 0, samples: ramp(0, CHUNK_FRAMES * 2) });
    thread.render(1280);
    expect(thread.last().frame).toBe(1280);
  });

  it("loops without a gap: the frame after the last is the first", () => {
    const thread = new Thread(make);
    thread.load(60000);
    thread.tell({ type: "seek", frame: 9000 });
    thread.tell({ type: "loop", loop: { start: 9000, end: 11000 } });
    thread.tell({ type: "play" });
    const out = thread.render(8192);
    for (let i = BLOCK; i < 8000; i++) expect(out[i]).toBeCloseTo(valueOf(9000 + (i % 2000)), 6);
  });

  it("engages a loop when it is reached, and leaves it when told", () => {
    const thread = new Thread(make);
    thread.load(60000);
    thread.tell({ type: "loops", loops: [{ start: 3000, end: 4000 }] });
    thread.tell({ type: "play" });
    const out = thread.render(6400);
    expect(out[2999]).toBeCloseTo(valueOf(2999), 6);
    expect(out[5500]).toBeCloseTo(valueOf(3500), 6);
    thread.tell({ type: "loop", loop: null });
    thread.tell({ type: "loops", loops: [] });
    thread.render(2048);
    expect(thread.last().frame).toBeGreaterThan(4000);
  });

  it("jumps from where it is by exactly so many frames, and seeks to exactly there", () => {
    const thread = new Thread(make);
    thread.load(60000);
    thread.tell({ type: "play" });
    thread.render(1024);
    thread.tell({ type: "jump", by: 20000 });
    thread.render(1024);
    expect(thread.last().frame).toBe(2048 + 20000);
    thread.tell({ type: "seek", frame: 500 });
    thread.render(1280);
    expect(thread.last().frame).toBe(500 + 1280 - BLOCK);
    thread.tell({ type: "pause" });
    thread.render(512);
    thread.tell({ type: "jump", by: -300 });
    const { frame } = thread.last();
    thread.render(512);
    expect(thread.last().frame).toBe(frame);
  });

  it("clicks on the very frame of each beat, the bar start higher, and only when asked", () => {
    const thread = new Thread(make);
    thread.tell({ type: "load", frames: 60000, track: 1 });
    thread.tell({ type: "chunk", track: 1, index: 0, samples: new Int16Array(CHUNK_FRAMES * 2) });
    thread.tell({ type: "clicks", frames: Float64Array.of(1000, 9000.4, 17000), accents: Uint8Array.of(1, 0, 0) });
    thread.tell({ type: "play" });
    expect(thread.render(5000).every((value) => value === 0)).toBe(true);
    thread.tell({ type: "click", on: true, gain: 0.5 });
    thread.tell({ type: "seek", frame: 900 });
    thread.render(BLOCK);
    const out = thread.render(18000);
    const starts = [...out.keys()].filter((i) => out[i] !== 0 && (i < 1500 || out.subarray(i - 1400, i).every((value) => value === 0)) && (out[i - 1] ?? 0) === 0);
    expect(starts.slice(0, 3).map((i) => i + 900)).toEqual([1000, 9000, 17000]);
    expect(out[100]).toBeCloseTo(0.5, 5);
    expect(out[116] ?? 0).not.toBeCloseTo(out[8116] ?? 0, 2);
  });
});

describe("the peaks of the loaded sound", () => {
  it("shows an attack where it is, and nothing of what is not loaded", () => {
    const pcm = new Pcm();
    const samples = new Int16Array(CHUNK_FRAMES * 2);
    samples[2 * 44100] = -32768;
    pcm.add(0, samples);
    expect(pcm.peak(0.9995, 1.0015)).toBe(1);
    expect(pcm.peak(0.99, 0.9985)).toBe(0);
    expect(pcm.peak(5, 5.001)).toBeNull();
    expect(pcm.peak(0, 2.9)).toBeNull();
  });
});
