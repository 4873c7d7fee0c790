/** A button with its key and its tooltip. */
import { Button, Tooltip } from "@mui/material";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import type { KeyEntry } from "../../components/keys";

interface Props {
  name: string;
  entry?: KeyEntry;
  /** What it does, where the key sheet's words are not enough. */
  tip?: string;
  on?: boolean;
  disabled?: boolean;
  onClick: () => void;
}

/** A button with its key. */
export function Tool({ name, entry, tip, on, disabled, onClick }: Props) {
  return (
    <Tooltip title={tip ?? entry?.says ?? ""}>
      <span>
        <Button
          aria-pressed={on}
          disabled={disabled}
          onClick={onClick}
          variant={on ? "contained" : "outlined"}
          color={on ? "secondary" : "primary"}
          sx={{ px: 0.9 }}
        >
          {name}
          {entry && <KeyHint>{shown(entry)}</KeyHint>}
        </Button>
      </span>
    </Tooltip>
  );
}
