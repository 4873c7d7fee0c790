/** A dialog that is a form: Enter does what its last button says, Escape and Cancel leave all as it was. */
import { Button, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import type { SxProps, Theme } from "@mui/material/styles";
import type { ReactNode } from "react";
import { KeepingDialog } from "./keeping-dialog";

interface Props {
  title: ReactNode;
  action: ReactNode;
  /** Nothing can be done yet. */
  disabled?: boolean;
  /** Something was entered that is no typing, so a click beside it asks first. */
  touched?: boolean;
  width?: "xs" | "sm" | "md";
  content?: SxProps<Theme>;
  /** What stands apart, at the other end of the buttons. */
  apart?: ReactNode;
  /** Other ways to go on, between Cancel and the last button. */
  others?: ReactNode;
  children: ReactNode;
  onSubmit: () => void;
  onClose: () => void;
}

export function FormDialog(props: Props) {
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    // A dialog over another lies within its form, as far as events go.
    event.stopPropagation();
    if (!props.disabled) props.onSubmit();
  };
  return (
    <KeepingDialog onClose={props.onClose} touched={props.touched} fullWidth maxWidth={props.width ?? "xs"}>
      <form onSubmit={submit}>
        <DialogTitle>{props.title}</DialogTitle>
        <DialogContent sx={props.content}>{props.children}</DialogContent>
        <DialogActions>
          {props.apart}
          <Button onClick={props.onClose}>Cancel</Button>
          {props.others}
          <Button type="submit" variant="contained" disabled={props.disabled}>
            {props.action}
          </Button>
        </DialogActions>
      </form>
    </KeepingDialog>
  );
}
