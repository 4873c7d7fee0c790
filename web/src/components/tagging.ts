/** Whether the tag card takes letters now, and whether it was asked for a name: kept from track to track, until it is ended or the page is left. */
import { useSyncExternalStore } from "react";

let listens = false;
const listeners = new Set<() => void>();

export function setTagging(on: boolean): void {
  listens = on;
  listeners.forEach((listener) => listener());
}

/** Whether it does now, whatever was drawn last. */
export function isTagging(): boolean {
  return listens;
}

export function useTagging(): boolean {
  return useSyncExternalStore(subscribe, () => listens);
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

let asked = false;

/** Ask the tag card for the name of a tag, or say that its field was gone to. */
export function askName(ask = true): void {
  asked = ask;
  listeners.forEach((listener) => listener());
}

/** Whether a name is asked for. */
export function useNaming(): boolean {
  return useSyncExternalStore(subscribe, () => asked);
}
