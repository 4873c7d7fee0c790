/** The dividers of an open list: by hand in its own order, or by a value of its tracks however it is sorted. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { Crate } from "../../api/client";
import { sectionsQuery, type Sort } from "../../api/queries";
import type { Divided, DividerAct, Dividers } from "../../components/divided";
import { useKeyName } from "../../components/key-name";
import { useRemembered } from "../../settings";
import { useDividerChanges } from "./list-changes";

const NONE: readonly Divided[] = [];
const FOLDED: string[] = [];

/** Which divider is being written: one that there is, or a new one before a track. */
export type Writing = { section: Divided } | { at: number };

export function useDividers(crate: Crate, sorts: readonly Sort[], byHand: boolean) {
  const [folded, setFolded] = useRemembered<string[]>(`crate.${crate.id}.folded`, FOLDED);
  const [writing, setWriting] = useState<Writing | null>(null);
  const found = useQuery({
    ...sectionsQuery(crate.id, byHand ? [] : sorts),
    enabled: byHand || crate.divided_by !== "",
  }).data;
  const sections = (byHand || crate.divided_by !== "" ? found : undefined) ?? NONE;
  const key = useKeyName();
  const { change, remove } = useDividerChanges();
  const act = (section: Divided, what: DividerAct) => {
    const id = section.divider_id ?? 0;
    if (what === "edit") setWriting({ section });
    else if (what === "remove") remove.mutate(id);
    else change.mutate({ id, body: { at: Math.max(0, section.at + (what === "up" ? -1 : 1)) } });
  };
  const byKey = crate.divided_by === "key";
  const dividers: Dividers = useMemo(
    () => ({
      sections,
      folded,
      fold: (name) =>
        setFolded(folded.includes(name) ? folded.filter((each) => each !== name) : [...folded, name]),
      written: ({ name }) => (name ? (byKey ? key(name) : name) : "none"),
      change: byHand && !crate.divided_by ? act : null,
    }),
    // What acts on a divider asks the newest state of the server anyway.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [sections, folded, setFolded, byKey, key, byHand, crate.divided_by],
  );
  return { dividers, writing, setWriting };
}
