import {
  Alert,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogContentText,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
  Radio,
  RadioGroup,
} from "@mui/material";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { clock } from "../../components/format";
import type { Bench } from "./bench";

type Kind = Schema["Rescan"]["kind"];
const KINDS: { kind: Kind; says: string }[] = [
  { kind: "steady", says: "Steady: one tempo, made by a machine" },
  { kind: "stepped", says: "Stepped: it changes at one place or a few" },
  { kind: "elastic", says: "Elastic: a player keeps the time" },
];

/** Hear the rhythm anew as one kind, of the whole track or of the marked stretch only. */
export function RescanDialog({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { mark, actions, data } = bench;
  const [kind, setKind] = useState<Kind>(data.grid?.kind === "steady" ? "elastic" : "steady");
  const stretch = mark && mark.to > mark.from ? mark : null;
  const { isPending, error } = actions.grid;
  const start = (event: React.FormEvent) => {
    event.preventDefault();
    actions.grid.mutate(
      { edit: "rescan", kind, start_s: stretch?.from ?? null, end_s: stretch?.to ?? null },
      { onSuccess: onClose },
    );
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={start}>
        <DialogTitle>
          Rescan {stretch ? `${clock(stretch.from, true)} to ${clock(stretch.to, true)}` : "the whole track"}
        </DialogTitle>
        <DialogContent>
          <RadioGroup
            value={kind}
            onChange={(e) => setKind(e.target.value as Kind)}
            aria-label="Kind of tempo"
          >
            {KINDS.map((each) => (
              <FormControlLabel
                key={each.kind}
                value={each.kind}
                control={<Radio size="small" autoFocus={each.kind === kind} />}
                label={each.says}
              />
            ))}
          </RadioGroup>
          <DialogContentText sx={{ fontSize: "0.82rem", mt: 1 }}>
            {stretch
              ? "Every beat outside the marked stretch stays where it is."
              : "To rescan a part only, mark it first: X at its start, X at its end."}{" "}
            It can be undone.
          </DialogContentText>
          {isPending && <LinearProgress sx={{ mt: 1 }} />}
          {error && (
            <Alert severity="warning" sx={{ mt: 1 }}>
              {error.message}
            </Alert>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={isPending}>
            Rescan
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
