/** The rule of one crate: as it is, as it is being changed, and what can be done with it. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useChange } from "../../../api/changes";
import { client, unwrap, type Crate, type Schema } from "../../../api/client";
import { linesQuery, ruleQuery, type Sort } from "../../../api/queries";
import { wholeOf, type Joined } from "./tree";

type Rule = Schema["RuleBody"];

const EVERY: Joined = { kind: "all", parts: [] };

/** @param tried - what it would be with the line that is being typed */
export function useRule(crate: Crate, tried: Joined | null) {
  const kept = useQuery(ruleQuery(crate.id)).data;
  const { draft, change } = useSaving(crate, kept);
  const rule = draft ?? kept;
  const where = rule ? wholeOf(rule.where) : EVERY;
  const counted = useQuery({ ...linesQuery(tried ?? where), enabled: rule !== undefined }).data;
  const params = { path: { crate_id: crate.id } };
  const freeze = useChange(
    (name: string) => unwrap(client.POST("/api/crates/{crate_id}/freeze", { params, body: { name } })),
    ({ name, tracks }) =>
      `“${name}” holds these ${tracks.toLocaleString("en")} tracks now, for you to order.`,
  );
  return { rule, where, counted, change, freeze };
}

/** What is changed is shown at once and saved in order, however fast one types; what is refused goes back. */
function useSaving(crate: Crate, kept: Rule | undefined) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState<Rule | null>(null);
  const newest = useRef<Rule | null>(null);
  const saved = useRef<Promise<unknown>>(Promise.resolve());
  const params = { path: { crate_id: crate.id } };
  const save = useChange((body: Rule) => unwrap(client.PUT("/api/crates/{crate_id}/rule", { params, body })));
  const change = (changes: Partial<Rule>) => {
    const before = newest.current ?? kept;
    if (!before) return;
    const next = { ...before, ...changes };
    newest.current = next;
    setDraft(next);
    saved.current = saved.current
      .then(() => save.mutateAsync(next))
      .then((rule) => queries.setQueryData(ruleQuery(crate.id).queryKey, rule))
      .catch(() => undefined)
      .finally(() => {
        if (newest.current !== next) return;
        newest.current = null;
        setDraft(null);
      });
  };
  return { draft, change };
}

/** The order of a rule as a table has it. */
export const sortsOf = ({ order }: Rule): Sort[] =>
  order.map(({ sort, descending = false }) => ({ sort, descending }));
