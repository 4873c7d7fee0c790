/** One open crate: its tracks in their order, what is chosen of them, and changes to it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Crate } from "../../api/client";
import { EVERY, idsQuery, type SortName } from "../../api/queries";
import { useListed } from "../../components/tracks";
import { useSelection } from "../../components/use-selection";
import { useRemembered } from "../../settings";
import { useCrateActions } from "./use-crate-actions";

const NONE: number[] = [];

export type OpenCrateState = ReturnType<typeof useOpenCrate>;

export function useOpenCrate(crate: Crate) {
  const [sort, setSort] = useRemembered<{ name: SortName; down: boolean }>(`crate.${crate.id}.sort`, {
    name: "crate",
    down: false,
  });
  const order = useQuery(
    idsQuery({
      where: byHandOrNot(crate.id, sort.name),
      sort: sort.name,
      descending: sort.down,
      crate_id: crate.id,
    }),
  ).data;
  // Until the server has answered, rows stand where the hand has put them.
  const [moved, setMoved] = useState<{ from: typeof order; ids: number[] } | null>(null);
  const ids = (moved && moved.from === order ? moved.ids : order?.ids) ?? NONE;
  const source = useListed(ids, order ? ids.length : null);
  const selection = useSelection(source);
  const actions = useCrateActions(crate);
  const byHand = sort.name === "crate";
  const chosen = () => ids.filter((id) => selection.ids.has(id));
  const reorder = (moving: number[], to: number) => {
    const rest = ids.filter((id) => !moving.includes(id));
    setMoved({ from: order, ids: [...rest.slice(0, to), ...moving, ...rest.slice(to)] });
    actions.move.mutate({ ids: moving, to }, { onError: () => setMoved(null) });
  };
  return {
    sort,
    setSort,
    ids,
    source,
    selection,
    actions,
    byHand,
    reorder,
    shift: (by: 1 | -1) => {
      const first = ids.findIndex((id) => selection.ids.has(id));
      if (byHand && first >= 0) reorder(chosen(), Math.max(0, first + by));
    },
    remove: () => selection.ids.size && actions.remove.mutate(chosen()),
  };
}

/** In its own order the crate itself is gone along; sorted otherwise it is a condition like another. */
function byHandOrNot(id: number, sort: SortName) {
  return sort === "crate" ? EVERY : ({ kind: "list", list_id: id } as const);
}
