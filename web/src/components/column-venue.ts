/** The venue that the columns “Last there” and “Times there” tell of, remembered in this browser. */
import { useSyncExternalStore } from "react";

const KEY = "vinyl.column venue";
const listeners = new Set<() => void>();

export function columnVenue(): number | null {
  const kept = Number(localStorage.getItem(KEY));
  return kept > 0 ? kept : null;
}

export function setColumnVenue(id: number): void {
  localStorage.setItem(KEY, String(id));
  for (const listener of listeners) listener();
}

export function useColumnVenue(): number | null {
  return useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, columnVenue);
}
