/** Which columns a list shows, in which order and how wide: remembered for each list. */
import { useMemo } from "react";
import { useRemembered, useSettings } from "../settings";
import { TYPE_PX } from "../theme";
import { useFixed } from "./use-fixed";
import { fitting, GIVING_WAY, leastPx, NAMES, USUAL, type Widths } from "./track-columns";

interface Layout {
  /** The columns in order; null for the usual ones. */
  shown: readonly string[] | null;
  /** Which of them give way where there is no room, the first first; those that were asked for never do. */
  givingWay?: readonly string[];
  widths: Widths;
}

export interface TableLayout {
  /** The columns that the list has, in order. */
  columns: readonly string[];
  /** Those of them for which there is room. */
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
  const { columns, givingWay } = useMemo(() => columnsOf(layout, without), [layout, without]);
  const shown = useMemo(
    () => fitting(columns, givingWay, room, rem, layout.widths),
    [columns, givingWay, room, rem, layout],
  );
  const set = (next: Partial<Layout>) => setLayout({ ...layout, shown: columns, givingWay, ...next });
  const acts = useFixed({
    show: (name: string, on: boolean) => {
      const others = columns.filter((each) => each !== name);
      const stay = givingWay.filter((each) => each !== name);
      if (on || others.length) set({ shown: on ? [...others, name] : others, givingWay: stay });
    },
    move: (name: string, to: number) => {
      const others = columns.filter((each) => each !== name);
      set({ shown: [...others.slice(0, to), name, ...others.slice(to)] });
    },
    widen: (name: string, wide: number) =>
      set({ widths: { ...layout.widths, [name]: Math.max(LEAST_REM, Math.round(wide * 10) / 10) } }),
    reset: () => setLayout(USUAL_LAYOUT),
  });
  return useMemo(
    () => ({
      ...{ columns, shown, widths: layout.widths, isOwn: layout.shown !== null },
      leastPx: leastPx(shown, rem, layout.widths),
      ...acts,
    }),
    [columns, shown, rem, layout, acts],
  );
}

/** The columns that a layout asks for, and which of them give way. */
function columnsOf({ shown, givingWay = [] }: Layout, without: readonly string[]) {
  if (shown) return { columns: shown.filter((name) => NAMES.includes(name)), givingWay };
  return { columns: USUAL.filter((name) => !without.includes(name)), givingWay: GIVING_WAY };
}
