/** Keys in the notation that the user has chosen. */
import { useSettings } from "../settings";
import { place } from "./key-ring";

export type Notation = "flats" | "short" | "sharps" | "wheel" | "wheel letters";

/** The notations with an example each. */
export const NOTATIONS: Record<Notation, string> = {
  flats: "A minor, Eb major",
  short: "Am, Eb",
  sharps: "Am, D#",
  wheel: "1m, 10d",
  "wheel letters": "8A, 5B",
};

const SHARP: Record<string, string> = { Db: "C#", Eb: "D#", Ab: "G#", Bb: "A#" };

/** A key, named as "A minor" by the server, in a notation (as vinyl.core.tonal.key writes it). */
export function keyName(name: string, notation: Notation): string {
  const { index, minor } = place(name);
  const [tonic = ""] = name.split(" ");
  if (index < 0 || notation === "flats") return name;
  if (notation === "wheel") return `${index + 1}${minor ? "m" : "d"}`;
  if (notation === "wheel letters") return `${((index + 7) % 12) + 1}${minor ? "A" : "B"}`;
  return (notation === "sharps" ? (SHARP[tonic] ?? tonic) : tonic) + (minor ? "m" : "");
}

/** Writes keys in the chosen notation. */
export function useKeyName(): (name: string) => string {
  const { notation } = useSettings();
  return (name) => keyName(name, notation);
}
