/** Where each of two tracks is at a time of their mix, and how loud: reckoning, apart from the sound itself. */
import type { Schema } from "../api/client";
import type { StretchStep } from "./stretch";

/** A time of the mix with what is so then, in rows. */
type Rows = readonly (readonly number[])[];

export type Mix = Omit<Schema["MixOut"], "knots" | "fades"> & { knots: Rows; fades: Rows };
/** The outgoing track or the incoming one. */
export type Deck = "out" | "into";

const COLUMN: Record<Deck, 1 | 2> = { out: 1, into: 2 };
const SEMITONES = 12;

/** The value of a column of knots between two times. */
function between(rows: Rows, column: number, at: number): number {
  const next = rows.findIndex(([time]) => (time ?? 0) > at);
  if (next === 0) return rows[0]?.[column] ?? 0;
  const [one, other] = [rows[next < 0 ? rows.length - 2 : next - 1], rows[next < 0 ? rows.length - 1 : next]];
  if (!one || !other) return rows.at(-1)?.[column] ?? 0;
  const [t0, t1] = [one[0] ?? 0, other[0] ?? 0];
  const [v0, v1] = [one[column] ?? 0, other[column] ?? 0];
  return v0 + ((at - t0) / (t1 - t0)) * (v1 - v0);
}

/** The time of a track that is heard at a time of the mix. */
export const trackTime = ({ knots }: Pick<Mix, "knots">, deck: Deck, at: number): number =>
  between(knots, COLUMN[deck], at);

/** How much of a track is heard at a time of the mix: 0 to 1. */
export function gainAt({ fades }: Pick<Mix, "fades">, deck: Deck, at: number): number {
  const first = fades[0]?.[0] ?? 0;
  const last = fades.at(-1)?.[0] ?? 0;
  return between(fades, COLUMN[deck], Math.max(first, Math.min(last, at)));
}

/** When the outgoing is no longer heard, and when the incoming begins to be. */
export const endOfOut = ({ fades }: Pick<Mix, "fades">): number => fades.at(-1)?.[0] ?? 0;
export const startOfInto = ({ fades }: Pick<Mix, "fades">): number => fades[0]?.[0] ?? 0;

export interface Start {
  /** The time of the mix that is heard first, and the audio clock's time then. */
  from: number;
  begun: number;
  /** The track's time at which the samples begin that the node has. */
  samplesFrom: number;
  /** Whether the pitch stays when the tempo changes. */
  keyHeld: boolean;
}

/** The way of one track: a step a beat, from a time of the mix on. */
export function wayOf(mix: Mix, deck: Deck, start: Start): StretchStep[] {
  const column = COLUMN[deck];
  const silent = { active: false, output: 0, input: 0, rate: 1, semitones: 0 };
  const steps = mix.knots.slice(0, -1).map((knot, place): StretchStep => {
    const [at = 0, input = 0] = [knot[0], knot[column]];
    const next = mix.knots[place + 1];
    const rate = ((next?.[column] ?? 0) - input) / ((next?.[0] ?? 0) - at);
    return {
      active: true,
      output: start.begun + at - start.from,
      input: input - start.samplesFrom,
      rate,
      semitones: start.keyHeld ? 0 : SEMITONES * Math.log2(rate),
    };
  });
  const ends = deck === "out" ? endOfOut(mix) : (mix.knots.at(-1)?.[0] ?? 0);
  const end = { ...silent, output: start.begun + ends - start.from };
  return [silent, ...steps.filter(({ output }) => output < end.output), end];
}
