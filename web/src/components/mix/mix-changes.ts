/** How the settings of a mix are changed by steps: what comes next of each. */
import { trackTime } from "../../audio/mix-way";
import type { Mix, MixSettings, Move } from "./use-mix";

export const STEPS = ["beat", "bar", "phrase"] as const;
export type Step = (typeof STEPS)[number];

const BARS = [0, 1, 2, 4, 8, 16, 32, 64, 128, 256];
const MEETS = ["first", "second", "between", "gliding"] as const;

/** What follows a value in a list, from its end its start. */
export function following<T>(list: readonly T[], value: T): T {
  return list[(list.indexOf(value) + 1) % list.length] as T;
}

/** The number of bars next to a number of bars. */
export function barsNext(bars: number, direction: 1 | -1): number {
  const found = direction > 0 ? BARS.find((each) => each > bars) : BARS.findLast((each) => each < bars);
  return found ?? bars;
}

/** Both points by a step. */
export function stepOf(mix: Mix, deck: "out" | "into", step: Step, direction: 1 | -1): Move {
  const { beats_per_bar, phrase_beats } = mix[deck];
  const beats = direction * { beat: 1, bar: beats_per_bar, phrase: phrase_beats }[step];
  return { out_beats: deck === "out" ? beats : 0, in_beats: deck === "into" ? beats : 0, drops_meet: false };
}

const NEAR_S = 0.3;

/** The next point that is known of a track; from the last the first. */
export function nextPoint(mix: Mix, deck: "out" | "into", at_s?: number | null): Partial<MixSettings> {
  const name = deck === "out" ? "out_s" : "in_s";
  const now = at_s ?? mix.settings[name] ?? 0;
  const { points_s } = mix[deck];
  const next = points_s.find((each) => each > now + NEAR_S) ?? points_s[0];
  return next === undefined ? {} : { [name]: next };
}

export const nextMeet = ({ meet }: MixSettings): Partial<MixSettings> => ({
  meet: following(MEETS, meet ?? "first"),
});

/** All bars, half of them, a quarter. */
export function nextFade({ over_bars = 0, fade_bars }: MixSettings): Partial<MixSettings> {
  const choices = [null, over_bars / 2, over_bars / 4].filter((each) => each === null || each >= 1);
  return { fade_bars: following(choices, fade_bars ?? null) };
}

/** Not at all, in the middle, after three quarters, after a quarter. */
export function nextLow({ over_bars = 0, low_bar }: MixSettings): Partial<MixSettings> {
  const bars = [1 / 2, 3 / 4, 1 / 4].map((share) => Math.floor(share * over_bars) + 1);
  const choices: (number | null)[] = over_bars > 1 ? [null, ...new Set(bars)] : [null];
  return { low_bar: following(choices, low_bar ?? null) };
}

const AT: Record<(typeof MEETS)[number], string> = {
  first: "at the first’s tempo",
  second: "at the second’s tempo",
  between: "between both tempos",
  gliding: "gliding from one tempo to the other",
};

/** A mix in words. */
export function wordsOf(mix: Mix, keyHeld: boolean): string[] {
  const { settings, over_s, gain_db, low_s } = mix;
  const left = mix.out.duration_s - trackTime(mix, "out", over_s);
  const bars = settings.over_bars ?? 0;
  const louder =
    Math.abs(gain_db) < 0.5
      ? []
      : [`the second ${gain_db > 0 ? "+" : "−"}${Math.abs(gain_db).toFixed(1)} dB`];
  return [
    bars ? `${bars} bars, ${over_s.toFixed(1)} s` : "a cut",
    AT[settings.meet ?? "first"],
    keyHeld ? "key held" : "key not held",
    ...(bars && settings.fade_bars != null ? [`fades over ${settings.fade_bars} bars`] : []),
    ...(low_s !== null ? [`low end changes hands at bar ${settings.low_bar}`] : []),
    ...louder,
    ...(left < -1 ? [`the first ends ${Math.round(-left)} s before`] : []),
  ];
}
