/** What each part is to say in a measure: a slider for each, in times of the usual. */
import { Box, Button, Slider } from "@mui/material";
import { FIGURES } from "../../theme";

export const MOST_WEIGHT = 2;

interface Props<Name extends string> {
  words: Record<Name, string>;
  usual: Record<Name, number>;
  weights: Record<Name, number>;
  onChange: (weights: Record<Name, number>) => void;
}

export function Weights<Name extends string>({ words, usual, weights, onChange }: Props<Name>) {
  const names = Object.keys(words) as Name[];
  const changed = names.some((name) => weights[name] !== usual[name]);
  return (
    <Box
      sx={{
        ...{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(16rem, 1fr))", columnGap: 3 },
        ...{ alignItems: "center", fontSize: "0.82rem" },
      }}
    >
      {names.map((name) => (
        <Box key={name} sx={{ display: "flex", alignItems: "center", gap: 1.2 }}>
          <Box sx={{ flex: "0 0 8em" }}>{words[name]}</Box>
          <Slider
            size="small"
            aria-label={words[name]}
            value={weights[name]}
            max={MOST_WEIGHT}
            step={0.1}
            onChange={(_, value) => onChange({ ...weights, [name]: value })}
            sx={{ py: 0.9 }}
          />
          <Box sx={{ fontFamily: FIGURES, flex: "0 0 2.2em", textAlign: "right" }}>
            {weights[name].toFixed(1)}
          </Box>
        </Box>
      ))}
      <Button
        size="small"
        disabled={!changed}
        onClick={() => onChange(usual)}
        sx={{ my: 0.4, justifySelf: "start" }}
      >
        As usual
      </Button>
    </Box>
  );
}
