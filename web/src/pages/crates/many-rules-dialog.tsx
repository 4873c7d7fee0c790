/** One line in many rules at once: added, changed or taken away, in those that are chosen, after a look at what they share. */
import { Box, Checkbox, FormControlLabel } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Condition, type Crate, type Schema } from "../../api/client";
import { cratesQuery, sharedLinesQuery, wordsOfQuery } from "../../api/queries";
import { ChoiceList } from "../../components/choice-list";
import { FormDialog } from "../../components/form-dialog";
import { allWithin } from "./folders";
import { LineInput } from "./rule/line-input";

interface Props {
  /** The folder whose rules are meant at first; all of them where there is none. */
  folder?: Crate | undefined;
  onClose: () => void;
}

const NEW = -1;
const NONE: Crate[] = [];

export function ManyRulesDialog({ folder, onClose }: Props) {
  const crates = useQuery(cratesQuery).data ?? NONE;
  const within = folder ? allWithin(crates, folder.id) : crates;
  const rules = crates.filter((crate) => crate.fills_itself);
  const [picked, setPicked] = useState<readonly number[] | null>(null);
  const ids = picked ?? within.filter((crate) => crate.fills_itself).map(({ id }) => id);
  const { data: lines = [], error } = useQuery(sharedLinesQuery(ids));
  const [at, setAt] = useState(NEW);
  const [line, setLine] = useState<Condition | null>(null);
  const old = lines[at];
  const change = useChangeLines();
  const touched = old?.rules ?? (line ? ids.length : 0);
  return (
    <FormDialog
      title={folder ? `A line in the rules of “${folder.name}”` : "A line in many rules"}
      action={actionOf(old !== undefined, line !== null, touched)}
      disabled={!ids.length || (!old && !line) || change.isPending}
      touched={line !== null}
      width="sm"
      onSubmit={() =>
        change.mutate({ crate_ids: [...ids], old: old?.where ?? null, new: line }, { onSuccess: onClose })
      }
      onClose={onClose}
    >
      <Rules rules={rules} ids={ids} onChoose={setPicked} />
      {ids.length > 0 && (
        <ChoiceList
          label="Lines"
          choices={[
            { id: NEW, primary: "A new line", secondary: `for ${counted(ids.length, "rule")}` },
            ...lines.map(({ words, rules: count }, id) => ({
              id,
              primary: words,
              secondary: `in ${count} of ${counted(ids.length, "rule")}`,
            })),
          ]}
          chosen={old ? at : NEW}
          onChoose={setAt}
        />
      )}
      <NewLine line={line} instead={old !== undefined} onLine={setLine} />
      {error && <Box role="alert">{error.message}</Box>}
    </FormDialog>
  );
}

function actionOf(isOld: boolean, isNew: boolean, rules: number): string {
  const many = counted(rules, "rule");
  if (isOld) return isNew ? `Change it in ${many}` : `Take it out of ${many}`;
  return isNew ? `Add it to ${many}` : "Type the line to add";
}

function useChangeLines() {
  return useChange(
    (body: Schema["ChangeLinesIn"]) => unwrap(client.POST("/api/rules/shared/change", { body })),
    ({ rules }) =>
      rules
        ? `${counted(rules, "rule")} changed. Ctrl Z takes it back.`
        : "All of them have this line already.",
  );
}

interface RulesProps {
  rules: readonly Crate[];
  ids: readonly number[];
  onChoose: (ids: number[]) => void;
}

function Rules({ rules, ids, onChoose }: RulesProps) {
  const toggle = (id: number) =>
    onChoose(rules.map((rule) => rule.id).filter((each) => ids.includes(each) !== (each === id)));
  if (!rules.length)
    return <Box>No crate fills itself yet. Make one with “≡ One by rule”, then its lines stand here.</Box>;
  return (
    <Box role="group" aria-label="Rules" sx={{ maxHeight: 170, overflow: "auto", mb: 1 }}>
      {rules.map(({ id, name }) => (
        <FormControlLabel
          key={id}
          control={<Checkbox size="small" checked={ids.includes(id)} onChange={() => toggle(id)} />}
          label={name}
          sx={{ display: "flex", mr: 0, "& .MuiFormControlLabel-label": { fontSize: "0.88rem" } }}
        />
      ))}
    </Box>
  );
}

interface NewProps {
  line: Condition | null;
  /** It takes the place of the line that is chosen. */
  instead: boolean;
  onLine: (line: Condition | null) => void;
}

/** The line as it is typed; Enter takes it, and sends nothing yet. */
function NewLine({ line, instead, onLine }: NewProps) {
  const words = useQuery(wordsOfQuery(line)).data;
  const stay = (event: React.KeyboardEvent) => event.key === "Enter" && event.preventDefault();
  return (
    <Box onKeyDown={stay} sx={{ mt: 1 }}>
      <Box sx={{ fontSize: "0.84rem", color: "text.secondary" }}>
        {instead ? "In its place, or nothing to take it away:" : "The line:"} <b>{line && (words ?? "…")}</b>
      </Box>
      <LineInput
        key={JSON.stringify(line)}
        onDone={onLine}
        onTry={() => undefined}
        onLeave={() => undefined}
      />
    </Box>
  );
}
