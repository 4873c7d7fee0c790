import { Box, Button, MenuItem, Select, Tooltip } from "@mui/material";
import { useRef } from "react";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { KeyHint } from "../../components/key-hint";
import { KEYS, shown } from "../../components/keys";
import { FIGURES } from "../../theme";
import { benchActions, STEPS } from "./bench-actions";
import { usePlayhead } from "./use-engine";
import type { Bench } from "./workbench-page";

const NoIcon = () => null;
const LOOPS = [1, 2, 4, 8, 16, 32, 64];

/** Listening on the left, the grid on the right; each button with its key. */
export function Transport({ bench }: { bench: Bench }) {
  const act = benchActions(bench);
  const { state, actions } = bench;
  const { listen, grid } = KEYS;
  const noGrid = !bench.map;
  return (
    <Box component="footer" sx={(theme) => ({ gridColumn: "1 / -1", bgcolor: theme.inks.bar, borderTop: `2px solid ${theme.inks.ink}`, px: 1.6, py: 0.9, display: "flex", alignItems: "center", flexWrap: "wrap", columnGap: 0.6, rowGap: 0.6 })}>
      <PlayButton playing={state.playing} />
      <Clock bench={bench} />
      <Tooltip title={`Steps of ${bench.step} beats: [ shorter, ] longer`}>
        <Select size="small" value={bench.step} onChange={(e) => bench.setStep(Number(e.target.value))} inputProps={{ "aria-label": "Step in beats" }} sx={(theme) => ({ fontSize: "0.82rem", fontWeight: 600, height: 30, bgcolor: theme.inks.paper, "& .MuiSelect-select": { pl: 1.1, pr: "9px !important" } })} IconComponent={NoIcon} renderValue={(v) => <>{v} beat{v === 1 ? "" : "s"}<KeyHint>← →</KeyHint></>}>
          {STEPS.map((beats) => <MenuItem key={beats} value={beats}>{beats} beat{beats === 1 ? "" : "s"}</MenuItem>)}
        </Select>
      </Tooltip>
      <Tool name="Click" hint={shown(listen.click)} on={state.click} tip={listen.click.says} disabled={noGrid} onClick={() => engine.setClick(!state.click)} />
      <Select size="small" value={bench.loopBeats} onChange={(e) => bench.setLoopBeats(Number(e.target.value))} inputProps={{ "aria-label": "Loop length in beats" }} sx={(theme) => ({ fontSize: "0.82rem", fontWeight: 600, height: 30, bgcolor: theme.inks.paper, "& .MuiSelect-select": { pl: 1.1, pr: "9px !important" } })} IconComponent={NoIcon} renderValue={(v) => loopName(v)}>
        {LOOPS.map((beats) => <MenuItem key={beats} value={beats}>{loopName(beats)}</MenuItem>)}
      </Select>
      <Tool name={state.loop ? "Leave loop" : "Loop"} hint={shown(KEYS.cues.loop)} on={state.loop !== null} tip={KEYS.cues.loop.says} disabled={noGrid} onClick={act.loop} />
      <Tool name="Back & listen" hint={shown(listen.again)} tip={listen.again.says} onClick={act.backAndListen} />
      <Box sx={{ flex: 1 }} />
      <Tool name="Bar starts here" hint={shown(grid.bar)} tip={`${grid.bar.says}: beats stay where they are`} disabled={noGrid} onClick={act.barStartsHere} />
      <Tool name="Beat here" hint={shown(grid.align)} tip={`${grid.align.says}: the tempo stays`} disabled={noGrid} onClick={act.alignHere} />
      <Tool name="−1 ms" hint={shown(grid.earlier)} tip={grid.earlier.says} disabled={noGrid} onClick={() => act.nudge(-1)} />
      <Tool name="+1 ms" hint={shown(grid.later)} tip={grid.later.says} disabled={noGrid} onClick={() => act.nudge(1)} />
      <Tool name="÷2" hint={shown(grid.halve)} tip={`${grid.halve.says}: bar 1 stays`} disabled={noGrid} onClick={() => actions.grid.mutate({ edit: "halve" })} />
      <Tool name="×2" hint={shown(grid.double)} tip={`${grid.double.says}: bar 1 stays`} disabled={noGrid} onClick={() => actions.grid.mutate({ edit: "double" })} />
      <Tool name="Tempo…" hint={shown(grid.tempo)} tip={grid.tempo.says} onClick={() => bench.ask("tempo")} />
      <Tool name="Next" hint={shown(listen.next)} tip={listen.next.says} onClick={() => bench.goTo(1)} />
    </Box>
  );
}

function loopName(beats: number): string {
  if (beats % 4 === 0) return `${beats / 4} bar${beats === 4 ? "" : "s"}`;
  return `${beats} beat${beats === 1 ? "" : "s"}`;
}

function Tool({ name, hint, tip, on, disabled, onClick }: { name: string; hint: string; tip: string; on?: boolean; disabled?: boolean; onClick: () => void }) {
  return (
    <Tooltip title={tip}>
      <span>
        <Button aria-pressed={on} disabled={disabled} onClick={onClick} variant={on ? "contained" : "outlined"} color={on ? "secondary" : "primary"} sx={{ px: 0.9 }}>
          {name}<KeyHint>{hint}</KeyHint>
        </Button>
      </span>
    </Tooltip>
  );
}

function PlayButton({ playing }: { playing: boolean }) {
  return (
    <Tooltip title={`${playing ? "Pause" : "Play"} (Space)`}>
      <Box component="button" type="button" aria-label={playing ? "Pause" : "Play"} onClick={() => engine.toggle()}
        sx={(theme) => ({ width: 38, height: 38, borderRadius: "50%", border: 0, bgcolor: theme.inks.now, color: theme.inks.onStrong, cursor: "pointer", display: "grid", placeItems: "center", flex: "none" })}>
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
  usePlayhead((now) => {
    if (time.current) time.current.textContent = clock(now, true);
    if (bar.current) bar.current.textContent = bench.map ? `bar ${bench.map.barAndBeat(now)}` : "";
  }, [bench.map]);
  return (
    <Box sx={{ fontFamily: FIGURES, display: "flex", alignItems: "baseline", gap: 1.2, minWidth: 158 }}>
      <Box component="span" ref={time} data-testid="time" sx={{ fontSize: "1.15rem", minWidth: 66 }} />
      <Box component="span" ref={bar} data-testid="bar" sx={{ fontSize: "0.86rem", color: "text.secondary" }} />
    </Box>
  );
}
