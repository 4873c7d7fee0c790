/** Tracks that were copied or cut, to be pasted into a crate, in any window. */
import type { Schema } from "../api/client";

export interface Cut {
  chosen: Schema["Chosen"];
  /** The crate they leave when they are pasted, and from which places of it. */
  out_of: number | null;
  places: number[] | null;
}

const KEY = "vinyl.cut";

export function keepCut(cut: Cut): void {
  localStorage.setItem(KEY, JSON.stringify(cut));
}

export function keepCopy(chosen: Schema["Chosen"]): void {
  keepCut({ chosen, out_of: null, places: null });
}

export function keptCut(): Cut | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as Cut | null;
  } catch {
    return null;
  }
}
