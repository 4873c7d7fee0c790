/** The player, sample by sample. */
import { beforeEach, describe, expect, it, vi } from "vitest";
import { CHUNK_FRAMES, Pcm, RATE } from "./pcm";
import { FADE_FRAMES } from "./pieces";
import type { FromPlayer, Position, ToPlayer } from "./protocol";

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
    for (let index = 0; index * CHUNK_FRAMES < frames; index++)
      this.tell({ type: "chunk", track: 1, index, samples: ramp(index, frames) });
  }

  /** Renders whole blocks and returns the left channel. */
  render(frames: number): Float32Array {
    const out = new Float32Array(Math.ceil(frames / BLOCK) * BLOCK);
    for (let at = 0; at < out.length; at += BLOCK) {
      const left = out.subarray(at, at + BLOCK);
      this.player.process([], [[left, new Float32Array(BLOCK)]]);
      vi.stubGlobal(
        "currentTime",
        (globalThis as unknown as { currentTime: number }).currentTime + BLOCK / RATE,
      );
    }
    return out;
  }

  last(): Position {
    this.tell({ type: "drop", index: 999 });
    const report = this.reports.findLast((message) => message.type === "position");
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
  vi.stubGlobal(
    "AudioWorkletProcessor",
    class {
      port = {};
    },
  );
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
    thread.tell({ type: "play", countIn: null });
    const out = thread.render(frames + 1000);
    for (let i = BLOCK; i < frames; i++)
      if (Math.abs((out[i] ?? 0) - valueOf(i)) > 1e-6) throw new Error(`frame ${i} is wrong`);
    expect(out.subarray(frames + 200).every((value) => value === 0)).toBe(true);
    expect(thread.last()).toMatchObject({ playing: false, frame: frames });
  });

  it("holds its place while a piece is missing, and goes on with it", () => {
    const thread = new Thread(make);
    thread.tell({ type: "load", frames: CHUNK_FRAMES * 2, track: 1 });
    thread.tell({ type: "play", countIn: null });
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
    thread.tell({ type: "play", countIn: null });
    const out = thread.render(8192);
    for (let i = BLOCK; i < 8000; i++)
      if (i % 2000 < 2000 - FADE_FRAMES) expect(out[i]).toBeCloseTo(valueOf(9000 + (i % 2000)), 6);
  });

  it("fades in what leads up to the loop's start, so that its joint is no louder than the sound's own steps", () => {
    const thread = new Thread(make);
    const samples = new Int16Array(CHUNK_FRAMES * 2);
    for (let i = 0; i < CHUNK_FRAMES; i++)
      samples[2 * i] = samples[2 * i + 1] = Math.round(20000 * Math.sin(i / 37));
    thread.tell({ type: "load", frames: CHUNK_FRAMES, track: 1 });
    thread.tell({ type: "chunk", track: 1, index: 0, samples });
    thread.tell({ type: "seek", frame: 9000 });
    thread.tell({ type: "loop", loop: { start: 9000, end: 11123 } });
    thread.tell({ type: "play", countIn: null });
    const out = thread.render(12000).subarray(BLOCK * 2);
    const steps = out.map((value, i) => Math.abs(value - (out[i - 1] ?? value)));
    const own = 20000 / 32768 / 37;
    expect(Math.max(...steps)).toBeLessThan(1.3 * own);
  });

  it("follows a way of jumps to the frame, and tells how many are left", () => {
    const thread = new Thread(make);
    thread.load(90000);
    thread.tell({
      type: "way",
      jumps: [
        { from: 2000, to: 40000 },
        { from: 41000, to: 10000 },
      ],
    });
    thread.tell({ type: "play", countIn: null });
    const out = thread.render(6400);
    expect(out[1000]).toBeCloseTo(valueOf(1000), 6);
    expect(out[2000]).toBeCloseTo(valueOf(40000), 6);
    expect(out[3000]).toBeCloseTo(valueOf(10000), 6);
    expect(thread.last()).toMatchObject({ jumpsLeft: 0, frame: 10000 + 6400 - 3000 });
  });

  it("tells of a jump by hand from where to where it went", () => {
    const thread = new Thread(make);
    thread.load(90000);
    thread.tell({ type: "play", countIn: null });
    thread.render(1280);
    thread.tell({ type: "jump", by: 30000 });
    thread.render(1280);
    const jumped = thread.reports.find((message) => message.type === "jumped");
    expect(jumped && jumped.to - jumped.from).toBe(30001);
  });

  it("plays at half speed an octave down, or at the same pitch, and keeps its place", () => {
    for (const [pace, hz] of [
      ["half, lower", 220],
      ["half", 440],
    ] as const) {
      const thread = new Thread(make);
      const samples = new Int16Array(CHUNK_FRAMES * 2);
      for (let i = 0; i < CHUNK_FRAMES; i++)
        samples[2 * i] = samples[2 * i + 1] = Math.round(20000 * Math.sin((2 * Math.PI * 440 * i) / RATE));
      thread.tell({ type: "load", frames: CHUNK_FRAMES, track: 1 });
      thread.tell({ type: "chunk", track: 1, index: 0, samples });
      thread.tell({ type: "pace", pace });
      thread.tell({ type: "play", countIn: null });
      const out = thread.render(RATE).subarray(4000);
      let crossings = 0;
      for (let i = 1; i < out.length; i++) if ((out[i - 1] ?? 0) < 0 && (out[i] ?? 0) >= 0) crossings++;
      expect(Math.abs((crossings * RATE) / out.length - hz)).toBeLessThan(5);
      expect(Math.abs(thread.last().frame - RATE / 2)).toBeLessThan(2 * BLOCK);
    }
  });

  it("counts in before the sound, on the beat", () => {
    const thread = new Thread(make);
    thread.load(60000);
    thread.tell({ type: "click", on: false, gain: 0.5 });
    thread.tell({ type: "play", countIn: { clicks: 4, every: 3000, bar: 4 } });
    const out = thread.render(14000);
    for (const at of [0, 3000, 6000, 9000]) expect(out[at]).toBeCloseTo(0.5, 5);
    expect(out[2990]).toBe(0);
    expect(out[12000 + 1400]).toBeCloseTo(valueOf(1400), 5);
  });

  it("sounds under the hand while it moves, falls silent when it rests, and stays where it is let go", () => {
    const thread = new Thread(make);
    thread.load(90000);
    thread.tell({ type: "seek", frame: 20000 });
    thread.tell({ type: "scrub", frame: 24000 });
    const moving = thread.render(2048);
    expect(moving.some((value) => value > 0.1)).toBe(true);
    const resting = thread.render(40000).subarray(-256);
    expect(resting.every((value) => Math.abs(value) < 0.02)).toBe(true);
    thread.tell({ type: "scrub", frame: null });
    expect(thread.last()).toMatchObject({ frame: 24000, playing: false });
  });

  it("engages a loop when it is reached, and leaves it when told", () => {
    const thread = new Thread(make);
    thread.load(60000);
    thread.tell({ type: "loops", loops: [{ start: 3000, end: 4000 }] });
    thread.tell({ type: "play", countIn: null });
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
    thread.tell({ type: "play", countIn: null });
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
    thread.tell({
      type: "clicks",
      frames: Float64Array.of(1000, 9000.4, 17000),
      accents: Uint8Array.of(1, 0, 0),
    });
    thread.tell({ type: "play", countIn: null });
    expect(thread.render(5000).every((value) => value === 0)).toBe(true);
    thread.tell({ type: "click", on: true, gain: 0.5 });
    thread.tell({ type: "seek", frame: 900 });
    thread.render(BLOCK);
    const out = thread.render(18000);
    const starts = [...out.keys()].filter(
      (i) =>
        out[i] !== 0 &&
        (i < 1500 || out.subarray(i - 1400, i).every((value) => value === 0)) &&
        (out[i - 1] ?? 0) === 0,
    );
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
