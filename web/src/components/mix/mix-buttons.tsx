/** What is done with a mix, each on a button that shows its key. */
import { Box, Button } from "@mui/material";
import { KeyHint } from "../key-hint";
import { shown, useKeyMap } from "../key-map";
import { KEYS } from "../keys";
import type { Step } from "./mix-changes";

export type MixActs = Record<
  | "hear"
  | "again"
  | "earlier"
  | "later"
  | "inEarlier"
  | "inLater"
  | "step"
  | "shorter"
  | "longer"
  | "drops"
  | "out"
  | "into"
  | "meet"
  | "fade"
  | "low"
  | "works"
  | "worksNot",
  () => void
>;

interface Props {
  acts: MixActs;
  step: Step;
  works: boolean | null;
  disabled: boolean;
  /** What ↑ and ↓ lead to. */
  steps?: string;
}

const SAYS: [keyof MixActs, string][] = [
  ["earlier", "Out earlier"],
  ["later", "Out later"],
  ["inEarlier", "In earlier"],
  ["inLater", "In later"],
  ["shorter", "Shorter"],
  ["longer", "Longer"],
  ["drops", "Drops meet"],
  ["out", "Out at…"],
  ["into", "In at…"],
  ["meet", "Tempo"],
  ["fade", "Fades"],
  ["low", "Low end"],
];
const KEY_OF: Partial<Record<keyof MixActs, string>> = {
  earlier: "←", later: "→", inEarlier: ",", inLater: ".", shorter: "⇧ ←", longer: "⇧ →",
}; // prettier-ignore

export function MixButtons({ acts, step, works, disabled, steps }: Props) {
  useKeyMap();
  const button = (name: keyof MixActs, words: string) => (
    <Button key={name} size="small" disabled={disabled} onClick={acts[name]} title={KEYS.mix[name].says}>
      {words} <KeyHint>{KEY_OF[name] ?? shown(KEYS.mix[name])}</KeyHint>
    </Button>
  );
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.6, mt: 1, alignItems: "center" }}>
      <Button size="small" variant="contained" disabled={disabled} onClick={acts.hear}>
        Hear it <KeyHint>{shown(KEYS.mix.hear)}</KeyHint>
      </Button>
      <Button size="small" onClick={acts.step} title={KEYS.mix.step.says}>
        by a {step} <KeyHint>{shown(KEYS.mix.step)}</KeyHint>
      </Button>
      {SAYS.map(([name, words]) => button(name, words))}
      <Box sx={{ flex: 1 }} />
      <Verdict name="works" words="Works" on={works === true} acts={acts} disabled={disabled} />
      <Verdict name="worksNot" words="Does not" on={works === false} acts={acts} disabled={disabled} />
      {steps && (
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
          {steps} <KeyHint>↑ ↓</KeyHint>
        </Box>
      )}
    </Box>
  );
}

interface VerdictProps {
  name: "works" | "worksNot";
  words: string;
  on: boolean;
  acts: MixActs;
  disabled: boolean;
}

function Verdict({ name, words, on, acts, disabled }: VerdictProps) {
  return (
    <Button
      size="small"
      disabled={disabled}
      onClick={acts[name]}
      aria-pressed={on}
      variant={on ? "contained" : "outlined"}
      color={on ? "secondary" : "inherit"}
      title={KEYS.mix[name].says}
    >
      {words} <KeyHint>{shown(KEYS.mix[name])}</KeyHint>
    </Button>
  );
}
