/** Hear the rhythm anew as one kind, of the whole track or of the marked stretch only. */
import { Alert, DialogContentText, FormControlLabel, LinearProgress, Radio, RadioGroup } from "@mui/material";
import { useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { clock } from "../../components/format";
import type { Bench, Mark } from "./bench";

type Kind = Schema["RescanIn"]["kind"];
const KINDS: { kind: Kind; says: string }[] = [
  { kind: "steady", says: "Steady: one tempo, made by a machine" },
  { kind: "stepped", says: "Stepped: it changes at one place or a few" },
  { kind: "elastic", says: "Elastic: a player keeps the time" },
];

/** Hearing takes seconds on a long track; closing the dialog ends it. */
function useRescan(bench: Bench, stretch: Mark | null, onClose: () => void) {
  const { rescan } = bench.track.actions;
  const stop = useRef(new AbortController());
  return {
    isPending: rescan.isPending,
    error: rescan.error,
    start: (kind: Kind) =>
      rescan.mutate(
        { kind, start_s: stretch?.from ?? null, end_s: stretch?.to ?? null, signal: stop.current.signal },
        { onSuccess: onClose },
      ),
    close: () => {
      stop.current.abort();
      onClose();
    },
  };
}

export function RescanDialog({ bench, onClose }: { bench: Bench; onClose: () => void }) {
  const { data } = bench.track;
  const { mark } = bench.chosen;
  const [kind, setKind] = useState<Kind>(data.grid?.kind === "steady" ? "elastic" : "steady");
  const stretch = mark && mark.to > mark.from ? mark : null;
  const { isPending, error, start, close } = useRescan(bench, stretch, onClose);
  const what = stretch ? `${clock(stretch.from, true)} to ${clock(stretch.to, true)}` : "the whole track";
  return (
    <FormDialog
      title={`Rescan ${what}`}
      action="Rescan"
      disabled={isPending}
      onSubmit={() => start(kind)}
      onClose={close}
    >
      <Kinds value={kind} onChange={setKind} />
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1 }}>
        {stretch
          ? "Every beat outside the marked stretch stays where it is."
          : "To rescan a part only, mark it first: X at its start, X at its end."}{" "}
        It can be undone.
      </DialogContentText>
      {isPending && <LinearProgress aria-label="Listening" sx={{ mt: 1 }} />}
      {error && (
        <Alert severity="warning" sx={{ mt: 1 }}>
          {error.message}
        </Alert>
      )}
    </FormDialog>
  );
}

function Kinds({ value, onChange }: { value: Kind; onChange: (kind: Kind) => void }) {
  return (
    <RadioGroup value={value} onChange={(e) => onChange(e.target.value as Kind)} aria-label="Kind of tempo">
      {KINDS.map(({ kind, says }) => (
        <FormControlLabel
          key={kind}
          value={kind}
          control={<Radio size="small" autoFocus={kind === value} />}
          label={says}
        />
      ))}
    </RadioGroup>
  );
}
