/** The joint of two tracks: over how many bars, what to do there, and what speaks against it. */
import { Box, TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "../../components/form-dialog";
import type { DjSet, Entry, useSetChanges } from "./use-sets";

interface Props {
  set: DjSet;
  out: Entry;
  into: Entry;
  changes: ReturnType<typeof useSetChanges>;
  onClose: () => void;
}

const MOST_BARS = 256;

export function JointDialog({ set, out, into, changes, onClose }: Props) {
  const joint = set.joints.find(({ out_id }) => out_id === out.id);
  const [bars, setBars] = useState(String(joint?.over_bars ?? 16));
  const [note, setNote] = useState(joint?.note ?? "");
  const over_bars = Number(bars);
  const wrong = !/^\d+$/.test(bars.trim()) || over_bars > MOST_BARS;
  const save = () => {
    changes.joint.mutate({ out_id: out.id, in_id: into.id, over_bars, note: note.trim() });
    onClose();
  };
  return (
    <FormDialog
      title={`${out.title} into ${into.title}`}
      action="Save"
      disabled={wrong}
      onSubmit={save}
      onClose={onClose}
    >
      <Box sx={{ color: "text.secondary", fontSize: "0.88rem" }}>{joint?.words.join(" · ")}</Box>
      {joint?.cautions.map(({ words, help }) => (
        <Box key={words} sx={{ color: "warning.main", fontSize: "0.88rem" }}>
          {words}: {help}
        </Box>
      ))}
      <TextField
        autoFocus
        size="small"
        margin="dense"
        label="Bars both sound (0: a cut)"
        value={bars}
        error={wrong}
        helperText={wrong ? `From 0 to ${MOST_BARS} bars` : " "}
        onChange={(event) => setBars(event.target.value)}
        onFocus={(event) => event.target.select()}
        sx={{ mt: 1.4 }}
      />
      <TextField
        fullWidth
        size="small"
        label="What to do there"
        value={note}
        onChange={(event) => setNote(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 1000 } }}
      />
    </FormDialog>
  );
}
