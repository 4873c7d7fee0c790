/** What is in a list that is not filled by hand, and how it is opened. */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Condition, Crate } from "../../api/client";
import type { Found, Sort } from "../../api/queries";
import { useFound } from "../../components/tracks";
import { useSelection } from "../../components/use-selection";
import { useRemembered } from "../../settings";
import { rememberQueue } from "../workbench/queue-order";

/** What is in it now, or would be by another rule, sorted by its rule or, for looking, by what was clicked. */
export function useFilled(crate: Crate, byRule: Sort[], tried: Condition | null = null) {
  const [own, setOwn] = useRemembered<Sort[] | null>(`crate.${crate.id}.sorts`, null);
  const sorts = own?.length ? own : byRule;
  const [first = { sort: "added_at" as const, descending: true }, ...then] = sorts;
  const found: Found = { where: tried ?? { kind: "list", list_id: crate.id }, ...first, then };
  const [kept, setKept] = useState(found);
  // The same object as long as it says the same: what is found anew is shown from its top.
  if (JSON.stringify(kept) !== JSON.stringify(found)) setKept(found);
  const source = useFound(kept);
  const selection = useSelection(source);
  const ids = Array.from({ length: Math.min(source.total ?? 0, 200) }, (_, place) => source.idAt(place));
  return { sorts, setSorts: setOwn, source, selection, ids: ids.filter((id) => id !== undefined) };
}

/** Opens a track on the Workbench, with the crate as the list to go through. */
export function useOpenFilled(crate: Crate, ids: number[]) {
  const navigate = useNavigate();
  return (id: number) => {
    rememberQueue(crate.name, ids.includes(id) ? ids : [id, ...ids]);
    void navigate(`/workbench/${id}`);
  };
}
