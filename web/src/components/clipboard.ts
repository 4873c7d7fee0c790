/** Tracks that were copied or cut, to be pasted into a crate, in any window. */
import type { Schema } from "../api/client";

interface Cut {
  chosen: Schema["Chosen"];
  /** The crate they leave when they are pasted. */
  out_of: number | null;
}

const KEY = "vinyl.cut";

export function keepCut(chosen: Schema["Chosen"], out_of: number | null = null): void {
  localStorage.setItem(KEY, JSON.stringify({ chosen, out_of }));
}

export function keptCut(): Cut | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as Cut | null;
  } catch {
    return null;
  }
}
