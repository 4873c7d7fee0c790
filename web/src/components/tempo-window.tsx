/** Two tempi between which a beat is counted; both, or neither. */
import { Box, TextField } from "@mui/material";
import type { Schema } from "../api/client";
import { FIGURES } from "../theme";

export type Window = Schema["WindowBody"];

/** As typed: what is not yet a window is kept until it is. */
export interface TypedWindow {
  low: string;
  high: string;
}

export const NO_WINDOW: TypedWindow = { low: "", high: "" };
const [SLOWEST, FASTEST] = [20, 400];

export const typed = (window: Window | null): TypedWindow =>
  window ? { low: String(window.low), high: String(window.high) } : NO_WINDOW;

/** The window that was typed, null for none, undefined where it makes no sense. */
export function windowOf({ low, high }: TypedWindow): Window | null | undefined {
  if (!low.trim() && !high.trim()) return null;
  const [slow, fast] = [Number(low), Number(high)];
  return slow >= SLOWEST && fast <= FASTEST && slow < fast ? { low: slow, high: fast } : undefined;
}

interface Props {
  value: TypedWindow;
  onChange: (value: TypedWindow) => void;
  /** What each end is called for those who do not see it. */
  label: string;
  /** What holds where nothing is written. */
  usual?: Window | null;
}

export function TempoWindow({ value, onChange, label, usual }: Props) {
  const wrong = windowOf(value) === undefined;
  const end = (name: "low" | "high") => (
    <TextField
      variant="standard"
      size="small"
      error={wrong}
      value={value[name]}
      placeholder={usual ? String(usual[name]) : "–"}
      onChange={(e) => onChange({ ...value, [name]: e.target.value })}
      slotProps={{
        htmlInput: {
          inputMode: "decimal",
          "aria-label": `${label}, ${name === "low" ? "slowest" : "fastest"}`,
          style: { fontFamily: FIGURES, width: 44, textAlign: "center" },
        },
      }}
    />
  );
  return (
    <Box component="span" sx={{ display: "inline-flex", alignItems: "baseline", gap: 0.7 }}>
      {end("low")} to {end("high")}
    </Box>
  );
}
