/** What stands beside the track: cues, grid, routes, the track itself. */
import { Box, Tab, Tabs, Typography } from "@mui/material";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { only } from "../../api/client";
import { KEYS } from "../../components/keys";
import { FoldSign, Strip } from "../../components/strip";
import { TagCard } from "../../components/tag-card";
import { Alike } from "./alike";
import { Sound } from "./sound";
import { isLocked, type Bench, type Panel } from "./bench";
import { CueList } from "./cue-list";
import { GridPanel } from "./grid-panel";
import { Raster } from "./raster";
import { RoutesPanel } from "./routes-panel";
import { Tool } from "./tool";

const PANELS: { value: Panel; name: string }[] = [
  { value: "cues", name: "Cues" },
  { value: "grid", name: "Grid" },
  { value: "routes", name: "Routes" },
  { value: "tags", name: "Tags" },
  { value: "track", name: "Track" },
];

export function SidePanel({ bench }: { bench: Bench }) {
  const { map } = bench.track;
  const { panel, isFolded, foldPanel } = bench.settings;
  const fold = {
    name: "cues, grid and tags",
    entry: KEYS.track.foldPanel,
    side: "right",
    onClick: foldPanel,
  } as const;
  if (isFolded) return <Strip {...fold} />;
  return (
    <Box
      component="aside"
      sx={(theme) => ({
        width: "17.4rem",
        bgcolor: theme.inks.panel,
        borderLeft: 1,
        borderColor: "divider",
        px: 1.6,
        py: 1.2,
        overflow: "auto",
        display: "flex",
        flexDirection: "column",
        gap: 1,
      })}
    >
      {map && bench.track.data.track.analysis_state === "done" && <Raster bench={bench} map={map} />}
      <PanelTabs bench={bench}>
        <FoldSign {...fold} />
      </PanelTabs>
      {panel === "cues" && <CueList bench={bench} />}
      {panel === "grid" && <GridPanel bench={bench} />}
      {panel === "routes" && <RoutesPanel bench={bench} />}
      {panel === "tags" && <TagCard picked={only(bench.track.data.track.id)} />}
      {panel === "track" && <TrackPanel bench={bench} />}
    </Box>
  );
}

/** What the side shows, to choose; with what stands beside it. */
function PanelTabs({ bench, children }: { bench: Bench; children: ReactNode }) {
  const { panel } = bench.settings;
  return (
    <Box sx={{ display: "flex", alignItems: "center" }}>
      <Tabs
        value={panel}
        onChange={(_, next: Panel) => bench.settings.setPanel(next)}
        variant="fullWidth"
        aria-label="What is shown beside the track"
        sx={{
          ...{ flex: 1, minWidth: 0, minHeight: 30 },
          "& .MuiTab-root": {
            minHeight: 30,
            minWidth: 0,
            py: 0.3,
            px: 0.2,
            fontSize: "0.8rem",
            whiteSpace: "nowrap",
          },
        }}
      >
        {PANELS.map(({ value, name }) => (
          <Tab
            key={value}
            value={value}
            label={
              value === "routes" && bench.track.data.routes.length
                ? `${name} ${bench.track.data.routes.length}`
                : name
            }
          />
        ))}
      </Tabs>
      {children}
    </Box>
  );
}

function TrackPanel({ bench }: { bench: Bench }) {
  const { data } = bench.track;
  return (
    <>
      <InCrates bench={bench} />
      {isLocked(bench, "tags") && (
        <Box sx={{ fontSize: "0.8rem", color: "secondary.main" }}>
          The tags are locked: stars cannot be changed.
        </Box>
      )}
      {data.track.findings.length > 0 && <Sound findings={data.track.findings} />}
      {data.track.analysis_state === "done" && <Alike id={data.track.id} />}
      <Box sx={{ display: "flex", gap: 0.6, flexWrap: "wrap" }}>
        <Tool
          name="Edit…"
          tip="Edit texts and values by hand"
          entry={KEYS.track.edit}
          onClick={() => bench.ask("edit")}
        />
        <Tool
          name="Write into the file…"
          tip="Write what is known of the track into its tags, after a preview"
          entry={KEYS.track.write}
          onClick={() => bench.ask("write")}
        />
        <Tool
          name="Sources…"
          tip="Where each value comes from, and which source wins"
          onClick={() => bench.ask("sources")}
        />
      </Box>
      <Facts bench={bench} />
    </>
  );
}

function InCrates({ bench }: { bench: Bench }) {
  const { data } = bench.track;
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 0.6 }}>
        <Typography variant="overline">In crates</Typography>
        <Tool name="Put into" entry={KEYS.track.crate} onClick={() => bench.ask("crate")} />
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.6 }}>
        {data.crates.map((crate) => (
          <Box
            key={crate.id}
            component={Link}
            to={`/crates/${crate.id}`}
            sx={{
              border: 1,
              borderColor: "divider",
              borderRadius: "3px",
              bgcolor: "background.paper",
              px: 0.8,
              py: 0.2,
              fontSize: "0.8rem",
              color: "text.primary",
              textDecoration: "none",
            }}
          >
            {crate.name}
          </Box>
        ))}
        {!data.crates.length && <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>In none yet</Box>}
      </Box>
    </Box>
  );
}

function Facts({ bench }: { bench: Bench }) {
  const { track, copies } = bench.track.data;
  const kind = [
    track.codec.toUpperCase(),
    `${(track.rate_hz / 1000).toFixed(1)} kHz`,
    track.depth_bits && `${track.depth_bits} bit`,
    track.channels === 1 ? "mono" : track.channels > 2 && `${track.channels} channels`,
    track.bit_rate && `${Math.round(track.bit_rate / 1000)} kbit/s${track.variable_rate ? ", varying" : ""}`,
  ]
    .filter(Boolean)
    .join(", ");
  return (
    <Box sx={{ fontSize: "0.76rem", color: "text.secondary", overflowWrap: "anywhere" }}>
      <div>{kind}</div>
      {track.trimmed_samples + track.padding_samples > 0 && (
        <div title="Silence that the encoder put around the sound. Vinyl takes it off; other programs may count it.">
          padding: {track.trimmed_samples} samples before, {track.padding_samples} after
        </div>
      )}
      <div>{track.path}</div>
      {copies.map((copy) => (
        <div key={copy}>also: {copy}</div>
      ))}
    </Box>
  );
}
