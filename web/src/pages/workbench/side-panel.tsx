import { Box, Button, Typography } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { KeyHint } from "../../components/key-hint";
import { KEYS, shown } from "../../components/keys";
import type { TempoMap } from "../../drawing/tempo-map";
import { drawRaster } from "../../drawing/raster";
import type { Waveform } from "../../drawing/waveform";
import { Alike } from "./alike";
import { CueList } from "./cue-list";
import type { Bench } from "./workbench-page";

export function SidePanel({ bench, waveform }: { bench: Bench; waveform: Waveform | null }) {
  const { data, map } = bench;
  return (
    <Box component="aside" sx={(theme) => ({ bgcolor: theme.inks.panel, borderLeft: 1, borderColor: "divider", p: 1.6, overflow: "auto", display: "flex", flexDirection: "column", gap: 1.6 })}>
      {map && waveform && <Raster map={map} waveform={waveform} duration={data.track.duration_s} />}
      <CueList bench={bench} />
      <Box>
        <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 0.6 }}>
          <Typography variant="overline">In crates</Typography>
          <Button onClick={() => bench.ask("crate")}>Put into<KeyHint>{shown(KEYS.cues.crate)}</KeyHint></Button>
        </Box>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.6 }}>
          {data.crates.map((crate) => (
            <Box key={crate.id} component={Link} to={`/crates/${crate.id}`} sx={{ border: 1, borderColor: "divider", borderRadius: "3px", bgcolor: "background.paper", px: 0.8, py: 0.2, fontSize: "0.8rem", color: "text.primary", textDecoration: "none" }}>{crate.name}</Box>
          ))}
          {!data.crates.length && <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>In none yet</Box>}
        </Box>
      </Box>
      {data.track.analysis_state === "done" && <Alike id={data.track.id} />}
      <Facts bench={bench} />
    </Box>
  );
}

function Raster({ map, waveform, duration }: { map: TempoMap; waveform: Waveform; duration: number }) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (canvas.current) drawRaster(canvas.current, map, waveform, duration, inks);
  }, [map, waveform, duration, inks]);
  return (
    <Box>
      <Typography variant="overline">Bars on top of each other</Typography>
      <canvas ref={canvas} role="img" aria-label="Each bar's onsets as a row, the first bar on top; a right grid stands in straight stripes" style={{ width: "100%", height: 150, display: "block", imageRendering: "auto" }} />
    </Box>
  );
}

function Facts({ bench }: { bench: Bench }) {
  const { track, copies } = bench.data;
  const kind = [track.codec.toUpperCase(), `${(track.rate_hz / 1000).toFixed(1)} kHz`, track.bit_rate && `${Math.round(track.bit_rate / 1000)} kbit/s`].filter(Boolean).join(", ");
  return (
    <Box sx={{ fontSize: "0.76rem", color: "text.secondary", overflowWrap: "anywhere", mt: "auto" }}>
      <div>{kind}</div>
      <div>{track.path}</div>
      {copies.map((copy) => <div key={copy}>also: {copy}</div>)}
    </Box>
  );
}
