import { Box, Typography } from "@mui/material";
import { useEffect } from "react";
import { clock } from "../../components/format";
import { KEYS } from "../../components/keys";
import { FIGURES } from "../../theme";
import { isLocked, type Bench } from "./bench";
import { gridActions } from "./grid-actions";
import { Tool } from "./tool";

const { grid: G } = KEYS;

/** Every edit of the grid, in groups by what they hold fixed. */
export function GridPanel({ bench }: { bench: Bench }) {
  const act = gridActions(bench);
  const { map, mark, data } = bench;
  const off = !map || isLocked(bench, "grid");
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.3 }}>
      {isLocked(bench, "grid") && <Box sx={{ fontSize: "0.8rem", color: "secondary.main" }}>The grid is locked. Press L to change it.</Box>}
      <Taps bench={bench} />
      <Group name="Every beat stays where it is">
        <Tool name="Bar starts here" entry={G.bar} disabled={off} onClick={act.barStartsHere} />
        <Tool name="Bar 1 here" entry={G.first} disabled={off} onClick={act.firstBarHere} />
        <Tool name="−1 beat" entry={G.barEarlier} disabled={off} onClick={() => act.moveBars(-1)} />
        <Tool name="+1 beat" entry={G.barLater} disabled={off} onClick={() => act.moveBars(1)} />
      </Group>
      <Group name="The tempo stays, all lines move">
        <Tool name="Beat here" entry={G.align} disabled={off} onClick={act.alignHere} />
        <Tool name="To its attack" entry={G.snap} disabled={off} onClick={act.snapHere} />
        <Tool name="−1 ms" entry={G.earlier} disabled={off} onClick={() => act.nudge(-1)} />
        <Tool name="+1 ms" entry={G.later} disabled={off} onClick={() => act.nudge(1)} />
        <Tool name="−10" tip="Grid 10 ms earlier: ⇧ ," disabled={off} onClick={() => act.nudge(-10)} />
        <Tool name="+10" tip="Grid 10 ms later: ⇧ ." disabled={off} onClick={() => act.nudge(10)} />
      </Group>
      <Group name="Bar 1 stays, the tempo changes">
        <Tool name="÷2" entry={G.halve} disabled={off} onClick={act.halve} />
        <Tool name="×2" entry={G.double} disabled={off} onClick={act.double} />
        <Tool name="×2/3" entry={G.twoForThree} disabled={off} onClick={act.twoForThree} />
        <Tool name="×3/2" entry={G.threeForTwo} disabled={off} onClick={act.threeForTwo} />
        <Tool name="Tempo…" entry={G.tempo} disabled={isLocked(bench, "grid")} onClick={() => bench.ask("tempo")} />
        <Tool name="Stretch to attack" entry={G.stretch} disabled={off} onClick={act.stretchHere} />
      </Group>
      <Group name="Neighbouring anchors stay">
        <Tool name="Pin to attack" entry={G.pin} disabled={off} onClick={act.pinHere} />
        <Tool name="Anchor" entry={G.anchor} tip="Anchor on the nearest line: nothing moves, but both sides can be changed apart" disabled={off} onClick={act.addAnchor} />
        <Tool name="Delete anchor" entry={G.unpin} disabled={off || data.grid?.anchors.length === 1} onClick={act.deleteAnchor} />
      </Group>
      <Group name={mark && mark.to > mark.from ? `Marked: ${clock(mark.from, true)} to ${clock(mark.to, true)}` : mark ? `Marked from ${clock(mark.from, true)}` : "Everything outside the marked stretch stays"}>
        <Tool name="Mark" entry={G.mark} disabled={!map} on={mark !== null} onClick={act.mark} />
        <Tool name="One tempo" entry={G.join} disabled={off} onClick={act.join} />
        <Tool name="Rescan…" entry={G.rescan} disabled={isLocked(bench, "grid")} onClick={() => bench.ask("rescan")} />
      </Group>
      <Box sx={{ fontSize: "0.78rem", color: "text.secondary" }}>
        {data.grid ? `${data.grid.kind}, ${data.grid.anchors.length} anchor${data.grid.anchors.length === 1 ? "" : "s"}, ${data.grid.beats_per_bar} beats in a bar, ${data.grid.by_hand ? "by hand" : "as analysed"}` : "No beatgrid yet"}
      </Box>
      {data.grid?.by_hand && <Box><Tool name="Back to the analysed grid" entry={G.reset} disabled={off} onClick={act.reset} /></Box>}
    </Box>
  );
}

function Group({ name, children }: { name: string; children: React.ReactNode }) {
  return (
    <Box>
      <Typography variant="overline" sx={{ display: "block", mb: 0.4 }}>{name}</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5 }}>{children}</Box>
    </Box>
  );
}

/** The tempo that was tapped, with its spread; Enter takes it. */
function Taps({ bench }: { bench: Bench }) {
  const act = gridActions(bench);
  const { data } = bench.actions.tap;
  const { taps, setTaps } = bench;
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
          {taps.length < 3 || !data ? `${taps.length} of at least 3` : `${data.bpm.toFixed(2)} ± ${data.spread_bpm.toFixed(2)}`}
        </Box>
      )}
      {taps.length >= 3 && data && <Tool name="Take it ↵" tip={data.by_attacks ? "The attacks around agree with your taps and made the tempo exact" : "From your taps alone: no attacks agree with them closely"} onClick={act.takeTap} />}
    </Box>
  );
}
