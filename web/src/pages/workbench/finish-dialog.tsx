import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogContentText,
  DialogTitle,
  FormControlLabel,
  FormGroup,
  MenuItem,
  TextField,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../../api/client";
import { useChange } from "../../api/changes";
import { finishQuery } from "../../api/queries";

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
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    save.mutate(rules, { onSuccess: onClose });
  };
  const role = (name: Rules["roles"][number]) => (
    <FormControlLabel
      key={name}
      label={`${name} set`}
      control={
        <Checkbox
          size="small"
          checked={rules.roles.includes(name)}
          onChange={(e) =>
            set({
              roles: e.target.checked ? [...rules.roles, name] : rules.roles.filter((each) => each !== name),
            })
          }
        />
      }
    />
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={submit}>
        <DialogTitle>A track is finished when…</DialogTitle>
        <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1.4 }}>
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
          <FormGroup row>{(["in", "main", "out"] as const).map(role)}</FormGroup>
          <FormGroup row>
            <FormControlLabel
              label="its key is clear or locked"
              control={
                <Checkbox size="small" checked={rules.key} onChange={(e) => set({ key: e.target.checked })} />
              }
            />
            <FormControlLabel
              label="it has stars"
              control={
                <Checkbox
                  size="small"
                  checked={rules.stars}
                  onChange={(e) => set({ stars: e.target.checked })}
                />
              }
            />
          </FormGroup>
          <DialogContentText sx={{ fontSize: "0.82rem" }}>
            What is missing stands beside each track of the list; finished ones are ticked.
          </DialogContentText>
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained">
            Save
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
