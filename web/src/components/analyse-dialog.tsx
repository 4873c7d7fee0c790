/** Analysing chosen tracks: all or what is missing, within which tempi, and compared before anything is replaced. */
import { Box, Button, Checkbox, DialogContentText, FormControlLabel, Radio, RadioGroup } from "@mui/material";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { FormDialog } from "./form-dialog";
import { NO_WINDOW, TempoWindow, windowOf } from "./tempo-window";

type Part = NonNullable<Schema["AnalyseIn"]["parts"]>[number];

const PARTS: Record<Part, string> = {
  grid: "tempo, beatgrid and sections",
  key: "key",
  energy: "energy",
  loudness: "loudness",
};

const MISSING = "Only what is missing or was heard by an older version";

export function AnalyseDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const [missing, setMissing] = useState(true);
  const [parts, setParts] = useState<Part[]>(Object.keys(PARTS) as Part[]);
  const [range, setRange] = useState(NO_WINDOW);
  const window = windowOf(range);
  const close = { onSuccess: onClose };
  const again = useChange(
    (body: Schema["AnalyseIn"]) => unwrap(client.POST("/api/analysis/again", { body })),
    ({ queued }) =>
      queued
        ? `${counted(queued, "track")} will be analysed before all others.`
        : "None of them needs it: all are analysed, or their files are away. Choose “All of them, again” to hear them anew.",
  );
  const compare = useChange(
    (body: Schema["AnalyseIn"]) => unwrap(client.POST("/api/analysis/compare", { body })),
    () => "They are being heard; what would be different waits under Work.",
  );
  const body = {
    ...picked.chosen,
    parts,
    window: window ?? null,
    only_missing: missing,
    first: true,
  };
  const wrong = window === undefined || !parts.length || again.isPending || compare.isPending;
  return (
    <FormDialog
      title={`Analyse ${counted(picked.count, "track")}`}
      action="Analyse now"
      width="sm"
      disabled={wrong}
      content={{ display: "flex", flexDirection: "column", gap: 1.2 }}
      others={
        <Button disabled={wrong || missing} onClick={() => compare.mutate(body, close)}>
          Compare first
        </Button>
      }
      onSubmit={() => again.mutate(body, close)}
      onClose={onClose}
    >
      <RadioGroup
        value={missing ? "missing" : "all"}
        onChange={(_e, value) => setMissing(value === "missing")}
      >
        <FormControlLabel value="missing" control={<Radio size="small" />} label={MISSING} />
        <FormControlLabel value="all" control={<Radio size="small" />} label="All of them, again" />
      </RadioGroup>
      <Box>
        Count the beat from <TempoWindow label="Tempo" value={range} onChange={setRange} /> bpm (empty: by
        style)
      </Box>
      <Parts parts={parts} onChange={setParts} />
      <DialogContentText sx={{ fontSize: "0.82rem" }}>
        They come before all others that wait. What is locked or was done by hand stays; comparing replaces
        nothing.
      </DialogContentText>
    </FormDialog>
  );
}

function Parts({ parts, onChange }: { parts: Part[]; onChange: (parts: Part[]) => void }) {
  return (
    <Box role="group" aria-label="What is taken in">
      What is taken in:
      {(Object.keys(PARTS) as Part[]).map((part) => (
        <FormControlLabel
          key={part}
          sx={{ ml: 0.5 }}
          control={
            <Checkbox
              size="small"
              checked={parts.includes(part)}
              onChange={(_e, on) => onChange(on ? [...parts, part] : parts.filter((each) => each !== part))}
            />
          }
          label={PARTS[part]}
        />
      ))}
    </Box>
  );
}
