/** Steps with ↑ and ↓ through what was found, while the focus stays in the field that is typed into. */
import { useState } from "react";

export interface Steps {
  at: number;
  toFirst: () => void;
  onKeyDown: (event: React.KeyboardEvent) => void;
}

export function useSteps(count: number): Steps {
  const [at, setAt] = useState(0);
  const last = Math.max(count - 1, 0);
  const onKeyDown = (event: React.KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step || !count) return;
    event.preventDefault();
    setAt((Math.min(at, last) + step + count) % count);
  };
  return { at: Math.min(at, last), toFirst: () => setAt(0), onKeyDown };
}

/** Scrolls a list to what is chosen, as its ref. */
export function intoSight(row: HTMLElement | null): void {
  row?.scrollIntoView({ block: "nearest" });
}
