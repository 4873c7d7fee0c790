/** Which cell of the list is typed into, how one comes to it and where one goes from it. */
import { useEffect, useRef, useState } from "react";
import { useEditValues } from "../api/changes";
import type { EditName, Track } from "../api/client";
import type { Onward } from "./cell-edit";
import { KEYS } from "./keys";
import { META } from "./track-columns";
import type { LookProps } from "./track-table";
import { useKeys } from "./use-keys";

interface Cell {
  /** The row's own id, and its place when the cell was gone to. */
  id: number;
  place: number;
  column: string;
  /** What was typed there and refused. */
  typed?: string;
}

/** A second click on a cell types into it, if no third follows it at once. */
const SLOW_MS = 450;

export interface CellHands {
  cell: Cell | null;
  /** A cell of the one chosen row was clicked once more. */
  press: (place: number, column: string) => void;
  /** It was a double click. */
  forget: () => void;
  done: (text: string | null, onward: Onward) => void;
}

export function useCellEdit(props: LookProps, reveal: (place: number) => void): CellHands {
  const { source, selection, layout, scroller } = props;
  const [cell, setCell] = useState<Cell | null>(null);
  const last = useRef<string | null>(null);
  const timer = useRef<number>(undefined);
  const edit = useEditValues();
  const columns = layout.shown.filter((name) => META.get(name)?.edits);
  useKeysMeanRows(timer);

  const begin = (place: number, column: string | undefined) => {
    const id = source.idAt(place);
    if (id === undefined || column === undefined || !source.trackAt(place)) return;
    last.current = column;
    if (place !== selection.focus) selection.move(place, false);
    reveal(place);
    setCell({ id, place, column });
  };
  const keep = (from: Cell, text: string) => {
    const field = META.get(from.column)?.edits;
    if (!field) return;
    const values = { [field]: text || (CLEARED.includes(field) ? null : "") };
    // What is refused, as for a year that is none, is there again to be mended.
    const again = () => setCell((now) => now ?? { ...from, typed: text });
    edit.mutate({ ids: [source.trackIdOf(from.id)], values }, { onError: again });
  };
  const done = (text: string | null, onward: Onward) => {
    if (!cell) return;
    if (text !== null) keep(cell, text);
    setCell(null);
    const [place, column] = after(cell, onward, columns);
    if (onward !== "stay" && place >= 0 && place < (source.total ?? 0)) begin(place, column);
    else scroller.current?.focus({ preventScroll: true });
  };
  useKeys(KEYS.lists.cell, () => {
    const column = columns.find((name) => name === last.current) ?? columns[0];
    if (selection.focus >= 0) begin(selection.focus, column);
  });
  return {
    cell,
    press: (place, column) => {
      window.clearTimeout(timer.current);
      if (columns.includes(column)) timer.current = window.setTimeout(() => begin(place, column), SLOW_MS);
    },
    forget: () => window.clearTimeout(timer.current),
    done,
  };
}

/** What is done by key after a click on a cell is done with the row: the cell is not typed into any more. */
function useKeysMeanRows(timer: React.RefObject<number | undefined>): void {
  useEffect(() => {
    const forget = () => window.clearTimeout(timer.current);
    window.addEventListener("keydown", forget, true);
    return () => {
      window.removeEventListener("keydown", forget, true);
      forget();
    };
  }, [timer]);
}

/** Fields that are empty where the hand says nothing of them, not where it says an empty text. */
const CLEARED: readonly EditName[] = ["year", "energy", "key"];

function after(
  { place, column }: Cell,
  onward: Onward,
  columns: readonly string[],
): [number, string | undefined] {
  if (onward === "up" || onward === "down") return [place + (onward === "up" ? -1 : 1), column];
  const to = columns.indexOf(column) + (onward === "last" ? -1 : 1);
  if (to < 0) return [place - 1, columns.at(-1)];
  return to < columns.length ? [place, columns[to]] : [place + 1, columns[0]];
}

/** What stands in a cell, as it is typed. */
export function typedValue(track: Track, field: EditName): string {
  const value = (track as unknown as Record<string, unknown>)[field];
  return value === null || value === undefined ? "" : String(value);
}
