/** What the open track is: its names, its figures, its locks. */
import { Box, Tooltip, Typography } from "@mui/material";
import type { Workbench } from "../../api/client";
import { useRate } from "../../api/changes";
import { Doubt } from "../../components/doubt";
import { clock, lufs } from "../../components/format";
import { useKeyName } from "../../components/key-name";
import { shown } from "../../components/key-map";
import { KEYS } from "../../components/keys";
import { KeyRing } from "../../components/key-ring";
import { Stars } from "../../components/stars";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { gridActions } from "./grid-actions";
import { Locks } from "./locks";
import { Tool } from "./tool";

export function TrackHeader({ bench }: { bench: Bench }) {
  const { track, grid } = bench.track.data;
  const reasons = track.doubt_reasons;
  return (
    <Box component="header" sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", minWidth: 0 }}>
        {track.has_picture && (
          <Box
            component="img"
            src={`/api/tracks/${track.id}/picture`}
            alt=""
            sx={{ width: 50, height: 50, borderRadius: "3px", border: 1, borderColor: "divider" }}
          />
        )}
        <Box sx={{ minWidth: 0, flex: 1 }}>
          <Names bench={bench} />
          <Figures bench={bench} />
        </Box>
      </Box>
      {!grid?.by_hand && reasons.length > 0 && (
        <Box sx={{ color: "warning.main", fontSize: "0.8rem", mt: 0.6 }}>
          Check the grid by ear: {reasons.join("; ")}.
          {track.other_bpm !== null && <OtherTempo bench={bench} bpm={track.other_bpm} />}
        </Box>
      )}
    </Box>
  );
}

/** The other tempo that may be meant, to be taken at once. */
function OtherTempo({ bench, bpm }: { bench: Bench; bpm: number }) {
  return (
    <Box component="span" sx={{ ml: 1 }}>
      <Tool
        name={`Take ${bpm.toFixed(2)} bpm`}
        entry={KEYS.grid.other}
        onClick={gridActions(bench).takeOther}
      />
    </Box>
  );
}

const CUT = { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" } as const;
const LAST = { "& > :last-child": { ml: "auto", flex: "none", alignSelf: "center" } };

function Names({ bench }: { bench: Bench }) {
  const { track } = bench.track.data;
  const album = [track.album, track.year].filter(Boolean).join(", ");
  return (
    <Box sx={{ display: "flex", gap: 1.5, alignItems: "baseline", minWidth: 0, ...LAST }}>
      <Typography variant="h1" noWrap sx={{ flex: "none", maxWidth: "65%" }}>
        {track.title}
      </Typography>
      <Box sx={{ ...CUT, color: "text.secondary" }}>{[track.artist, album].filter(Boolean).join(" · ")}</Box>
      <Locks bench={bench} />
    </Box>
  );
}

function Figures({ bench }: { bench: Bench }) {
  const { track, grid, heard } = bench.track.data;
  const rate = useRate();
  return (
    <Box
      sx={{
        ...{ display: "flex", columnGap: 2.2, alignItems: "center", flexWrap: "wrap" },
        ...{ mt: 0.3, whiteSpace: "nowrap" },
      }}
    >
      {track.bpm !== null && <Tempo data={bench.track.data} bpm={track.bpm} />}
      <KeyFigure bench={bench} />
      {track.energy !== null && (
        <Tooltip title={heard.energy_reason}>
          <Box>
            <Figure value={String(track.energy)} unit="energy" testId="energy" />
          </Box>
        </Tooltip>
      )}
      <Tooltip title={loudnessWords(heard)}>
        <Box>
          <Figure value={lufs(track.lufs)} unit="LUFS" />
        </Box>
      </Tooltip>
      <Figure value={clock(track.duration_s)} unit="" />
      <Stars
        value={track.rating}
        label={track.title}
        onChange={(stars) => rate.mutate({ ids: [track.id], stars })}
      />
      {!grid?.by_hand && <Doubt value={track.doubt} reasons={track.doubt_reasons} />}
    </Box>
  );
}

function Tempo({ data: { track, grid }, bpm }: { data: Workbench; bpm: number }) {
  const inDoubt = (track.doubt ?? 0) >= 0.6;
  const kind = inDoubt ? "in doubt" : (grid?.kind ?? "from the file");
  return (
    <Figure
      value={inDoubt ? `~${bpm.toFixed(1)}` : bpm.toFixed(2)}
      unit={`bpm, ${grid?.by_hand ? "by hand" : kind}`}
      testId="tempo"
    />
  );
}

function KeyFigure({ bench }: { bench: Bench }) {
  const { track, heard } = bench.track.data;
  const written = useKeyName();
  const set = `Set it by hand, by ear (${shown(KEYS.track.key)})`;
  return (
    <Tooltip describeChild title={track.key ? `${keyWords(bench.track.data)}. ${set}` : set}>
      <Box
        component="button"
        type="button"
        onClick={() => bench.ask("key")}
        sx={{
          ...{ display: "flex", gap: 0.7, alignItems: "center", fontFamily: FIGURES, fontSize: "1.02rem" },
          ...{ border: 0, p: 0, background: "none", color: "inherit", cursor: "pointer" },
        }}
      >
        {track.key ? <KeyRing name={track.key} size={22} /> : "no key"}
        {track.key && written(track.key)}
        {heard.second_key && (
          <Box component="span" sx={{ color: "text.secondary", fontSize: "0.85rem" }}>
            then {written(heard.second_key)} from {clock(heard.second_from_s ?? 0)}
          </Box>
        )}
      </Box>
    </Tooltip>
  );
}

/** Where the key comes from, how sure it is, what else it could be, and how the track is tuned. */
function keyWords({ track, heard }: Workbench): string {
  const sure = track.key_confidence;
  const cents = heard.tuning_cents ?? 0;
  const parts = [`From ${track.key_source}${sure === null ? "" : `, ${Math.round(sure * 100)} of 100 sure`}`];
  if (!heard.second_key && heard.runner_up_key) parts.push(`else ${heard.runner_up_key}`);
  if (Math.abs(cents) >= 8) parts.push(`tuned ${Math.round(cents)} cents ${cents > 0 ? "high" : "low"}`);
  return parts.join("; ");
}

function loudnessWords({ range_lu, true_peak_db }: Workbench["heard"]): string {
  const range = range_lu === null ? "" : `range ${range_lu.toFixed(1)} LU, `;
  return true_peak_db === null ? "silent" : `${range}true peak ${true_peak_db.toFixed(1)} dB`;
}

function Figure({ value, unit, testId }: { value: string; unit: string; testId?: string }) {
  return (
    <Box sx={{ display: "flex", gap: 0.8, alignItems: "baseline" }} data-testid={testId}>
      <Box component="span" sx={{ fontFamily: FIGURES, fontSize: "1.05rem" }}>
        {value}
      </Box>
      <Box component="span" sx={{ color: "text.secondary", fontSize: "0.78rem" }}>
        {unit}
      </Box>
    </Box>
  );
}
