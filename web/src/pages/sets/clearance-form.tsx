/** What is said by hand of one track's clearance: kept by Enter, or when another track is gone to. */
import { Box, Button, MenuItem, TextField } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { STATES, type ClearanceLine, type State } from "./use-clearance";

export interface Said {
  state: State;
  places: string;
  condition: string;
}

interface Props {
  line: ClearanceLine;
  onSay: (said: Said) => void;
}

const MOST = 400;

/** Keeps what was entered, once: now, or when the form goes. */
function useKeptOnce(said: Said, isNew: boolean, keep: () => void): () => void {
  const latest = useRef({ said, isNew, keep });
  const sent = useRef("");
  useEffect(() => {
    latest.current = { said, isNew, keep };
  });
  const say = () => {
    const text = JSON.stringify(latest.current.said);
    if (latest.current.isNew && text !== sent.current) latest.current.keep();
    sent.current = text;
  };
  useEffect(() => say, []);
  return say;
}

export function ClearanceForm({ line, onSay }: Props) {
  const there: Said = { state: line.state, places: line.places.join(", "), condition: line.condition };
  const [said, setSaid] = useState(there);
  const same = (Object.keys(there) as (keyof Said)[]).every((name) => said[name] === there[name]);
  const away = line.track_id === null;
  const say = useKeptOnce(said, !same && !away, () => onSay(said));
  const text = (name: "places" | "condition", label: string) => (
    <TextField
      size="small"
      label={label}
      value={said[name]}
      disabled={away || said.state === "unknown"}
      onChange={(event) => setSaid({ ...said, [name]: event.target.value })}
      sx={{ flex: 1, minWidth: 120 }}
      slotProps={{ htmlInput: { maxLength: MOST } }}
    />
  );
  return (
    <Box
      component="form"
      aria-label={`Clearance of ${line.title}`}
      onSubmit={(event: React.FormEvent) => {
        event.preventDefault();
        say();
      }}
      sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1, pt: 1.4 }}
    >
      <TextField
        select
        size="small"
        label={line.title || "without a title"}
        value={said.state}
        disabled={away}
        onChange={(event) => setSaid({ ...said, state: event.target.value as State })}
        sx={{ width: "15rem" }}
      >
        {Object.entries(STATES).map(([state, words]) => (
          <MenuItem key={state} value={state}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      {text("places", "Where; everywhere if empty")}
      {text("condition", "On which condition")}
      <Button type="submit" variant="contained" disabled={same || away}>
        Say so
      </Button>
    </Box>
  );
}
