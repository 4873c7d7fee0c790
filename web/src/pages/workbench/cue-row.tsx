/** A cue, a loop or a proposal as a row of the list. */
import { Box, Button } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import type { Cue, Proposal } from "../../api/client";
import { clock } from "../../components/format";
import { engine } from "../../audio/engine";
import { useItemMenu, type ItemMenu } from "../../components/item-menu";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { cueSign, readableOn, shadeOf } from "../../drawing/flags";
import { FIGURES } from "../../theme";
import { isLocked, type Bench } from "./bench";
import type { CueEdit } from "./use-track-actions";
import { cueActions } from "./cue-actions";

const { cues: C } = KEYS;

interface RowProps {
  cue: Cue;
  bench: Bench;
  onChoose: () => void;
  children: React.ReactNode;
}

export function CueRow({ cue, bench, onChoose, children }: RowProps) {
  const { inks } = useTheme();
  const { palette, data } = bench.track;
  const chosen = cue.id === bench.chosen.cue;
  const menu = useCueMenu(cue, bench, onChoose);
  return (
    <Box
      sx={{
        ...{ borderTop: 1, borderColor: "divider", px: 0.5, mx: -0.5 },
        bgcolor: chosen ? inks.chosenWash : "transparent",
      }}
    >
      <Box
        role="option"
        aria-selected={chosen}
        tabIndex={0}
        onClick={onChoose}
        {...menu.handlers}
        onKeyDown={(e) => {
          menu.handlers.onKeyDown(e);
          if (e.key !== "Enter") return;
          e.stopPropagation();
          onChoose();
        }}
        sx={{
          ...{ display: "grid", gridTemplateColumns: "22px minmax(0, 1fr) auto auto", gap: 0.9 },
          ...{ alignItems: "center", py: 0.35, cursor: "pointer" },
        }}
      >
        <Badge shade={shadeOf(palette, cue.colour, inks)}>{cueSign(cue, palette)}</Badge>
        <Name cue={cue} bench={bench} />
        <Box sx={{ fontFamily: FIGURES, fontSize: "0.72rem", lineHeight: 1.25, textAlign: "right" }}>
          {clock(cue.position_s, true)}
          <Box title="To the track’s end" sx={{ color: "text.secondary", fontSize: "0.66rem" }}>
            −{clock(data.track.duration_s - cue.position_s)}
          </Box>
        </Box>
        <BarsToNext cue={cue} bench={bench} />
      </Box>
      {children}
      {menu.menu}
    </Box>
  );
}

function useCueMenu(cue: Cue, bench: Bench, onChoose: () => void): ItemMenu {
  const { actions, data } = bench.track;
  const off = isLocked(bench, "cues");
  const change = (edit: CueEdit) => () => actions.changeCue.mutate({ cueId: cue.id, change: edit });
  const free = [1, 2, 3, 4, 5, 6, 7, 8].find((pad) => data.cues.every((each) => each.pad !== pad));
  return useItemMenu("With this cue", () => [
    { words: "Choose it and jump to it", act: onChoose, hint: "↑ ↓" },
    {
      words: "Shift it to where the sound is",
      act: () => change({ position_s: engine.position(), snap: bench.settings.snap })(),
      hint: shown(C.toHere),
      off,
    },
    cue.pad === null
      ? {
          words: "Onto a free pad",
          act: change({ pad: free ?? null }),
          hint: shown(C.onPad),
          off: off || !free,
        }
      : { words: `Off pad ${cue.pad}`, act: change({ pad: null }), hint: shown(C.onPad), off },
    ...(cue.length_s === null
      ? []
      : [{ words: "Engages by itself", on: cue.engages, act: change({ engages: !cue.engages }), off }]),
    { words: "Delete", act: () => actions.deleteCue.mutate(cue.id), hint: shown(C.remove), off, apart: true },
  ]);
}

function Badge({ shade, children }: { shade: string; children: React.ReactNode }) {
  return (
    <Box
      sx={{
        ...{ width: 20, height: 20, borderRadius: "2px", display: "grid", placeItems: "center" },
        ...{ bgcolor: shade, color: readableOn(shade) },
        ...{ fontFamily: FIGURES, fontSize: "0.72rem", fontWeight: 600 },
      }}
    >
      {children}
    </Box>
  );
}

function Name({ cue, bench }: { cue: Cue; bench: Bench }) {
  const { inks } = useTheme();
  const { palette } = bench.track;
  return (
    <Box sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap", fontSize: "0.86rem" }}>
      {cue.label || (cue.length_s === null ? "Cue" : "Loop")}
      <Box
        component="span"
        aria-hidden
        sx={{ color: shadeOf(palette, cue.colour, inks), fontSize: "0.7rem", ml: 0.6 }}
      >
        {palette[cue.colour]?.sign}
      </Box>
      {cue.engages && (
        <Box component="span" title="Engages by itself" sx={{ ml: 0.5 }}>
          ↻
        </Box>
      )}
    </Box>
  );
}

/** Whole phrases are plain; what is not is marked. */
function BarsToNext({ cue, bench }: { cue: Cue; bench: Bench }) {
  const { inks } = useTheme();
  const { data, map } = bench.track;
  const next = data.cues[data.cues.indexOf(cue) + 1];
  if (!map || !next) return <Box sx={{ minWidth: 30 }} />;
  const beats = map.beatsBetween(cue.position_s, next.position_s);
  const phrases = beats / map.phraseBeats;
  const whole = Math.round(phrases);
  const odd = Math.abs(phrases - whole) > 0.01;
  return (
    <Box
      title={
        odd ? `${phrases.toFixed(2)} phrases: not a whole number` : `${whole} phrase${whole === 1 ? "" : "s"}`
      }
      sx={{
        ...{ fontFamily: FIGURES, fontSize: "0.82rem", minWidth: 30, textAlign: "right" },
        color: odd ? inks.now : inks.ink,
        fontWeight: odd ? 600 : 400,
      }}
    >
      {`${Number((beats / map.beatsPerBar).toFixed(2))}${odd ? "!" : ""}`}
    </Box>
  );
}

const FROM_FILE = "A chapter mark of the file itself: it is set where it stands, whatever the grid says";

export function GhostRow({ proposal, bench }: { proposal: Proposal; bench: Bench }) {
  const act = cueActions(bench);
  const first = proposal === bench.track.proposals[0];
  return (
    <Box
      data-proposal={proposal.role ?? proposal.label}
      sx={{
        borderTop: 1,
        borderColor: "divider",
        px: 0.5,
        mx: -0.5,
        py: 0.2,
        display: "grid",
        gridTemplateColumns: "22px minmax(0, 1fr) auto auto",
        gap: 0.9,
        alignItems: "center",
        fontSize: "0.84rem",
        fontStyle: "italic",
        color: "text.secondary",
      }}
    >
      <Box
        sx={{
          width: 20,
          height: 18,
          border: "1px dashed currentcolor",
          borderRadius: "2px",
          display: "grid",
          placeItems: "center",
          fontSize: "0.7rem",
        }}
      >
        ?
      </Box>
      <Box sx={{ overflowWrap: "anywhere" }} title={proposal.from_file ? FROM_FILE : undefined}>
        {proposal.label}
        {proposal.length_s !== null && `, loop of ${proposal.length_s.toFixed(1)} s`}
        {proposal.from_file && <Box sx={{ fontSize: "0.7rem", fontStyle: "normal" }}>from the file</Box>}
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.72rem", fontStyle: "normal" }}>
        {clock(proposal.position_s, true)}
      </Box>
      <Button
        disabled={isLocked(bench, "cues")}
        onClick={() => act.accept(proposal)}
        aria-label={`Accept ${proposal.label}`}
        sx={{ py: 0, px: 0.7, fontSize: "0.72rem" }}
      >
        Accept{first && <KeyHint>{shown(C.accept)}</KeyHint>}
      </Button>
    </Box>
  );
}
