/** Copies side by side: scheduled to the sample where their sound lies, and changed without a gap. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { CopyPlayer, spanOf, type Copy } from "./copies";
import { CHUNK_FRAMES, RATE } from "./pcm";

const asked: [number, number][] = [];
let failing: number | null = null;

vi.mock("./ahead", () => ({
  fetchPiece: (track: number, index: number) => {
    asked.push([track, index]);
    if (track === failing) return Promise.reject(new Error("This file cannot be read."));
    return Promise.resolve(new Int16Array(2 * CHUNK_FRAMES).fill(16384));
  },
}));

interface Started {
  gain: FakeGain;
  when: number;
  from: number;
  rate: number;
  stopped: boolean;
}

const started: Started[] = [];
let clock = 0;

class FakeParam {
  constructor(public value: number) {}
  setValueAtTime(value: number) {
    this.value = value;
  }
  linearRampToValueAtTime(value: number) {
    this.value = value;
  }
}

class FakeGain {
  gain: FakeParam;
  connected = false;
  constructor(_: unknown, { gain }: { gain: number }) {
    this.gain = new FakeParam(gain);
  }
  connect() {
    this.connected = true;
  }
  disconnect() {
    this.connected = false;
  }
}

class FakeSource {
  onended: (() => void) | null = null;
  private told: Started | null = null;
  private to: FakeGain | null = null;
  constructor(
    _: unknown,
    private readonly options: { playbackRate: number },
  ) {}
  connect(to: FakeGain) {
    this.to = to;
  }
  start(when: number, from: number) {
    if (!this.to) throw new Error("not connected");
    this.told = { gain: this.to, when, from, rate: this.options.playbackRate, stopped: false };
    started.push(this.told);
  }
  stop() {
    if (this.told) this.told.stopped = true;
  }
}

class FakeBuffer {
  private readonly sides: Float32Array[];
  constructor({ length }: { length: number }) {
    this.sides = [new Float32Array(length), new Float32Array(length)];
  }
  getChannelData(side: number) {
    return this.sides[side] ?? new Float32Array();
  }
}

class FakeContext {
  state = "running";
  sampleRate = RATE;
  outputLatency = 0;
  destination = {};
  get currentTime() {
    return clock;
  }
}

const copy = (track: number, offset: number, gain = 1, speed = 1): Copy => ({
  ...{ track, duration: 20, speed, offset, gain },
});
const settled = () => vi.advanceTimersByTimeAsync(1000);

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("window", globalThis);
  vi.stubGlobal("AudioContext", FakeContext);
  vi.stubGlobal("GainNode", FakeGain);
  vi.stubGlobal("AudioBufferSourceNode", FakeSource);
  vi.stubGlobal("AudioBuffer", FakeBuffer);
  [clock, failing] = [0, null];
  asked.length = started.length = 0;
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function playing(...copies: Copy[]): Promise<CopyPlayer> {
  const player = new CopyPlayer();
  player.load(copies);
  await player.play();
  await settled();
  return player;
}

test("each copy begins where its sound lies beside the first, at its speed", async () => {
  expect(spanOf(copy(2, 0.41))).toEqual([-0.41, 19.59]);
  await playing(copy(1, 0), copy(2, 0.41), copy(3, -0.5), copy(4, 0, 1, 0.5));
  const [first, later, earlier, slow] = ["1", "2", "3", "4"].map((_, place) => started[place]) as [
    Started,
    Started,
    Started,
    Started,
  ];
  expect(first).toMatchObject({ when: 0.08, from: 0 });
  // What lies before the first one's start is passed over.
  expect(later.when).toBe(0);
  expect(later.from).toBeCloseTo(0.33);
  expect(earlier.when).toBeCloseTo(0.58);
  expect(earlier.from).toBe(0);
  expect(slow.rate).toBe(0.5);
});

test("another copy is heard at once: only loudness changes, nothing is begun anew", async () => {
  const player = await playing(copy(1, 0, 0.5), copy(2, 0, 0.8));
  const before = started.length;
  const loudness = () => started.slice(0, 2).map(({ gain }) => gain.gain.value);
  expect(loudness()).toEqual([0.5, 0]);
  player.hear(1);
  expect(loudness()).toEqual([0, 0.8]);
  expect(player.snapshot()).toMatchObject({ heard: 1, playing: true });
  player.hear(7);
  expect(player.snapshot().heard).toBe(1);
  expect(started.length).toBe(before);
  expect(started.some(({ stopped }) => stopped)).toBe(false);
});

test("a few seconds are fetched ahead, and more as time goes on, up to the end", async () => {
  const player = await playing(copy(1, 0));
  const pieces = () => asked.map(([, index]) => index);
  expect(pieces()).toEqual([0, 1, 2]);
  clock = 5;
  await settled();
  expect(pieces()).toEqual([0, 1, 2, 3]);
  const [first, second] = started as [Started, Started];
  expect(second.when - first.when).toBeCloseTo(CHUNK_FRAMES / RATE);
  clock = 21;
  await settled();
  expect(player.snapshot().playing).toBe(false);
  expect(player.position()).toBe(0);
});

test("a pause keeps the place, going elsewhere begins there, also before the start of another copy", async () => {
  const player = await playing(copy(1, 0), copy(2, -3));
  clock = 4.08;
  expect(player.position()).toBeCloseTo(4);
  player.pause();
  clock = 60;
  expect(player.position()).toBeCloseTo(4);
  expect(started.every(({ stopped }) => stopped)).toBe(true);
  player.seek(-5);
  expect(player.position()).toBe(0);
  player.seek(10);
  started.length = asked.length = 0;
  await player.toggle();
  await settled();
  const track = (wanted: number) => asked.find(([each]) => each === wanted);
  expect(track(1)?.[1]).toBe(Math.floor(10 / (CHUNK_FRAMES / RATE)));
  expect(track(2)?.[1]).toBe(Math.floor(7 / (CHUNK_FRAMES / RATE)));
  await player.toggle();
  expect(player.snapshot().playing).toBe(false);
});

test("a copy whose sound cannot be had says so, and the others go on", async () => {
  failing = 2;
  const player = await playing(copy(1, 0), copy(2, 0));
  expect(player.snapshot()).toMatchObject({ playing: true, problem: "This file cannot be read." });
  expect(asked.filter(([track]) => track === 2)).toHaveLength(1);
  expect(asked.filter(([track]) => track === 1).length).toBeGreaterThan(1);
  player.load([]);
  expect(player.snapshot()).toEqual({ heard: 0, playing: false, problem: null });
});
