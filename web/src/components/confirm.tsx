/** Asking once more before something goes. */
import { Button, Dialog, DialogActions, DialogContent, DialogContentText, DialogTitle } from "@mui/material";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  title: string;
  action: string;
  children: ReactNode;
  onConfirm: () => void;
  onClose: () => void;
}

export function Confirm({ open, title, action, children, onConfirm, onClose }: Props) {
  return (
    <Dialog open={open} onClose={onClose}>
      <DialogTitle>{title}</DialogTitle>
      <DialogContent>
        <DialogContentText component="div">{children}</DialogContentText>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Keep it</Button>
        <Button
          variant="contained"
          color="error"
          autoFocus
          onClick={() => {
            onConfirm();
            onClose();
          }}
        >
          {action}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
