/** Whether the tag card takes letters now: kept from track to track, until it is ended or the page is left. */
import { useSyncExternalStore } from "react";

let listens = false;
const listeners = new Set<() => void>();

export function setTagging(on: boolean): void {
  listens = on;
  listeners.forEach((listener) => listener());
}

export function useTagging(): boolean {
  return useSyncExternalStore(subscribe, () => listens);
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
