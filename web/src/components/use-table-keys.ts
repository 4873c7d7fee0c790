/** The keys of the track table. */
import { useRate } from "../api/changes";
import { KEYS } from "./keys";
import type { TrackTableProps } from "./track-table";
import { inOrder } from "./tracks";
import { useKeys } from "./use-keys";

interface Hands {
  /** How many rows a page has. */
  page: () => number;
  reveal: (place: number) => void;
  useTemplate: (ids: number[]) => void;
  repair: (ids: number[]) => void;
  reread: (ids: number[]) => void;
  write: (ids: number[]) => void;
  analyse: (ids: number[]) => void;
}

export function useTableKeys(props: TrackTableProps, hands: Hands): void {
  const { source, selection, onOpen, onPutIntoCrate } = props;
  const { lists } = KEYS;
  const rate = useRate();
  const last = (source.total ?? 1) - 1;
  const chosen = () => inOrder(source, selection.ids);
  const move = (to: number, event: KeyboardEvent) => {
    selection.move(to, event.shiftKey);
    hands.reveal(Math.max(0, Math.min(last, to)));
  };
  useKeys(lists.move, (e) => move(selection.focus - 1, e));
  useKeys(lists.down, (e) => move(selection.focus + 1, e));
  useKeys(lists.pageUp, (e) => move(selection.focus - hands.page(), e));
  useKeys(lists.pageDown, (e) => move(selection.focus + hands.page(), e));
  useKeys(lists.first, (e) => move(0, e));
  useKeys(lists.last, (e) => move(last, e));
  useKeys(lists.all, () => selection.all());
  useKeys(lists.none, () => selection.clear());
  useKeys(lists.open, () => {
    const id = source.idAt(selection.focus);
    if (id !== undefined) onOpen(id);
  });
  useKeys(lists.crate, () => selection.ids.size && onPutIntoCrate(chosen()));
  useKeys(lists.template, () => selection.ids.size && hands.useTemplate(chosen()));
  useKeys(lists.repair, () => selection.ids.size && hands.repair(chosen()));
  useKeys(lists.reread, () => selection.ids.size && hands.reread(chosen()));
  useKeys(lists.write, () => selection.ids.size && hands.write(chosen()));
  useKeys(lists.analyse, () => selection.ids.size && hands.analyse(chosen()));
  useKeys(lists.rate, (e) => {
    if (selection.ids.size) rate.mutate({ ids: chosen(), stars: Number(e.key) });
  });
}
