/** The rule of one crate: as it is, as it is being changed, and what can be done with it. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../../api/changes";
import { client, unwrap, type Crate, type Schema } from "../../../api/client";
import { linesQuery, ruleQuery, type Sort } from "../../../api/queries";
import { wholeOf, type Joined } from "./tree";

type Rule = Schema["RuleBody"];

const EVERY: Joined = { kind: "all", parts: [] };

export function useRule(crate: Crate) {
  const kept = useQuery(ruleQuery(crate.id)).data;
  // What was changed is shown at once, and again as it was where the server refuses it.
  const [draft, setDraft] = useState<{ from: Rule | undefined; rule: Rule } | null>(null);
  const rule = draft && draft.from === kept ? draft.rule : kept;
  const where = rule ? wholeOf(rule.where) : EVERY;
  const counted = useQuery({ ...linesQuery(where), enabled: rule !== undefined }).data;
  const params = { path: { crate_id: crate.id } };
  const save = useChange((body: Rule) => unwrap(client.PUT("/api/crates/{crate_id}/rule", { params, body })));
  const freeze = useChange(
    (name: string) => unwrap(client.POST("/api/crates/{crate_id}/freeze", { params, body: { name } })),
    ({ name, tracks }) =>
      `“${name}” holds these ${tracks.toLocaleString("en")} tracks now, for you to order.`,
  );
  const change = (changes: Partial<Rule>) => {
    if (!rule) return;
    const next = { ...rule, ...changes };
    setDraft({ from: kept, rule: next });
    save.mutate(next, { onError: () => setDraft(null) });
  };
  return { rule, where, counted, change, freeze };
}

/** The order of a rule as a table has it. */
export const sortsOf = ({ order }: Rule): Sort[] =>
  order.map(({ sort, descending = false }) => ({ sort, descending }));
