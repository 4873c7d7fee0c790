/** Asking for a name. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";

interface Props {
  title: string;
  label: string;
  action: string;
  initial?: string;
  onDone: (text: string) => void;
  onClose: () => void;
}

/** Asks for one line of text. */
export function NameDialog({ title, label, action, initial = "", onDone, onClose }: Props) {
  const [text, setText] = useState(initial);
  const done = (event: React.FormEvent) => {
    event.preventDefault();
    if (!text.trim()) return;
    onDone(text.trim());
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <form onSubmit={done}>
        <DialogTitle>{title}</DialogTitle>
        <DialogContent>
          <TextField
            autoFocus
            fullWidth
            size="small"
            margin="dense"
            label={label}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onFocus={(e) => e.target.select()}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!text.trim()}>
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
