/** One open crate: its tracks in their order, what is chosen of them, and changes to it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Crate, Schema } from "../../api/client";
import { idsQuery, placesQuery, type Sort } from "../../api/queries";
import { useListed, type Repeated } from "../../components/tracks";
import { useSelection } from "../../components/use-selection";
import { useRemembered } from "../../settings";
import { useCrateActions } from "./use-crate-actions";

const NONE: number[] = [];
/** A list by hand is had whole, so that any of it can be moved. */
const WHOLE = 200_000;
/** In its own order the crate itself is gone along; sorted otherwise it is a condition like another. */
const BY_HAND: Sort[] = [];

export type OpenCrateState = ReturnType<typeof useOpenCrate>;

export function useOpenCrate(crate: Crate) {
  const [sorts, setSorts] = useRemembered<Sort[]>(`crate.${crate.id}.sorts`, BY_HAND);
  const byHand = sorts.length === 0;
  const order = useOrder(crate, sorts);
  // Until the server has answered, rows stand where the hand has put them.
  const [moved, setMoved] = useState<{ from: typeof order; ids: number[] } | null>(null);
  const ids = (moved && moved.from === order ? moved.ids : order?.ids) ?? NONE;
  const source = useListed(ids, order ? ids.length : null, order?.repeated);
  const selection = useSelection(source);
  const actions = useCrateActions(crate);
  const chosen = () => ids.filter((id) => selection.has(id));
  const reorder = (moving: number[], to: number, behind = false) => {
    const rest = ids.filter((id) => !moving.includes(id));
    setMoved({ from: order, ids: [...rest.slice(0, to), ...moving, ...rest.slice(to)] });
    actions.move.mutate({ places: moving, to, behind }, { onError: () => setMoved(null) });
  };
  return {
    crate,
    sorts,
    setSorts,
    ids,
    source,
    selection,
    actions,
    byHand,
    notes: order?.notes,
    /** Each track once, in this order. */
    trackIds: () => [...new Set(ids.map(source.trackIdOf))],
    reorder,
    chosen,
    /** By one track, or past a divider that is next to them. */
    shift: (by: 1 | -1, starts: readonly number[]) => {
      const first = ids.findIndex((id) => selection.has(id));
      if (!byHand || first < 0) return;
      const moving = chosen();
      const divider = by > 0 ? starts.includes(first + moving.length) : first > 0 && starts.includes(first);
      reorder(moving, divider ? first : Math.max(0, first + by), by < 0 ? divider : !divider);
    },
    remove: () => selection.count && actions.remove.mutate(chosen()),
  };
}

interface Order {
  ids: number[];
  repeated?: Repeated;
  notes?: Readonly<Record<number, string>>;
}

/** What stands in a crate by hand: place by place in its own order; sorted for looking, each track once. */
function useOrder(crate: Crate, sorts: readonly Sort[]): Order | undefined {
  const [first, ...then] = sorts;
  const places = useQuery({ ...placesQuery(crate.id), enabled: !first, select: orderOf }).data;
  const where = { kind: "list", list_id: crate.id } as const;
  const sort = first ?? { sort: "title" as const, descending: false };
  const sorted = useQuery({
    ...idsQuery({ where, ...sort, then, crate_id: crate.id }, 0, WHOLE),
    enabled: !!first,
  });
  return first ? sorted.data : places;
}

const orderOf = ({ places, ...more }: Schema["PlacesOut"]): Order => ({ ids: places, ...more });
