import {
  Autocomplete,
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  InputBase,
  MenuItem,
  Select,
  Typography,
} from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Cue, Proposal } from "../../api/client";
import { coloursQuery, labelsQuery } from "../../api/queries";
import { clock } from "../../components/format";
import { shown } from "../../components/key-map";
import { KeyHint } from "../../components/key-hint";
import { KEYS } from "../../components/keys";
import { cueSign, readableOn, shadeOf, type Palette } from "../../drawing/flags";
import type { TempoMap } from "../../drawing/tempo-map";
import { FIGURES } from "../../theme";
import { isLocked, type Bench, type Snap } from "./bench";
import { COLOURS, cueActions, SNAPS } from "./cue-actions";
import { Tool } from "./tool";

const { cues: C } = KEYS;

/** A track's cues, loops and proposals in order of time, with how many bars lie between them. */
export function CueList({ bench }: { bench: Bench }) {
  const { data, map, proposals } = bench.track;
  const act = cueActions(bench);
  const off = isLocked(bench, "cues");
  const entries = [
    ...data.cues.map((cue) => ({ cue, at: cue.position_s })),
    ...proposals.map((proposal) => ({ proposal, at: proposal.position_s })),
  ].sort((a, b) => a.at - b.at);
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
      <Box role="listbox" aria-label="Cues">
        {entries.map((entry) => {
          if ("proposal" in entry)
            return (
              <GhostRow key={`${entry.proposal.label}${entry.at}`} proposal={entry.proposal} bench={bench} />
            );
          const { cue } = entry;
          const next = data.cues[data.cues.indexOf(cue) + 1];
          return (
            <CueRow
              key={cue.id}
              cue={cue}
              bench={bench}
              next={next}
              onChoose={() => (cue.length_s === null ? act.jumpTo(cue) : act.playLoop(cue))}
            >
              {cue.id === bench.chosen.cue && !off && <CueEditor key={cue.id} cue={cue} bench={bench} />}
            </CueRow>
          );
        })}
      </Box>
      {!entries.length && (
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem", py: 0.8 }}>
          None yet. Play, and press C where one belongs; it lands on the beat.
        </Box>
      )}
      <Box sx={{ display: "flex", gap: 0.5, mt: 1, flexWrap: "wrap" }}>
        <Tool name="Cue" entry={C.cue} disabled={off} onClick={() => act.setCue({})} />
        <Tool name="In" entry={C.in} disabled={off} onClick={() => act.setRole("in", "In")} />
        <Tool name="Main" entry={C.main} disabled={off} onClick={() => act.setRole("main", "Main")} />
        <Tool name="Out" entry={C.out} disabled={off} onClick={() => act.setRole("out", "Out")} />
        {proposals.length > 0 && (
          <Tool
            name={`Accept ${proposals.length}`}
            entry={C.acceptAll}
            disabled={off}
            onClick={act.acceptAll}
          />
        )}
        <Select
          size="small"
          MenuProps={{ disableRestoreFocus: true }}
          value={bench.settings.snap}
          onChange={(e) => bench.settings.setSnap(e.target.value as Snap)}
          inputProps={{ "aria-label": "Snap to" }}
          title={C.snap.says}
          sx={{ fontSize: "0.8rem", height: 28, bgcolor: "background.paper" }}
          renderValue={(v) => (
            <>
              snap: {v}
              <KeyHint>{shown(C.snap)}</KeyHint>
            </>
          )}
        >
          {SNAPS.map((snap) => (
            <MenuItem key={snap} value={snap}>
              {snap}
            </MenuItem>
          ))}
        </Select>
        <Tool name="Template…" entry={C.template} disabled={!map} onClick={() => bench.ask("template")} />
        {data.cues.length > 0 && (
          <Tool
            name="Onto grid…"
            entry={C.ontoGrid}
            disabled={off || !map}
            onClick={() => bench.ask("onto grid")}
          />
        )}
        {data.cues.some((cue) => cue.pad !== null) && (
          <Tool
            name="Number pads"
            entry={C.number}
            disabled={off}
            onClick={() => bench.track.actions.numberPads.mutate(undefined)}
          />
        )}
        <Tool
          name="Colours…"
          tip="Give the colours of cues names, signs and shades of your own"
          onClick={() => bench.ask("colours")}
        />
      </Box>
    </Box>
  );
}

/** "In to main: 4 phrases". */
function leadIn(map: TempoMap | null, cues: Cue[]): string {
  const [start, main] = ["in", "main"].map((role) => cues.find((cue) => cue.role === role));
  if (!map || !start || !main) return "";
  const phrases = map.beatsBetween(start.position_s, main.position_s) / map.phraseBeats;
  const whole = Math.abs(phrases - Math.round(phrases)) < 0.01;
  return `In to main: ${whole ? Math.round(phrases) : phrases.toFixed(2)} phrase${phrases === 1 ? "" : "s"}${whole ? "" : " !"}`;
}

function CueRow({
  cue,
  bench,
  next,
  onChoose,
  children,
}: {
  cue: Cue;
  bench: Bench;
  next: Cue | undefined;
  onChoose: () => void;
  children: React.ReactNode;
}) {
  const { inks } = useTheme();
  const { map, palette, data } = bench.track;
  const shade = shadeOf(palette, cue.colour, inks);
  const chosen = cue.id === bench.chosen.cue;
  const bars = map && next ? map.beatsBetween(cue.position_s, next.position_s) / map.beatsPerBar : null;
  const phrases = bars !== null && map ? (bars * map.beatsPerBar) / map.phraseBeats : null;
  const odd = phrases !== null && Math.abs(phrases - Math.round(phrases)) > 0.01;
  const name = cue.label || (cue.length_s === null ? "Cue" : "Loop");
  const away =
    phrases === null
      ? undefined
      : odd
        ? `${phrases.toFixed(2)} phrases: not a whole number`
        : `${Math.round(phrases)} phrase${Math.round(phrases) === 1 ? "" : "s"}`;
  return (
    <Box
      sx={{
        borderTop: 1,
        borderColor: "divider",
        bgcolor: chosen ? inks.chosenWash : "transparent",
        px: 0.5,
        mx: -0.5,
      }}
    >
      <Box
        role="option"
        aria-selected={chosen}
        tabIndex={0}
        onClick={onChoose}
        onKeyDown={(e) => e.key === "Enter" && (e.stopPropagation(), onChoose())}
        sx={{
          display: "grid",
          gridTemplateColumns: "22px minmax(0, 1fr) auto auto",
          gap: 0.9,
          alignItems: "center",
          py: 0.35,
          cursor: "pointer",
        }}
      >
        <Box
          sx={{
            width: 20,
            height: 20,
            borderRadius: "2px",
            bgcolor: shade,
            color: readableOn(shade),
            fontFamily: FIGURES,
            fontSize: "0.72rem",
            fontWeight: 600,
            display: "grid",
            placeItems: "center",
          }}
        >
          {cueSign(cue, palette)}
        </Box>
        <Box sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap", fontSize: "0.86rem" }}>
          {name}
          <Box component="span" aria-hidden sx={{ color: shade, fontSize: "0.7rem", ml: 0.6 }}>
            {palette[cue.colour]?.sign}
          </Box>
          {cue.engages && (
            <Box component="span" title="Engages by itself" sx={{ ml: 0.5 }}>
              ↻
            </Box>
          )}
        </Box>
        <Box sx={{ fontFamily: FIGURES, fontSize: "0.72rem", lineHeight: 1.25, textAlign: "right" }}>
          {clock(cue.position_s, true)}
          <Box title="To the track’s end" sx={{ color: "text.secondary", fontSize: "0.66rem" }}>
            −{clock(data.track.duration_s - cue.position_s)}
          </Box>
        </Box>
        <Box
          title={away}
          sx={{
            fontFamily: FIGURES,
            fontSize: "0.82rem",
            minWidth: 30,
            textAlign: "right",
            color: odd ? inks.now : inks.ink,
            fontWeight: odd ? 600 : 400,
          }}
        >
          {bars === null ? "" : `${Number(bars.toFixed(2))}${odd ? "!" : ""}`}
        </Box>
      </Box>
      {children}
    </Box>
  );
}

function GhostRow({ proposal, bench }: { proposal: Proposal; bench: Bench }) {
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
      <span>{proposal.label}</span>
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

function CueEditor({ cue, bench }: { cue: Cue; bench: Bench }) {
  const act = cueActions(bench);
  const labels = useQuery(labelsQuery).data ?? [];
  const [label, setLabel] = useState(cue.label);
  const beats = act.beatsOf(cue);
  const save = (text: string) => text !== cue.label && act.change({ label: text });
  return (
    <Box sx={{ pb: 1, display: "flex", flexDirection: "column", gap: 0.7 }}>
      <Autocomplete
        freeSolo
        disableClearable
        autoHighlight={false}
        options={labels}
        inputValue={label}
        onInputChange={(_, text) => setLabel(text)}
        onChange={(_, text) => save(text)}
        openOnFocus={false}
        filterOptions={(all, { inputValue }) =>
          all
            .filter(
              (each) =>
                inputValue && each.toLowerCase().startsWith(inputValue.toLowerCase()) && each !== inputValue,
            )
            .slice(0, 6)
        }
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
            onBlur={() => save(label)}
            onKeyDown={(e) => {
              if (e.key !== "Enter" && e.key !== "Escape") return;
              e.stopPropagation();
              window.setTimeout(() => (e.target as HTMLElement).blur());
            }}
            sx={{
              width: "100%",
              fontSize: "0.85rem",
              px: 0.8,
              bgcolor: "background.paper",
              border: 1,
              borderColor: "divider",
              borderRadius: "3px",
            }}
          />
        )}
      />
      <Box sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
        <ColourChoice
          value={cue.colour}
          palette={bench.track.palette}
          onChange={(colour) => act.change({ colour })}
        />
        <Select
          variant="standard"
          MenuProps={{ disableRestoreFocus: true }}
          value={cue.pad ?? 0}
          onChange={(e) => act.change({ pad: e.target.value === 0 ? null : Number(e.target.value) })}
          inputProps={{ "aria-label": "Pad" }}
          sx={{ ml: "auto", fontSize: "0.8rem" }}
        >
          <MenuItem value={0}>no pad</MenuItem>
          {[1, 2, 3, 4, 5, 6, 7, 8].map((pad) => (
            <MenuItem key={pad} value={pad}>
              pad {pad}
            </MenuItem>
          ))}
        </Select>
      </Box>
      {beats !== null && (
        <Box sx={{ display: "flex", gap: 0.5, alignItems: "center", fontSize: "0.8rem" }}>
          <Tool name="÷2" entry={C.loopShorter} onClick={act.halveLoop} />
          <Box sx={{ fontFamily: FIGURES, whiteSpace: "nowrap" }}>{Number(beats.toFixed(3))} beats</Box>
          <Tool name="×2" entry={C.loopLonger} onClick={act.doubleLoop} />
          <Tool name="On" entry={C.loopOn} onClick={act.moveLoopOn} />
          <FormControlLabel
            control={
              <Checkbox size="small" checked={cue.engages} onChange={act.toggleEngages} sx={{ p: 0.4 }} />
            }
            label="engages"
            title={C.engage.says}
            sx={{ ml: "auto", mr: 0, "& span": { fontSize: "0.76rem" } }}
          />
        </Box>
      )}
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
