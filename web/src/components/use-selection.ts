/** Rows chosen in a table, by click and by key, single, in a range, or one by one. */
import { useState } from "react";
import type { TrackSource } from "./tracks";

export interface Selection {
  /** Ids in the order in which they were chosen: for ranges, that of the table. */
  ids: ReadonlySet<number>;
  /** Place of the row that keys act from; -1 for none. */
  focus: number;
  click: (place: number, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
  move: (to: number, extend: boolean) => void;
  all: () => void;
  clear: () => void;
}

interface Spot {
  id: number | null;
  place: number;
}

/** A row may move while it is chosen: it is looked for by its id first. */
function placeNow(source: TrackSource, spot: Spot | null): number {
  if (!spot) return -1;
  const place = spot.id === null ? -1 : source.placeOf(spot.id);
  return place >= 0 ? place : spot.place;
}

export function useSelection(source: TrackSource): Selection {
  const [ids, setIds] = useState<ReadonlySet<number>>(new Set());
  const [focus, setFocus] = useState<Spot | null>(null);
  const [anchor, setAnchor] = useState<Spot | null>(null);
  const last = Math.max((source.total ?? 0) - 1, 0);

  const choose = async (from: number, to: number) =>
    setIds(new Set(await source.idsBetween(Math.min(from, to), Math.max(from, to))));
  const single = (place: number) => {
    const id = source.idAt(place) ?? null;
    setAnchor({ id, place });
    setFocus({ id, place });
    if (id === null) void choose(place, place);
    else setIds(new Set([id]));
  };
  const extendTo = (place: number) => {
    setFocus({ id: source.idAt(place) ?? null, place });
    void choose(anchor ? placeNow(source, anchor) : place, place);
  };
  const toggle = (place: number) => {
    const id = source.idAt(place);
    if (id === undefined) return;
    const next = new Set(ids);
    if (!next.delete(id)) next.add(id);
    setIds(next);
    setAnchor({ id, place });
    setFocus({ id, place });
  };
  return {
    ids,
    focus: placeNow(source, focus),
    click: (place, event) => {
      if (event.shiftKey) extendTo(place);
      else if (event.ctrlKey || event.metaKey) toggle(place);
      else single(place);
    },
    move: (to, extend) => {
      const place = Math.max(0, Math.min(last, to));
      if (extend) extendTo(place);
      else single(place);
    },
    all: () => void choose(0, last),
    clear: () => {
      setIds(new Set());
      setFocus(null);
    },
  };
}
