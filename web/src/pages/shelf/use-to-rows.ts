/** Going from the search line on to the rows, also before they have come: what was pressed waits for them. */
import { useEffect, useEffectEvent, useRef } from "react";
import { KEYS } from "../../components/keys";
import type { TrackSource } from "../../components/tracks";
import { useKeys } from "../../components/use-keys";
import type { Selection } from "../../components/use-selection";

/** What is done with the first row once the rows are those of the words that were typed. */
type Awaited = "choose" | "open" | null;

export function useToRows(
  source: TrackSource,
  selection: Selection,
  onOpen: (id: number, place: number) => void,
): () => void {
  const awaited = useRef<Awaited>(null);
  useKeys(KEYS.lists.open, () => {
    if (awaited.current) awaited.current = "open";
  });
  const arrive = useEffectEvent(() => {
    const what = awaited.current;
    const first = source.idAt(0);
    awaited.current = null;
    if (!what || first === undefined) return;
    selection.move(0, false);
    if (what === "open") onOpen(first, 0);
  });
  useEffect(() => {
    if (source.settled) arrive();
  }, [source.settled]);
  return () => {
    if (source.settled) return selection.move(0, false);
    // Rows that are still those of the words before are neither chosen nor opened.
    selection.clear();
    awaited.current = "choose";
  };
}
