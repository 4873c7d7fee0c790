/** Plays one track going over into another, both stretched to lie beat on beat. */
import { fetchPiece } from "./ahead";
import { endOfOut, gainAt, startOfInto, trackTime, wayOf, type Deck, type Mix } from "./mix-way";
import { CHUNK_FRAMES, RATE } from "./pcm";
import { makeStretch, tell, type StretchNode } from "./stretch";

export interface MixState {
  playing: boolean;
  /** The sound is on its way. */
  waiting: boolean;
  problem: string | null;
}

/** What is played: two tracks, and how they lie on each other. */
export interface Loaded {
  tracks: Record<Deck, number>;
  mix: Mix;
  keyHeld: boolean;
}

const DECKS = ["out", "into"] as const;
const PIECE_S = CHUNK_FRAMES / RATE;
/** What is heard before the overlap, and after it. */
export const BEFORE_S = 8;
export const AFTER_S = 8;
/** So far ahead the first sound is set, and so much of it must be there. */
const LEAD_S = 0.3;
const FIRST_PIECES = 4;
const MOST_PIECES = 120;
const LOW_HZ = 200;
const LOW_OFF_DB = -32;
const HANDOVER_S = 0.12;
/** Two full signals on top of each other stay below full scale. */
const HEADROOM = 0.7;
const LOOK_MS = 100;

interface Channel {
  node: StretchNode;
  low: BiquadFilterNode;
  gain: GainNode;
}

export class MixPlayer {
  private state: MixState = { playing: false, waiting: false, problem: null };
  private loaded: Loaded | null = null;
  private context: AudioContext | null = null;
  private channels: Promise<Record<Deck, Channel>> | null = null;
  private pieces = new Map<string, Promise<Int16Array>>();
  private run = 0;
  private timer = 0;
  private from = -BEFORE_S;
  private begun = 0;
  private readonly listeners = new Set<() => void>();
  private readonly endListeners = new Set<() => void>();

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): MixState => this.state;

  /** Calls when a mix was heard to its end; returns how to stop that. */
  onEnd(listener: () => void): () => void {
    this.endListeners.add(listener);
    return () => this.endListeners.delete(listener);
  }

  /** Make this the mix to play; what is heard of one goes on in it. */
  load(loaded: Loaded): void {
    const same = DECKS.every((deck) => this.loaded?.tracks[deck] === loaded.tracks[deck]);
    const at = this.position();
    const goesOn = same && (this.state.playing || this.state.waiting);
    this.halt();
    this.loaded = loaded;
    if (!same) this.pieces.clear();
    this.from = same ? at : -BEFORE_S;
    this.change({ playing: false, waiting: false, problem: null });
    if (goesOn) void this.play(at);
  }

  toggle(): void {
    if (this.state.playing || this.state.waiting) this.pause();
    else void this.play(this.from >= this.end() ? -BEFORE_S : this.from);
  }

  async play(from: number): Promise<void> {
    const { loaded } = this;
    if (!loaded) return;
    this.halt();
    const run = this.run;
    this.from = from;
    this.change({ playing: false, waiting: true, problem: null });
    try {
      this.context ??= new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
      const { context } = this;
      // First: nodes that were being made when the clock was stopped become ready only where it runs again.
      await context.resume();
      if (run !== this.run) return;
      this.channels ??= makeChannels(context);
      const channels = await this.channels;
      const spans = { out: this.spanOf(loaded, "out"), into: this.spanOf(loaded, "into") };
      for (const deck of DECKS) await this.feed(channels[deck], loaded.tracks[deck], spans[deck], run, true);
      if (run !== this.run) return;
      this.begun = context.currentTime + LEAD_S;
      for (const deck of DECKS) this.schedule(channels[deck], loaded, deck, spans[deck][0] * PIECE_S);
      this.change({ playing: true, waiting: false, problem: null });
      this.timer = window.setInterval(() => this.look(), LOOK_MS);
      for (const deck of DECKS) await this.feed(channels[deck], loaded.tracks[deck], spans[deck], run, false);
    } catch (error) {
      if (run !== this.run) return;
      this.halt();
      const problem = error instanceof Error ? error.message : String(error);
      this.change({ playing: false, waiting: false, problem });
    }
  }

  pause(): void {
    this.from = this.position();
    this.halt();
    this.change({ ...this.state, playing: false, waiting: false });
  }

  /** What is heard now, in seconds from the start of the overlap on. */
  position(): number {
    if (!this.state.playing || !this.context) return this.from;
    const since = this.context.currentTime - (this.context.outputLatency || 0) - this.begun;
    return Math.min(this.end(), this.from + Math.max(0, since));
  }

  end(): number {
    return this.loaded ? this.loaded.mix.over_s + AFTER_S : 0;
  }

  /** Lets go of the audio thread. */
  close(): void {
    this.halt();
    void this.context?.close();
    this.context = this.channels = null;
  }

  private look(): void {
    if (this.position() < this.end()) return;
    this.from = -BEFORE_S;
    this.halt();
    this.change({ playing: false, waiting: false, problem: null });
    this.endListeners.forEach((listener) => listener());
  }

  /** The first and the last piece of a track that is needed from `from` on. */
  private spanOf({ mix }: Loaded, deck: Deck): [number, number] {
    const starts = deck === "out" ? this.from - 1 : Math.max(this.from, startOfInto(mix)) - 1;
    const ends = deck === "out" ? endOfOut(mix) + 1 : this.end() + 1;
    const last = Math.floor((mix[deck].duration_s * RATE - 1) / CHUNK_FRAMES);
    const piece = (at: number) => Math.max(0, Math.min(last, Math.floor(trackTime(mix, deck, at) / PIECE_S)));
    const first = piece(starts);
    return [first, Math.min(Math.max(first, piece(ends)), first + MOST_PIECES)];
  }

  /** Put pieces into a node, the first of them or the others. */
  private async feed(
    { node }: Channel,
    track: number,
    [first, last]: [number, number],
    run: number,
    begins: boolean,
  ): Promise<void> {
    if (run !== this.run) return;
    const middle = Math.min(last, first + FIRST_PIECES - 1);
    if (begins) tell(node, { frames: (last - first + 1) * CHUNK_FRAMES });
    for (let index = begins ? first : middle + 1; index <= (begins ? middle : last); index++) {
      const samples = await this.piece(track, index);
      if (run !== this.run) return;
      tell(node, { at: (index - first) * CHUNK_FRAMES, channels: channelsOf(samples) });
    }
  }

  private piece(track: number, index: number): Promise<Int16Array> {
    const name = `${track} ${index}`;
    const found = this.pieces.get(name) ?? fetchPiece(track, index);
    this.pieces.set(name, found);
    found.catch(() => this.pieces.delete(name));
    return found;
  }

  private schedule({ node, low, gain }: Channel, loaded: Loaded, deck: Deck, samplesFrom: number): void {
    const { mix, keyHeld } = loaded;
    const { from, begun } = this;
    const clock = (at: number) => begun + at - from;
    tell(node, { steps: wayOf(mix, deck, { from, begun, samplesFrom, keyHeld }) });
    const loud = deck === "into" ? 10 ** (mix.gain_db / 20) : 1;
    gain.gain.cancelScheduledValues(0);
    gain.gain.setValueAtTime(loud * gainAt(mix, deck, from), begun);
    for (const [at = 0, out = 0, into = 0] of mix.fades)
      if (at > from) gain.gain.linearRampToValueAtTime(loud * (deck === "out" ? out : into), clock(at));
    this.scheduleLow(low, mix, deck);
  }

  /** The incoming has no low end until it changes hands, the outgoing none from then on. */
  private scheduleLow({ gain }: BiquadFilterNode, { low_s }: Mix, deck: Deck): void {
    gain.cancelScheduledValues(0);
    const [before, after] = deck === "out" ? [0, LOW_OFF_DB] : [LOW_OFF_DB, 0];
    if (low_s === null) {
      gain.setValueAtTime(0, 0);
    } else if (this.from >= low_s) {
      gain.setValueAtTime(after, 0);
    } else {
      const at = this.begun + low_s - this.from;
      gain.setValueAtTime(before, 0);
      gain.setValueAtTime(before, at);
      gain.linearRampToValueAtTime(after, at + HANDOVER_S);
    }
  }

  private halt(): void {
    this.run += 1;
    window.clearInterval(this.timer);
    void this.context?.suspend();
  }

  private change(state: MixState): void {
    this.state = state;
    this.listeners.forEach((listener) => listener());
  }
}

async function makeChannels(context: AudioContext): Promise<Record<Deck, Channel>> {
  const master = new GainNode(context, { gain: HEADROOM });
  master.connect(context.destination);
  const make = async (): Promise<Channel> => {
    const node = await makeStretch(context);
    const low = new BiquadFilterNode(context, { type: "lowshelf", frequency: LOW_HZ, gain: 0 });
    const gain = new GainNode(context, { gain: 0 });
    node.connect(low).connect(gain).connect(master);
    return { node, low, gain };
  };
  return { out: await make(), into: await make() };
}

function channelsOf(samples: Int16Array): Float32Array<ArrayBuffer>[] {
  const frames = samples.length / 2;
  return [0, 1].map((side) =>
    Float32Array.from({ length: frames }, (_, frame) => (samples[2 * frame + side] ?? 0) / 32768),
  );
}
