/** Short messages at the foot of the window. */
import { Alert, Snackbar } from "@mui/material";
import { createContext, use, useCallback, useState, type ReactNode } from "react";

type Kind = "info" | "error";
type Say = (text: string, kind?: Kind) => void;

const MessageContext = createContext<Say>(() => undefined);

/** One place at the bottom where Vinyl says what happened. */
export function MessageProvider({ children }: { children: ReactNode }) {
  const [message, setMessage] = useState<{ text: string; kind: Kind; key: number } | null>(null);
  const [open, setOpen] = useState(false);
  const say = useCallback<Say>((text, kind = "info") => {
    setMessage({ text, kind, key: Date.now() });
    setOpen(true);
  }, []);
  return (
    <MessageContext value={say}>
      {children}
      <Snackbar
        key={message?.key}
        open={open}
        autoHideDuration={message?.kind === "error" ? 9000 : 3500}
        onClose={(_event, reason) => reason !== "clickaway" && setOpen(false)}
        anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
        sx={{ mb: 7 }}
      >
        <Alert
          severity={message?.kind}
          variant="filled"
          icon={false}
          onClose={() => setOpen(false)}
          data-testid="message"
          sx={(theme) => ({
            bgcolor: message?.kind === "error" ? theme.inks.now : theme.inks.ink,
            color: message?.kind === "error" ? theme.inks.onStrong : theme.inks.paper,
            maxWidth: 640,
          })}
        >
          {message?.text}
        </Alert>
      </Snackbar>
    </MessageContext>
  );
}

export function useSay(): Say {
  return use(MessageContext);
}
