/** Which plays of a night are chosen, by pointer and by keys. */
import { useEffect, useState, type RefObject } from "react";

export interface Choosing {
  chosen: number[];
  focus: number;
  click: (place: number, event: React.MouseEvent) => void;
  step: (by: number, more: boolean) => void;
  all: () => void;
  none: () => void;
}

export function useChoosing(ids: readonly number[], list: RefObject<HTMLElement | null>): Choosing {
  const [focus, setFocus] = useState(-1);
  const [from, setFrom] = useState(-1);
  const [apart, setApart] = useState<ReadonlySet<number>>(new Set());
  const [low, high] = [Math.min(from, focus), Math.max(from, focus)];
  const stretch = focus < 0 ? [] : ids.slice(low, high + 1);
  const chosen = ids.filter((id) => stretch.includes(id) !== apart.has(id));
  const go = (place: number, more: boolean) => {
    setFocus(place);
    if (!more) setFrom(place);
    setApart(new Set());
  };
  useEffect(() => {
    list.current?.children[focus]?.scrollIntoView({ block: "nearest" });
  }, [focus, list]);
  return {
    chosen,
    focus,
    click: (place, event) => {
      const id = ids[place];
      if ((event.ctrlKey || event.metaKey) && id !== undefined)
        setApart(new Set(apart.has(id) ? [...apart].filter((each) => each !== id) : [...apart, id]));
      else go(place, event.shiftKey);
    },
    step: (by, more) => ids.length && go(Math.max(0, Math.min(ids.length - 1, focus + by)), more),
    all: () => {
      setFrom(0);
      setFocus(ids.length - 1);
      setApart(new Set());
    },
    none: () => go(-1, false),
  };
}
