/** What can be changed of the chosen cue. */
import {
  Autocomplete,
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  InputBase,
  MenuItem,
  Select,
} from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Cue } from "../../api/client";
import { coloursQuery, labelsQuery } from "../../api/queries";
import { KeyHint } from "../../components/key-hint";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { readableOn, shadeOf, type Palette } from "../../drawing/flags";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { COLOURS, cueActions } from "./cue-actions";
import { Tool } from "./tool";

const { cues: C } = KEYS;
const MOST_OFFERED = 6;

interface Props {
  cue: Cue;
  bench: Bench;
}

export function CueEditor({ cue, bench }: Props) {
  const act = cueActions(bench);
  return (
    <Box sx={{ pb: 1, display: "flex", flexDirection: "column", gap: 0.7 }}>
      <CueName label={cue.label} onSave={(label) => act.change({ label })} />
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
        <ColourChoice
          value={cue.colour}
          palette={bench.track.palette}
          onChange={(colour) => act.change({ colour })}
        />
        <PadChoice pad={cue.pad} onChange={(pad) => act.change({ pad })} />
      </Box>
      <LoopTools cue={cue} bench={bench} />
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Tool name="−1" tip="A beat earlier: Alt ←; 1 ms: ⇧ ←" onClick={() => act.moveChosenBy(-1)} />
        <Tool name="+1" tip="A beat later: Alt →; 1 ms: ⇧ →" onClick={() => act.moveChosenBy(1)} />
        <Tool name="To here" entry={C.toHere} onClick={act.moveChosenHere} />
        <Button color="error" onClick={act.deleteChosen} sx={{ px: 0.9 }}>
          Delete<KeyHint>{shown(C.remove)}</KeyHint>
        </Button>
      </Box>
    </Box>
  );
}

/** The labels used most that begin like what is typed. */
function offered(all: string[], typed: string): string[] {
  const begins = (each: string) => each.toLowerCase().startsWith(typed.toLowerCase()) && each !== typed;
  return typed ? all.filter(begins).slice(0, MOST_OFFERED) : [];
}

function CueName({ label, onSave }: { label: string; onSave: (label: string) => void }) {
  const labels = useQuery(labelsQuery).data ?? [];
  const [text, setText] = useState(label);
  const save = (next: string) => next !== label && onSave(next);
  return (
    <Autocomplete
      freeSolo
      disableClearable
      autoHighlight={false}
      options={labels}
      inputValue={text}
      onInputChange={(_, next) => setText(next)}
      onChange={(_, next) => save(next)}
      openOnFocus={false}
      filterOptions={(all, { inputValue }) => offered(all, inputValue)}
      renderInput={(params) => (
        <InputBase
          ref={params.slotProps.input.ref}
          id="cue-name"
          placeholder="Name (N)"
          inputProps={{
            ...params.slotProps.htmlInput,
            "aria-label": "Name of the cue",
            maxLength: 80,
            id: "cue-name",
          }}
          onBlur={() => save(text)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" && e.key !== "Escape") return;
            e.stopPropagation();
            window.setTimeout(() => (e.target as HTMLElement).blur());
          }}
          sx={FIELD}
        />
      )}
    />
  );
}

const FIELD = {
  ...{ width: "100%", fontSize: "0.85rem", px: 0.8, bgcolor: "background.paper" },
  ...{ border: 1, borderColor: "divider", borderRadius: "3px" },
};

function PadChoice({ pad, onChange }: { pad: number | null; onChange: (pad: number | null) => void }) {
  return (
    <Select
      variant="standard"
      MenuProps={{ disableRestoreFocus: true }}
      value={pad ?? 0}
      onChange={(e) => onChange(e.target.value === 0 ? null : Number(e.target.value))}
      inputProps={{ "aria-label": "Pad" }}
      sx={{ ml: "auto", fontSize: "0.8rem" }}
    >
      <MenuItem value={0}>no pad</MenuItem>
      {[1, 2, 3, 4, 5, 6, 7, 8].map((each) => (
        <MenuItem key={each} value={each}>
          pad {each}
        </MenuItem>
      ))}
    </Select>
  );
}

function LoopTools({ cue, bench }: Props) {
  const act = cueActions(bench);
  const beats = act.beatsOf(cue);
  if (beats === null) return null;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, alignItems: "center", fontSize: "0.8rem" }}>
      <Tool name="÷2" entry={C.loopShorter} onClick={act.halveLoop} />
      <Box sx={{ fontFamily: FIGURES, whiteSpace: "nowrap" }}>{Number(beats.toFixed(3))} beats</Box>
      <Tool name="×2" entry={C.loopLonger} onClick={act.doubleLoop} />
      <Tool name="On" entry={C.loopOn} onClick={act.moveLoopOn} />
      <FormControlLabel
        control={<Checkbox size="small" checked={cue.engages} onChange={act.toggleEngages} sx={{ p: 0.4 }} />}
        label="engages"
        title={C.engage.says}
        sx={{ ml: "auto", mr: 0, "& span": { fontSize: "0.76rem" } }}
      />
    </Box>
  );
}

function ColourChoice({
  value,
  palette,
  onChange,
}: {
  value: string;
  palette: Palette;
  onChange: (colour: (typeof COLOURS)[number]) => void;
}) {
  const { inks } = useTheme();
  const names = useQuery(coloursQuery).data;
  return COLOURS.map((colour) => {
    const shade = shadeOf(palette, colour, inks);
    const name = names?.find((each) => each.colour === colour)?.name ?? colour;
    return (
      <Box
        key={colour}
        component="button"
        type="button"
        aria-label={`Colour ${name}`}
        title={name}
        aria-pressed={colour === value}
        onClick={() => onChange(colour)}
        sx={{
          width: 22,
          height: 22,
          p: 0,
          borderRadius: "2px",
          cursor: "pointer",
          bgcolor: shade,
          color: readableOn(shade),
          fontSize: "0.68rem",
          border: colour === value ? `2px solid ${inks.paper}` : 0,
          outline: colour === value ? `2px solid ${inks.ink}` : "none",
        }}
      >
        {palette[colour]?.sign}
      </Box>
    );
  });
}
