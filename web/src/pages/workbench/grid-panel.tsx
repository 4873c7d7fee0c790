/** Every edit of the grid, in groups by what they hold fixed. */
import { Box, InputBase, Typography } from "@mui/material";
import { useEffect, useState } from "react";
import type { Grid } from "../../api/client";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { KEYS } from "../../components/keys";
import type { TempoMap } from "../../drawing/tempo-map";
import { FIGURES } from "../../theme";
import { isLocked, type Bench, type Mark } from "./bench";
import { gridActions, REACH_WORDS } from "./grid-actions";
import { Tool } from "./tool";

const { grid: G } = KEYS;
const MOST_LISTED = 12;

interface PartProps {
  bench: Bench;
  off: boolean;
}

export function GridPanel({ bench }: { bench: Bench }) {
  const { map, data } = bench.track;
  const locked = isLocked(bench, "grid");
  const off = !map || locked;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.3 }}>
      {locked && (
        <Box sx={{ fontSize: "0.8rem", color: "secondary.main" }}>
          The grid is locked. Press L to change it.
        </Box>
      )}
      <Taps bench={bench} />
      <BarTools bench={bench} off={off} />
      <PlaceTools bench={bench} off={off} />
      <TempoTools bench={bench} off={off} />
      <StepTools bench={bench} off={off} />
      <AnchorTools bench={bench} off={off} />
      <StretchTools bench={bench} off={off} />
      {map && map.anchors.length > 1 && map.anchors.length <= MOST_LISTED && (
        <Anchors bench={bench} map={map} disabled={off} />
      )}
      <Box sx={{ fontSize: "0.78rem", color: "text.secondary" }}>{wordsOf(data.grid)}</Box>
      {data.grid?.by_hand && (
        <Box>
          <Tool
            name="Back to the analysed grid"
            entry={G.reset}
            disabled={off}
            onClick={gridActions(bench).reset}
          />
        </Box>
      )}
    </Box>
  );
}

function wordsOf(grid: Grid | null): string {
  if (!grid) return "No beatgrid yet";
  const anchors = `${grid.anchors.length} anchor${grid.anchors.length === 1 ? "" : "s"}`;
  const whose = grid.by_hand ? "by hand" : "as analysed";
  return `${grid.kind}, ${anchors}, ${grid.beats_per_bar} beats in a bar, ${whose}`;
}

function BarTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  return (
    <Group name="Every beat stays where it is">
      <Tool name="Bar starts here" entry={G.bar} disabled={off} onClick={act.barStartsHere} />
      <Tool name="Bar 1 here" entry={G.first} disabled={off} onClick={act.firstBarHere} />
      <Tool name="−1 beat" entry={G.barEarlier} disabled={off} onClick={() => act.moveBars(-1)} />
      <Tool name="+1 beat" entry={G.barLater} disabled={off} onClick={() => act.moveBars(1)} />
    </Group>
  );
}

function PlaceTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  return (
    <Group name="The tempo stays, all lines move">
      <Tool name="Beat here" entry={G.align} disabled={off} onClick={act.alignHere} />
      <Tool name="To its attack" entry={G.snap} disabled={off} onClick={act.snapHere} />
      <Tool name="−1 ms" entry={G.earlier} disabled={off} onClick={() => act.nudge(-1)} />
      <Tool name="+1 ms" entry={G.later} disabled={off} onClick={() => act.nudge(1)} />
      <Tool name="−10" tip="Grid 10 ms earlier: ⇧ ," disabled={off} onClick={() => act.nudge(-10)} />
      <Tool name="+10" tip="Grid 10 ms later: ⇧ ." disabled={off} onClick={() => act.nudge(10)} />
      <Figure
        label="Shift by so many ms"
        unit="ms"
        digits={1}
        value={null}
        disabled={off}
        onEnter={act.nudge}
      />
    </Group>
  );
}

function TempoTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  return (
    <Group name="Bar 1 stays, the tempo changes">
      <Tool name="÷2" entry={G.halve} disabled={off} onClick={act.halve} />
      <Tool name="×2" entry={G.double} disabled={off} onClick={act.double} />
      <Tool name="×2/3" entry={G.twoForThree} disabled={off} onClick={act.twoForThree} />
      <Tool name="×3/2" entry={G.threeForTwo} disabled={off} onClick={act.threeForTwo} />
      <Tool
        name="Tempo…"
        entry={G.tempo}
        disabled={isLocked(bench, "grid")}
        onClick={() => bench.ask("tempo")}
      />
      <Tool name="Stretch to attack" entry={G.stretch} disabled={off} onClick={act.stretchHere} />
    </Group>
  );
}

/** Steps of the tempo while it plays, beside those of the place. */
function StepTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  const { tempoReach } = bench.settings;
  return (
    <Group name={`Tempo by ear: ${REACH_WORDS[tempoReach]}`}>
      <Tool name="−0.01" entry={G.slower} disabled={off} onClick={() => act.stepTempo(-0.01)} />
      <Tool name="+0.01" entry={G.faster} disabled={off} onClick={() => act.stepTempo(0.01)} />
      <Tool name="−0.1" tip="Tempo 0.1 lower: ⇧ Alt [" disabled={off} onClick={() => act.stepTempo(-0.1)} />
      <Tool name="+0.1" tip="Tempo 0.1 higher: ⇧ Alt ]" disabled={off} onClick={() => act.stepTempo(0.1)} />
      <Tool name="What it changes" entry={G.reach} disabled={off} onClick={act.nextReach} />
    </Group>
  );
}

function AnchorTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  return (
    <Group name="Neighbouring anchors stay">
      <Tool name="Pin to attack" entry={G.pin} disabled={off} onClick={act.pinHere} />
      <Tool
        name="Anchor"
        entry={G.anchor}
        tip="Anchor on the nearest line: nothing moves, but both sides can be changed apart"
        disabled={off}
        onClick={act.addAnchor}
      />
      <Tool
        name="Delete anchor"
        entry={G.unpin}
        disabled={off || bench.track.data.grid?.anchors.length === 1}
        onClick={act.deleteAnchor}
      />
      {bench.track.data.grid?.kind === "stepped" && (
        <Tool
          name="Other end of the break"
          entry={G.otherEnd}
          tip="Where the tempo changed in a break without drums cannot be heard: its step goes to the break's other end"
          disabled={off}
          onClick={act.stepToOtherEnd}
        />
      )}
    </Group>
  );
}

function StretchTools({ bench, off }: PartProps) {
  const act = gridActions(bench);
  const { mark } = bench.chosen;
  return (
    <Group name={mark ? markWords(mark) : "Everything outside the marked stretch stays"}>
      <Tool name="Mark" entry={G.mark} disabled={!bench.track.map} on={mark !== null} onClick={act.mark} />
      <Tool name="One tempo" entry={G.join} disabled={off} onClick={act.join} />
      <Tool
        name="Rescan…"
        entry={G.rescan}
        disabled={isLocked(bench, "grid")}
        onClick={() => bench.ask("rescan")}
      />
    </Group>
  );
}

function markWords({ from, to }: Mark): string {
  return to > from
    ? `Marked: ${clock(from, true)} to ${clock(to, true)}`
    : `Marked from ${clock(from, true)}`;
}

function Group({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <Box>
      <Typography variant="overline" sx={{ display: "block", mb: 0.4 }}>
        {name}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>{children}</Box>
    </Box>
  );
}

/** The anchors of a map with few of them: each one's time and the tempo from there can be typed. */
function Anchors({ bench, map, disabled }: { bench: Bench; map: TempoMap; disabled: boolean }) {
  const edit = bench.track.actions.grid.mutate;
  return (
    <Box component="ol" aria-label="Anchors" sx={{ listStyle: "none", m: 0, p: 0, fontSize: "0.78rem" }}>
      {map.anchors.map((anchor) => (
        <Box
          component="li"
          key={anchor.beat}
          sx={{ display: "flex", gap: 0.8, alignItems: "center", py: 0.2 }}
        >
          <Box
            component="button"
            type="button"
            onClick={() => engine.seek(anchor.time)}
            title="Go there"
            sx={{
              border: 0,
              p: 0,
              background: "none",
              font: "inherit",
              color: "text.primary",
              cursor: "pointer",
              minWidth: 56,
              textAlign: "left",
            }}
          >
            bar {map.barAndBeat(anchor.time)}
          </Box>
          <Figure
            label={`Time of the anchor at bar ${map.barAndBeat(anchor.time)}`}
            unit="s"
            digits={3}
            value={anchor.time}
            disabled={disabled}
            onEnter={(to) => edit({ edit: "move anchor", time_s: anchor.time, to_s: to })}
          />
          <Figure
            label={`Tempo from bar ${map.barAndBeat(anchor.time)}`}
            unit="bpm"
            digits={2}
            value={map.bpmAt(anchor.time + 1)}
            disabled={disabled}
            onEnter={(bpm) => edit({ edit: "tempo of this part", time_s: anchor.time + 1e-3, bpm })}
          />
        </Box>
      ))}
    </Box>
  );
}

interface FigureProps {
  label: string;
  unit: string;
  digits: number;
  /** What is there now; null for a figure that is only given. */
  value: number | null;
  disabled: boolean;
  onEnter: (value: number) => void;
}

/** A number to type; Enter does it, Esc takes it back. */
function Figure({ label, unit, digits, value, disabled, onEnter }: FigureProps) {
  const there = value === null ? "" : value.toFixed(digits);
  const [text, setText] = useState<string | null>(null);
  const enter = () => {
    const given = Number((text ?? "").replace(",", ".").replace("−", "-"));
    if (text && Number.isFinite(given)) onEnter(given);
    setText(null);
  };
  return (
    <InputBase
      value={text ?? there}
      disabled={disabled}
      placeholder={unit}
      title={label}
      onChange={(e) => setText(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={() => setText(null)}
      inputProps={{ "aria-label": label, inputMode: "decimal" }}
      endAdornment={
        value === null ? undefined : (
          <Box component="span" sx={{ color: "text.secondary", fontSize: "0.7rem" }}>
            {unit}
          </Box>
        )
      }
      onKeyDown={(e) => {
        if (e.key !== "Enter" && e.key !== "Escape") return;
        e.stopPropagation();
        if (e.key === "Enter") enter();
        (e.target as HTMLElement).blur();
      }}
      sx={{
        width: value === null ? 62 : 92,
        height: 28,
        px: 0.7,
        fontFamily: FIGURES,
        fontSize: "0.76rem",
        bgcolor: "background.paper",
        border: 1,
        borderColor: "divider",
        borderRadius: "3px",
      }}
    />
  );
}

/** The tempo that was tapped, with its spread; Enter takes it. */
function Taps({ bench }: { bench: Bench }) {
  const act = gridActions(bench);
  const { data } = bench.track.actions.tap;
  const { taps, setTaps } = bench.chosen;
  const { playing } = bench.transport.state;
  useEffect(() => {
    const leave = (event: KeyboardEvent) => event.key === "Escape" && setTaps([]);
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [setTaps]);
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, flexWrap: "wrap" }}>
      <Tool name="Tap" entry={G.tap} onClick={act.tap} />
      {taps.length > 0 && (
        <Box role="status" sx={{ fontFamily: FIGURES, fontSize: "0.82rem" }}>
          {taps.length < 3 || !data
            ? `${taps.length} of at least 3${playing ? "" : ": play, and tap along"}`
            : `${data.bpm.toFixed(2)} ± ${data.spread_bpm.toFixed(2)}`}
        </Box>
      )}
      {taps.length >= 3 && data && (
        <Tool
          name="Take it ↵"
          tip={
            data.by_onsets
              ? "The attacks around agree with your taps and made the tempo exact"
              : "From your taps alone: no attacks agree with them closely"
          }
          onClick={act.takeTap}
        />
      )}
    </Box>
  );
}
