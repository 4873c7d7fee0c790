/** Asking for a name. */
import { TextField } from "@mui/material";
import { useState } from "react";
import { FormDialog } from "./form-dialog";

interface Props {
  title: string;
  label: string;
  action: string;
  initial?: string;
  /** Whether it may be left empty. */
  optional?: boolean;
  onDone: (text: string) => void;
  onClose: () => void;
}

/** Asks for one line of text. */
export function NameDialog({ title, label, action, initial = "", optional = false, onDone, onClose }: Props) {
  const [text, setText] = useState(initial);
  const done = () => {
    onDone(text.trim());
    onClose();
  };
  return (
    <FormDialog
      title={title}
      action={action}
      disabled={!optional && !text.trim()}
      onSubmit={done}
      onClose={onClose}
    >
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
    </FormDialog>
  );
}
