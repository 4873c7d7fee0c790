import { Box, Button, Checkbox, FormControlLabel, InputBase, MenuItem, Select, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useState } from "react";
import type { Cue } from "../../api/client";
import { clock } from "../../components/format";
import { KeyHint } from "../../components/key-hint";
import { KEYS, shown } from "../../components/keys";
import { cueSign } from "../../drawing/page";
import type { TempoMap } from "../../drawing/tempo-map";
import { cueColour, FIGURES } from "../../theme";
import { benchActions, COLOURS } from "./bench-actions";
import type { Bench } from "./workbench-page";

const PHRASE_BARS = 8;

/** A track's cues and loops in order of time, with how many bars lie between them. */
export function CueList({ bench }: { bench: Bench }) {
  const { data, map } = bench;
  const act = benchActions(bench);
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between" }}>
        <Typography variant="overline">Cues</Typography>
        <Typography variant="overline">bars to next</Typography>
      </Box>
      <Box role="listbox" aria-label="Cues">
        {data.cues.map((cue, i) => (
          <CueRow key={cue.id} cue={cue} bars={barsToNext(map, cue, data.cues[i + 1])} chosen={cue.id === bench.chosenCue} onChoose={() => (cue.length_s === null ? act.jumpTo(cue) : act.playLoop(cue))}>
            {cue.id === bench.chosenCue && <CueEditor key={cue.id} cue={cue} bench={bench} />}
          </CueRow>
        ))}
      </Box>
      {!data.cues.length && <Box sx={{ color: "text.secondary", fontSize: "0.8rem", py: 0.8 }}>None yet. Play, and press C where one belongs; it lands on the beat.</Box>}
      <Box sx={{ display: "flex", gap: 0.6, mt: 1, flexWrap: "wrap" }}>
        <Button onClick={() => act.setCue({})}>Cue<KeyHint>{shown(KEYS.cues.cue)}</KeyHint></Button>
        <Button onClick={() => act.setRole("in", "In")}>In<KeyHint>{shown(KEYS.cues.in)}</KeyHint></Button>
        <Button onClick={() => act.setRole("main", "Main")}>Main<KeyHint>{shown(KEYS.cues.main)}</KeyHint></Button>
        <Button onClick={() => act.setRole("out", "Out")}>Out<KeyHint>{shown(KEYS.cues.out)}</KeyHint></Button>
      </Box>
    </Box>
  );
}

function barsToNext(map: TempoMap | null, cue: Cue, next: Cue | undefined): number | null {
  return map && next ? (map.beatAt(next.position_s) - map.beatAt(cue.position_s)) / map.beatsPerBar : null;
}

function CueRow({ cue, bars, chosen, onChoose, children }: { cue: Cue; bars: number | null; chosen: boolean; onChoose: () => void; children: React.ReactNode }) {
  const { inks } = useTheme();
  const odd = bars !== null && Math.abs(bars / PHRASE_BARS - Math.round(bars / PHRASE_BARS)) > 0.01;
  const name = cue.label || (cue.length_s === null ? "Cue" : "Loop");
  return (
    <Box sx={{ borderTop: 1, borderColor: "divider", bgcolor: chosen ? inks.chosenWash : "transparent", px: 0.5, mx: -0.5 }}>
      <Box role="option" aria-selected={chosen} tabIndex={0} onClick={onChoose} onKeyDown={(e) => e.key === "Enter" && (e.stopPropagation(), onChoose())}
        sx={{ display: "grid", gridTemplateColumns: "22px minmax(0, 1fr) auto auto", gap: 1, alignItems: "center", py: 0.55, cursor: "pointer" }}>
        <Box sx={{ width: 20, height: 20, borderRadius: "2px", bgcolor: cueColour(cue.colour, inks), color: inks.onStrong, fontFamily: FIGURES, fontSize: "0.72rem", fontWeight: 600, display: "grid", placeItems: "center" }}>{cueSign(cue)}</Box>
        <Box sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap", fontSize: "0.88rem" }}>{name}</Box>
        <Box sx={{ fontFamily: FIGURES, fontSize: "0.74rem", color: "text.secondary" }}>{clock(cue.position_s, true)}</Box>
        <Box title={odd ? "Not a whole number of 8-bar phrases" : undefined} sx={{ fontFamily: FIGURES, fontSize: "0.82rem", minWidth: 30, textAlign: "right", color: odd ? inks.now : inks.ink, fontWeight: odd ? 600 : 400 }}>
          {bars === null ? "" : `${Number(bars.toFixed(2))}${odd ? "!" : ""}`}
        </Box>
      </Box>
      {children}
    </Box>
  );
}

function CueEditor({ cue, bench }: { cue: Cue; bench: Bench }) {
  const { inks } = useTheme();
  const act = benchActions(bench);
  const [label, setLabel] = useState(cue.label);
  const change = (edit: Parameters<typeof bench.actions.changeCue.mutate>[0]["change"]) => bench.actions.changeCue.mutate({ cueId: cue.id, change: edit });
  const beats = bench.map && cue.length_s !== null ? bench.map.beatAt(cue.position_s + cue.length_s) - bench.map.beatAt(cue.position_s) : null;
  const saveLabel = () => label !== cue.label && change({ label });
  return (
    <Box sx={{ pb: 1, display: "flex", flexDirection: "column", gap: 0.7 }}>
      <InputBase id="cue-name" value={label} placeholder="Name (N)" onChange={(e) => setLabel(e.target.value)} onBlur={saveLabel} inputProps={{ "aria-label": "Name of the cue", maxLength: 80 }}
        onKeyDown={(e) => { if (e.key === "Enter" || e.key === "Escape") (e.target as HTMLElement).blur(); }}
        sx={{ fontSize: "0.85rem", px: 0.8, bgcolor: "background.paper", border: 1, borderColor: "divider", borderRadius: "3px" }} />
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
        {COLOURS.map((colour) => (
          <Box key={colour} component="button" type="button" aria-label={`Colour ${colour}`} title={colour} aria-pressed={colour === cue.colour} onClick={() => change({ colour })}
            sx={{ width: 20, height: 20, borderRadius: "2px", cursor: "pointer", bgcolor: cueColour(colour, inks), border: colour === cue.colour ? `2px solid ${inks.paper}` : 0, outline: colour === cue.colour ? `2px solid ${inks.ink}` : "none" }} />
        ))}
        <Select variant="standard" value={cue.pad ?? 0} onChange={(e) => change({ pad: e.target.value === 0 ? null : Number(e.target.value) })} inputProps={{ "aria-label": "Pad" }} sx={{ ml: "auto", fontSize: "0.8rem" }}>
          <MenuItem value={0}>no pad</MenuItem>
          {[1, 2, 3, 4, 5, 6, 7, 8].map((pad) => <MenuItem key={pad} value={pad}>pad {pad}</MenuItem>)}
        </Select>
      </Box>
      {beats !== null && (
        <Box sx={{ display: "flex", gap: 0.6, alignItems: "center", fontSize: "0.8rem" }}>
          <Button onClick={() => change({ length_beats: beats / 2 })} aria-label="Halve the loop">÷2</Button>
          <Box sx={{ fontFamily: FIGURES }}>{Number(beats.toFixed(3))} beats</Box>
          <Button onClick={() => change({ length_beats: beats * 2 })} aria-label="Double the loop">×2</Button>
          <FormControlLabel control={<Checkbox size="small" checked={cue.engages} onChange={(e) => change({ engages: e.target.checked })} sx={{ p: 0.4 }} />} label="engages" sx={{ ml: "auto", mr: 0, "& span": { fontSize: "0.78rem" } }} />
        </Box>
      )}
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Button onClick={() => act.moveChosenBy(-1)} aria-label="A beat earlier">−1</Button>
        <Button onClick={() => act.moveChosenBy(1)} aria-label="A beat later">+1</Button>
        <Button onClick={act.moveChosenHere}>To here<KeyHint>{shown(KEYS.cues.toHere)}</KeyHint></Button>
        <Button color="error" onClick={act.deleteChosen}>Delete<KeyHint>{shown(KEYS.cues.remove)}</KeyHint></Button>
      </Box>
    </Box>
  );
}
