/** The keys of the track table by which one moves, chooses and gives stars. */
import { useRate } from "../api/changes";
import { foldName, jump } from "./divided";
import { KEYS } from "./keys";
import type { TrackTableProps } from "./track-table";
import { useKeys } from "./use-keys";

interface Hands {
  /** How many rows a page has. */
  page: () => number;
  /** How many tracks stand side by side. */
  across: number;
  reveal: (place: number) => void;
  /** The track so many rows on from another, where not every row is a track. */
  step?: (from: number, rows: number) => number;
}

export function useTableKeys(props: TrackTableProps, hands: Hands): void {
  const { source, selection } = props;
  const { lists } = KEYS;
  const rate = useRate();
  const last = (source.total ?? 1) - 1;
  const { focus } = selection;
  const { across } = hands;
  const move = (to: number, event: KeyboardEvent) => {
    selection.move(to, event.shiftKey);
    hands.reveal(Math.max(0, Math.min(last, to)));
  };
  // Without a focus the first key goes to the first track.
  const by = (rows: number) => {
    if (focus < 0) return 0;
    return hands.step ? hands.step(focus, rows) : focus + rows * across;
  };
  const { sections = [] } = props.dividers ?? {};
  const section = () => sections.filter((each) => each.at <= focus).at(-1);
  useKeys(lists.move, (e) => move(by(-1), e));
  useKeys(lists.down, (e) => move(by(1), e));
  useKeys(lists.left, (e) => across > 1 && move(focus - 1, e));
  useKeys(lists.right, (e) => across > 1 && move(focus + 1, e));
  useKeys(lists.pageUp, (e) => move(by(-hands.page()), e));
  useKeys(lists.pageDown, (e) => move(by(hands.page()), e));
  useKeys(lists.first, (e) => move(0, e));
  useKeys(lists.last, (e) => move(last, e));
  useKeys(lists.nextDivider, (e) => sections.length && move(jump(sections, focus, 1), e));
  useKeys(lists.lastDivider, (e) => sections.length && move(jump(sections, focus, -1), e));
  useKeys(lists.fold, () => {
    const here = section();
    if (here) props.dividers?.fold(foldName(here));
  });
  useKeys(lists.all, () => selection.all());
  useKeys(lists.none, () => selection.clear());
  useKeys(lists.rate, (e) => {
    if (selection.count) rate.mutate({ ...selection.picked().chosen, stars: Number(e.key) });
  });
}
