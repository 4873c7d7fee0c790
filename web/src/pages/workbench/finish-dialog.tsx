/** The rules by which a track is finished. */
import { Checkbox, DialogContentText, FormControlLabel, FormGroup, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../../api/client";
import { useChange } from "../../api/changes";
import { finishQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";

type Rules = Required<Schema["FinishRulesBody"]>;
const GRID: { value: Rules["grid"]; says: string }[] = [
  { value: "any", says: "need not be checked" },
  { value: "sure", says: "is sure, made by hand, or locked" },
  { value: "by hand or locked", says: "was made by hand, or is locked" },
  { value: "locked", says: "is locked" },
];

/** When a track is ticked off in the list of what to prepare. */
export function FinishDialog({ onClose }: { onClose: () => void }) {
  const stored = useQuery(finishQuery).data;
  if (!stored) return null;
  return <Form stored={stored as Rules} onClose={onClose} />;
}

function Form({ stored, onClose }: { stored: Rules; onClose: () => void }) {
  const [rules, setRules] = useState(stored);
  const save = useChange((body: Rules) => unwrap(client.PUT("/api/finish-rules", { body })));
  const set = (change: Partial<Rules>) => setRules({ ...rules, ...change });
  const submit = () => {
    save.mutate(rules, { onSuccess: onClose });
  };
  return (
    <FormDialog
      title="A track is finished when…"
      action="Save"
      content={{ display: "flex", flexDirection: "column", gap: 1.4 }}
      onSubmit={submit}
      onClose={onClose}
    >
      <TextField
        select
        autoFocus
        size="small"
        margin="dense"
        label="its grid"
        value={rules.grid}
        onChange={(e) => set({ grid: e.target.value as Rules["grid"] })}
      >
        {GRID.map(({ value, says }) => (
          <MenuItem key={value} value={value}>
            {says}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        type="number"
        size="small"
        label="it has at least so many cues"
        value={rules.cues}
        onChange={(e) => set({ cues: Math.max(0, Math.min(32, Number(e.target.value))) })}
      />
      <Needed rules={rules} set={set} />
      <DialogContentText sx={{ fontSize: "0.82rem" }}>
        What is missing stands beside each track of the list; finished ones are ticked.
      </DialogContentText>
    </FormDialog>
  );
}

interface NeededProps {
  rules: Rules;
  set: (change: Partial<Rules>) => void;
}

/** The roles of cues, the key and the stars that a finished track has. */
function Needed({ rules, set }: NeededProps) {
  const { roles } = rules;
  return (
    <>
      <FormGroup row>
        {(["in", "main", "out"] as const).map((name) => (
          <Check
            key={name}
            label={`${name} set`}
            checked={roles.includes(name)}
            onChange={(on) => set({ roles: on ? [...roles, name] : roles.filter((each) => each !== name) })}
          />
        ))}
      </FormGroup>
      <FormGroup row>
        <Check label="its key is clear or locked" checked={rules.key} onChange={(key) => set({ key })} />
        <Check label="it has stars" checked={rules.stars} onChange={(stars) => set({ stars })} />
      </FormGroup>
    </>
  );
}

interface CheckProps {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}

function Check({ label, checked, onChange }: CheckProps) {
  const box = <Checkbox size="small" checked={checked} onChange={(e) => onChange(e.target.checked)} />;
  return <FormControlLabel label={label} control={box} />;
}
