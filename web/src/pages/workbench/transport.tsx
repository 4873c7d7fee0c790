/** The bar below the Workbench: playing, stepping, looping. */
import { Box, MenuItem, Select, Slider, Tooltip } from "@mui/material";
import { useRef } from "react";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { shown } from "../../components/key-map";
import { KeyHint } from "../../components/key-hint";
import { KEYS } from "../../components/keys";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { cueActions } from "./cue-actions";
import { listenActions, STEPS } from "./listen-actions";
import { Tool } from "./tool";
import { usePlayhead } from "../../audio/use-engine";

const NoIcon = () => null;
const LOOPS = [0.25, 0.5, 1, 2, 4, 8, 16, 32, 64];
const PACE_NAMES = { full: "Full speed", half: "Half speed", "half, lower": "Half, lower" };

/** Listening: each button with its key. */
export function Transport({ bench }: { bench: Bench }) {
  const { state, goTo } = bench.transport;
  const noGrid = !bench.track.map;
  return (
    <Box
      component="footer"
      sx={(theme) => ({
        ...{ gridColumn: "1 / -1", bgcolor: theme.inks.bar, borderTop: `2px solid ${theme.inks.ink}` },
        ...{ display: "flex", alignItems: "center", flexWrap: "wrap" },
        ...{ px: 1.6, py: 0.9, columnGap: 0.6, rowGap: 0.6 },
      })}
    >
      <PlayButton playing={state.playing || state.waiting} />
      {state.waiting && <Waiting />}
      <Clock bench={bench} />
      <StepChoice bench={bench} />
      <Listening bench={bench} />
      <Tool
        name="Click"
        entry={KEYS.listen.click}
        on={state.click}
        disabled={noGrid}
        onClick={() => engine.setClick(!state.click)}
      />
      <ClickVolume bench={bench} />
      <Box sx={{ flex: 1 }} />
      <LoopChoice bench={bench} />
      <Tool
        name={state.loop ? "Leave loop" : "Loop"}
        entry={KEYS.cues.loop}
        on={state.loop !== null}
        disabled={noGrid}
        onClick={cueActions(bench).loop}
      />
      <Tool name="Next" entry={KEYS.track.next} onClick={() => goTo(1)} />
    </Box>
  );
}

function Listening({ bench }: { bench: Bench }) {
  const act = listenActions(bench);
  const { state } = bench.transport;
  const { listen } = KEYS;
  const noGrid = !bench.track.map;
  return (
    <>
      <Tool
        name={state.way === "walk" ? "Walking" : "Walk"}
        entry={listen.walk}
        on={state.way === "walk"}
        tip={`${listen.walk.says}, to the end: does the grid hold all the way?`}
        disabled={noGrid}
        onClick={act.walk}
      />
      <Tool name="Back & listen" entry={listen.again} onClick={act.backAndListen} />
      <Tool
        name={PACE_NAMES[state.pace]}
        entry={listen.pace}
        on={state.pace !== "full"}
        onClick={act.nextPace}
      />
      <Tool name="Count in" entry={listen.countIn} disabled={noGrid} onClick={() => void engine.play(true)} />
    </>
  );
}

function StepChoice({ bench }: { bench: Bench }) {
  const { step, setStep } = bench.settings;
  return (
    <Tooltip title="Steps: [ shorter, ] longer">
      <Select
        size="small"
        MenuProps={{ disableRestoreFocus: true }}
        value={step}
        onChange={(e) => setStep(Number(e.target.value))}
        inputProps={{ "aria-label": "Step" }}
        sx={small}
        IconComponent={NoIcon}
        renderValue={(v) => (
          <>
            {stepName(v)}
            <KeyHint>← →</KeyHint>
          </>
        )}
      >
        {STEPS.map((beats) => (
          <MenuItem key={beats} value={beats}>
            {stepName(beats)}
          </MenuItem>
        ))}
      </Select>
    </Tooltip>
  );
}

function ClickVolume({ bench }: { bench: Bench }) {
  const { clickGain, setClickGain } = bench.settings;
  return (
    <Tooltip title="How loud the click is: Alt ↑, Alt ↓">
      <Slider
        size="small"
        value={clickGain}
        min={0}
        max={1}
        step={0.1}
        onChange={(_, gain) => setClickGain(gain)}
        aria-label="Click volume"
        sx={{ width: 58, mx: 0.8 }}
      />
    </Tooltip>
  );
}

function LoopChoice({ bench }: { bench: Bench }) {
  const { loopBeats, setLoopBeats } = bench.settings;
  return (
    <Select
      size="small"
      MenuProps={{ disableRestoreFocus: true }}
      value={loopBeats}
      onChange={(e) => setLoopBeats(Number(e.target.value))}
      inputProps={{ "aria-label": "Loop length in beats" }}
      sx={small}
      IconComponent={NoIcon}
      renderValue={(v) => loopName(v)}
    >
      {LOOPS.map((beats) => (
        <MenuItem key={beats} value={beats}>
          {loopName(beats)}
        </MenuItem>
      ))}
    </Select>
  );
}

const small = {
  fontSize: "0.82rem",
  fontWeight: 600,
  height: 30,
  bgcolor: "background.paper",
  "& .MuiSelect-select": { pl: 1.1, pr: "9px !important" },
};

function stepName(beats: number): string {
  return beats === 0 ? "phrase" : `${beats} beat${beats === 1 ? "" : "s"}`;
}

function loopName(beats: number): string {
  if (beats < 1) return beats === 0.5 ? "½ beat" : "¼ beat";
  if (beats % 4 === 0) return `${beats / 4} bar${beats === 4 ? "" : "s"}`;
  return `${beats} beat${beats === 1 ? "" : "s"}`;
}

function Waiting() {
  return (
    <Box role="status" sx={{ fontSize: "0.82rem", color: "text.secondary" }}>
      The sound is on its way…
    </Box>
  );
}

function PlayButton({ playing }: { playing: boolean }) {
  return (
    <Tooltip title={`${playing ? "Pause" : "Play"} (${shown(KEYS.listen.play)})`}>
      <Box
        component="button"
        type="button"
        aria-label={playing ? "Pause" : "Play"}
        onClick={() => engine.toggle()}
        sx={(theme) => ({
          width: 38,
          height: 38,
          borderRadius: "50%",
          border: 0,
          bgcolor: theme.inks.now,
          color: theme.inks.onStrong,
          cursor: "pointer",
          display: "grid",
          placeItems: "center",
          flex: "none",
        })}
      >
        <svg width="14" height="14" viewBox="0 0 14 14" fill="currentColor" aria-hidden>
          {playing ? <path d="M2 1h3.5v12H2zM8.5 1H12v12H8.5z" /> : <path d="M3 1l10 6-10 6z" />}
        </svg>
      </Box>
    </Tooltip>
  );
}

function Clock({ bench }: { bench: Bench }) {
  const time = useRef<HTMLSpanElement>(null);
  const bar = useRef<HTMLSpanElement>(null);
  usePlayhead(
    (now) => {
      if (time.current) time.current.textContent = clock(now, true);
      if (bar.current)
        bar.current.textContent = bench.track.map ? `bar ${bench.track.map.barAndBeat(now)}` : "";
    },
    [bench.track.map],
  );
  return (
    <Box
      sx={{
        fontFamily: FIGURES,
        display: "flex",
        alignItems: "baseline",
        gap: 1.2,
        ml: 0.8,
        minWidth: "9.9rem",
      }}
    >
      <Box component="span" ref={time} data-testid="time" sx={{ fontSize: "1.15rem", minWidth: "4.2rem" }} />
      <Box
        component="span"
        ref={bar}
        data-testid="bar"
        sx={{ fontSize: "0.86rem", color: "text.secondary" }}
      />
    </Box>
  );
}
