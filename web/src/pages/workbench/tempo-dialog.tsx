import { Button, Dialog, DialogActions, DialogContent, DialogContentText, DialogTitle, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Workbench } from "../../api/client";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import type { TrackActions } from "./use-track-actions";

/** Type a tempo, for the whole track or from here on; and the beats in a bar. */
export function TempoDialog({ data, actions, onClose }: { data: Workbench; actions: TrackActions; onClose: () => void }) {
  const [text, setText] = useState(data.track.bpm?.toFixed(3).replace(/\.?0+$/, "") ?? "");
  const [here] = useState(() => engine.position());
  const bpm = Number(text.replace(",", "."));
  const wrong = !(bpm >= 30 && bpm <= 300);
  const whole = (event: React.FormEvent) => {
    event.preventDefault();
    if (wrong) return;
    actions.grid.mutate({ edit: "set tempo", bpm, hold_s: here });
    onClose();
  };
  const fromHere = () => {
    actions.grid.mutate({ edit: "tempo from here", time_s: here, bpm });
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={whole}>
        <DialogTitle>Tempo</DialogTitle>
        <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
          <TextField autoFocus size="small" margin="dense" label="Beats per minute" value={text} onChange={(e) => setText(e.target.value)} onFocus={(e) => e.target.select()}
            error={text !== "" && wrong} helperText={wrong ? "Between 30 and 300" : `Holds the beat at ${clock(here, true)}, where you are`} slotProps={{ htmlInput: { inputMode: "decimal" } }} />
          {data.grid && (
            <TextField select size="small" label="Beats in a bar" value={data.grid.beats_per_bar} onChange={(e) => actions.grid.mutate({ edit: "beats in a bar", beats_per_bar: Number(e.target.value) })}>
              {[3, 4, 5, 6, 7].map((n) => <MenuItem key={n} value={n}>{n}</MenuItem>)}
            </TextField>
          )}
          <DialogContentText sx={{ fontSize: "0.82rem" }}>“From here on” keeps everything before {clock(here, true)} as it is.</DialogContentText>
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          {data.grid && <Button disabled={wrong} onClick={fromHere}>From here on</Button>}
          <Button type="submit" variant="contained" disabled={wrong}>Whole track</Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
