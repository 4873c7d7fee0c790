/** A track's cues, loops and proposals in order of time, with how many bars lie between them. */
import { Box, Typography } from "@mui/material";
import type { Cue } from "../../api/client";
import { plural } from "../../components/format";
import type { TempoMap } from "../../drawing/tempo-map";
import { isLocked, type Bench } from "./bench";
import { cueActions } from "./cue-actions";
import { CueEditor } from "./cue-editor";
import { CueRow, GhostRow } from "./cue-row";
import { CueTools } from "./cue-tools";

export function CueList({ bench }: { bench: Bench }) {
  const { data, map } = bench.track;
  const off = isLocked(bench, "cues");
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "baseline" }}>
        <Typography variant="overline">{leadIn(map, data.cues) || "Cues"}</Typography>
        <Typography variant="overline" title="Whole 8-bar phrases are plain; others are marked">
          bars to next
        </Typography>
      </Box>
      {off && (
        <Box sx={{ fontSize: "0.8rem", color: "secondary.main" }}>
          The cues are locked. Press ⇧ L to change them.
        </Box>
      )}
      <Rows bench={bench} off={off} />
      <CueTools bench={bench} off={off} />
    </Box>
  );
}

function Rows({ bench, off }: { bench: Bench; off: boolean }) {
  const { data, proposals } = bench.track;
  const act = cueActions(bench);
  const entries = [
    ...data.cues.map((cue) => ({ cue, at: cue.position_s })),
    ...proposals.map((proposal) => ({ proposal, at: proposal.position_s })),
  ].sort((a, b) => a.at - b.at);
  if (!entries.length)
    return (
      <Box sx={{ color: "text.secondary", fontSize: "0.8rem", py: 0.8 }}>
        None yet. Play, and press C where one belongs; it lands on the beat.
      </Box>
    );
  return (
    <Box role="listbox" aria-label="Cues">
      {entries.map((entry) => {
        if ("proposal" in entry)
          return (
            <GhostRow key={`${entry.proposal.label}${entry.at}`} proposal={entry.proposal} bench={bench} />
          );
        const { cue } = entry;
        const choose = () => (cue.length_s === null ? act.jumpTo(cue) : act.playLoop(cue));
        return (
          <CueRow key={cue.id} cue={cue} bench={bench} onChoose={choose}>
            {cue.id === bench.chosen.cue && !off && <CueEditor key={cue.id} cue={cue} bench={bench} />}
          </CueRow>
        );
      })}
    </Box>
  );
}

/** "In to main: 4 phrases". */
function leadIn(map: TempoMap | null, cues: Cue[]): string {
  const [start, main] = ["in", "main"].map((role) => cues.find((cue) => cue.role === role));
  if (!map || !start || !main) return "";
  const phrases = map.beatsBetween(start.position_s, main.position_s) / map.phraseBeats;
  const whole = Math.abs(phrases - Math.round(phrases)) < 0.01;
  return `In to main: ${whole ? plural(Math.round(phrases), "phrase") : `${phrases.toFixed(2)} phrases !`}`;
}
