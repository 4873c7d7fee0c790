import { useState } from "react";

export interface Selection {
  ids: ReadonlySet<number>;
  /** Place of the row that keys act from; -1 for none. */
  focus: number;
  click: (place: number, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
  move: (to: number, extend: boolean) => void;
  all: () => void;
  clear: () => void;
}

/** Rows chosen in an ordered list, by click and by key, single, in a range, or one by one. */
export function useSelection(order: readonly number[]): Selection {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set());
  const [focusId, setFocusId] = useState<number | null>(null);
  const [anchorId, setAnchorId] = useState<number | null>(null);
  const focus = focusId === null ? -1 : order.indexOf(focusId);

  const range = (to: number) => {
    const from = anchorId === null ? to : Math.max(0, order.indexOf(anchorId));
    return new Set(order.slice(Math.min(from, to), Math.max(from, to) + 1));
  };
  const single = (place: number) => {
    const id = order[place];
    if (id === undefined) return;
    setIds(new Set([id]));
    setAnchorId(id);
    setFocusId(id);
  };
  const extendTo = (place: number) => {
    setIds(range(place));
    setFocusId(order[place] ?? null);
  };
  const toggle = (place: number) => {
    const id = order[place];
    if (id === undefined) return;
    const next = new Set(ids);
    if (!next.delete(id)) next.add(id);
    setIds(next);
    setAnchorId(id);
    setFocusId(id);
  };
  return {
    ids,
    focus,
    click: (place, event) => {
      if (event.shiftKey) extendTo(place);
      else if (event.ctrlKey || event.metaKey) toggle(place);
      else single(place);
    },
    move: (to, extend) => {
      const place = Math.max(0, Math.min(order.length - 1, to));
      if (extend) extendTo(place);
      else single(place);
    },
    all: () => setIds(new Set(order)),
    clear: () => {
      setIds(new Set());
      setFocusId(null);
    },
  };
}
