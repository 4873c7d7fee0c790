/** Rows chosen in a table, by click and by key: single, in a range, one by one, or all that was found. */
import { useState } from "react";
import type { Picked } from "../api/client";
import { inOrder, type TrackSource } from "./tracks";

export interface Selection {
  count: number;
  has: (id: number) => boolean;
  /** What is chosen, for requests: in the order of the table where that is known. */
  picked: () => Picked;
  /** The same of one row: all that is chosen if it is among it, else it alone. */
  pickedWith: (id: number) => Picked;
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

/** Some tracks by their ids; or, of what was found under a view, all but some. */
type Chosen = { view: null; ids: ReadonlySet<number> } | { view: string; but: ReadonlySet<number> };

const NOTHING: Chosen = { view: null, ids: new Set() };

/** A row may move while it is chosen: it is looked for by its id first. */
function placeNow(source: TrackSource, spot: Spot | null): number {
  if (!spot) return -1;
  const place = spot.id === null ? -1 : source.placeOf(spot.id);
  return place >= 0 ? place : spot.place;
}

function toggled(set: ReadonlySet<number>, id: number): ReadonlySet<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}

export function useSelection(source: TrackSource): Selection {
  const [kept, setChosen] = useState<Chosen>(NOTHING);
  const [focus, setFocus] = useState<Spot | null>(null);
  const [anchor, setAnchor] = useState<Spot | null>(null);
  const last = Math.max((source.total ?? 0) - 1, 0);
  // "All" means what is found now; under another view it is chosen no more.
  const view = JSON.stringify(source.found?.where ?? null);
  const chosen = kept.view !== null && kept.view !== view ? NOTHING : kept;

  const has = (id: number) => (chosen.view === null ? chosen.ids.has(id) : !chosen.but.has(id));
  const picked = () => pickedOf(chosen, source);
  const choose = async (from: number, to: number) => {
    const ids = await source.idsBetween(Math.min(from, to), Math.max(from, to));
    setChosen({ view: null, ids: new Set(ids) });
  };
  const single = (place: number) => {
    const id = source.idAt(place) ?? null;
    setAnchor({ id, place });
    setFocus({ id, place });
    if (id === null) void choose(place, place);
    else setChosen({ view: null, ids: new Set([id]) });
  };
  const extendTo = (place: number) => {
    setFocus({ id: source.idAt(place) ?? null, place });
    void choose(anchor ? placeNow(source, anchor) : place, place);
  };
  const toggle = (place: number) => {
    const id = source.idAt(place);
    if (id === undefined) return;
    if (chosen.view === null) setChosen({ view: null, ids: toggled(chosen.ids, id) });
    else setChosen({ ...chosen, but: toggled(chosen.but, id) });
    setAnchor({ id, place });
    setFocus({ id, place });
  };
  return {
    count: countOf(chosen, source),
    has,
    picked,
    pickedWith: (id) => (has(id) ? picked() : { chosen: { ids: [source.trackIdOf(id)] }, count: 1 }),
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
    all: () => {
      if (source.found) setChosen({ view, but: new Set() });
      else void choose(0, last);
    },
    clear: () => {
      setChosen(NOTHING);
      setFocus(null);
    },
  };
}

function countOf(chosen: Chosen, source: TrackSource): number {
  return chosen.view === null ? chosen.ids.size : Math.max(0, (source.total ?? 0) - chosen.but.size);
}

function pickedOf(chosen: Chosen, source: TrackSource): Picked {
  if (chosen.view === null || !source.found) {
    const places = chosen.view === null ? inOrder(source, chosen.ids) : [];
    const ids = [...new Set(places.map(source.trackIdOf))];
    return { chosen: { ids }, count: ids.length };
  }
  const found = { ...source.found, first: 0, last: null, without: [...chosen.but] };
  return { chosen: { found }, count: countOf(chosen, source) };
}
