/** Which columns a list shows, in which order and how wide: remembered for each list. */
import { useMemo } from "react";
import { useRemembered, useSettings } from "../settings";
import { TYPE_PX } from "../theme";
import { useFixed } from "./use-fixed";
import { leastPx, NAMES, usual, type Widths } from "./track-columns";

interface Layout {
  /** The columns in order; null for the usual ones, as far as there is room. */
  shown: readonly string[] | null;
  widths: Widths;
}

export interface TableLayout {
  shown: readonly string[];
  widths: Widths;
  /** The room that all of them need, in pixels. */
  leastPx: number;
  isOwn: boolean;
  show: (name: string, on: boolean) => void;
  move: (name: string, to: number) => void;
  widen: (name: string, rem: number) => void;
  reset: () => void;
}

const USUAL_LAYOUT: Layout = { shown: null, widths: {} };
const LEAST_REM = 2;

export function useTableLayout(list: string, without: readonly string[], room: number): TableLayout {
  const [layout, setLayout] = useRemembered<Layout>(`columns.${list}`, USUAL_LAYOUT);
  const rem = TYPE_PX[useSettings().size];
  const shown = useMemo(
    () => layout.shown?.filter((name) => NAMES.includes(name)) ?? usual(without, room, rem, layout.widths),
    [layout, without, room, rem],
  );
  const set = (next: readonly string[]) => setLayout({ ...layout, shown: next });
  const acts = useFixed({
    show: (name: string, on: boolean) => {
      const others = shown.filter((each) => each !== name);
      if (on || others.length) set(on ? [...others, name] : others);
    },
    move: (name: string, to: number) => {
      const others = shown.filter((each) => each !== name);
      set([...others.slice(0, to), name, ...others.slice(to)]);
    },
    widen: (name: string, wide: number) =>
      setLayout({
        shown,
        widths: { ...layout.widths, [name]: Math.max(LEAST_REM, Math.round(wide * 10) / 10) },
      }),
    reset: () => setLayout(USUAL_LAYOUT),
  });
  return useMemo(
    () => ({
      ...{ shown, widths: layout.widths, isOwn: layout.shown !== null },
      leastPx: leastPx(shown, rem, layout.widths),
      ...acts,
    }),
    [shown, rem, layout, acts],
  );
}
