/** A dialog that keeps what was typed into it: a click beside it asks first, where it would only close an untouched one. */
import { Alert, Button, Dialog, type DialogProps } from "@mui/material";
import { useState } from "react";

interface Props extends Omit<DialogProps, "open" | "onClose"> {
  onClose: () => void;
  /** Something was chosen in it that is no typing. */
  touched?: boolean;
}

export function KeepingDialog({ onClose, touched, children, ...rest }: Props) {
  const [typed, setTyped] = useState(false);
  const [asked, setAsked] = useState(false);
  const leave = (reason: string) => {
    if (reason === "backdropClick" && (typed || touched)) setAsked(true);
    else onClose();
  };
  return (
    <Dialog
      {...rest}
      open
      onClose={(_, reason) => leave(reason)}
      onInput={() => {
        setTyped(true);
        setAsked(false);
      }}
    >
      {asked && (
        <Alert
          severity="info"
          action={
            <Button size="small" color="inherit" onClick={onClose}>
              Close without it
            </Button>
          }
        >
          What you have entered here is not kept yet.
        </Alert>
      )}
      {children}
    </Dialog>
  );
}
