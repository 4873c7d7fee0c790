/** The user's own keys, and how keys are written. */
import { useSyncExternalStore } from "react";
import { KEYS, TOGETHER, type KeyEntry, type RoomName } from "./keys";

const STORED = "vinyl.keys";

type Changes = Readonly<Record<string, string>>;

let changes: Changes = read();
const listeners = new Set<() => void>();

/** The key of an action, the user's own if there is one. */
export function keyOf(entry: KeyEntry): string {
  return changes[entry.id] ?? entry.key;
}

/** How a key is written on its button. */
export function shown(entry: KeyEntry): string {
  const own = changes[entry.id];
  return own === undefined ? (entry.shown ?? entry.key) : written(own);
}

/** Draws a component anew when keys have changed. */
export function useKeyMap(): Changes {
  return useSyncExternalStore(subscribe, () => changes);
}

/** The action that already has a key, where it would clash. */
export function clashOf(entry: KeyEntry, key: string): KeyEntry | null {
  const [room] = entry.id.split(".") as [RoomName];
  const rooms = new Set(TOGETHER.filter((group) => group.includes(room)).flat());
  for (const name of rooms) {
    for (const other of Object.values<KeyEntry>(KEYS[name])) {
      if (other.id !== entry.id && keyOf(other).split(", ").includes(key)) return other;
    }
  }
  return null;
}

/** Give an action another key, or its own again. The caller has looked for a clash. */
export function changeKey(entry: KeyEntry, key: string | null): void {
  const others = Object.fromEntries(Object.entries(changes).filter(([id]) => id !== entry.id));
  changes = key === null || key === entry.key ? others : { ...others, [entry.id]: key };
  keep();
}

export function resetKeys(): void {
  changes = {};
  keep();
}

/** The key that was pressed, in the words of the list, or null for a modifier alone. */
export function pressed(
  event: Pick<KeyboardEvent, "key" | "code" | "ctrlKey" | "altKey" | "shiftKey" | "metaKey">,
): string | null {
  const name = nameOf(event.code);
  if (name === null) return null;
  const modifiers = [
    event.ctrlKey && "ctrl",
    event.metaKey && "meta",
    event.altKey && "alt",
    event.shiftKey && "shift",
  ].filter(Boolean);
  return [...modifiers, name].join("+");
}

const SIGNS: Record<string, string> = {
  left: "←",
  right: "→",
  up: "↑",
  down: "↓",
  space: "Space",
  enter: "↵",
  delete: "Del",
  backspace: "⌫",
  comma: ",",
  period: ".",
  slash: "/",
  semicolon: ";",
  quote: "’",
  bracketleft: "[",
  bracketright: "]",
  equal: "=",
  minus: "−",
  shift: "⇧",
  ctrl: "Ctrl",
  alt: "Alt",
  meta: "⌘",
  escape: "Esc",
  backslash: "\\",
  backquote: "`",
};

function written(key: string): string {
  return key
    .split("+")
    .map((part) => SIGNS[part] ?? part.toUpperCase())
    .join(" ");
}

function nameOf(code: string): string | null {
  if (/^(Shift|Control|Alt|Meta)/.test(code)) return null;
  return code.replace(/^(Key|Digit|Arrow)/, "").toLowerCase();
}

function read(): Changes {
  try {
    return JSON.parse(localStorage.getItem(STORED) ?? "{}") as Changes;
  } catch {
    return {};
  }
}

function keep(): void {
  localStorage.setItem(STORED, JSON.stringify(changes));
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
