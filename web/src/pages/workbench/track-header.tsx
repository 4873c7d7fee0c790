import { Box, Tooltip, Typography } from "@mui/material";
import type { Workbench } from "../../api/client";
import { useRate } from "../../api/changes";
import { Doubt } from "../../components/doubt";
import { clock, lufs } from "../../components/format";
import { KeyRing } from "../../components/key-ring";
import { Stars } from "../../components/stars";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { Locks } from "./locks";

export function TrackHeader({ bench }: { bench: Bench }) {
  const { track, grid, heard } = bench.track.data;
  const rate = useRate();
  const from = [track.artist, [track.album, track.year].filter(Boolean).join(", ")]
    .filter(Boolean)
    .join(" · ");
  const reasons = track.doubt_reasons;
  const inDoubt = (track.doubt ?? 0) >= 0.6;
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
          <Box
            sx={{
              display: "flex",
              gap: 1.5,
              alignItems: "baseline",
              minWidth: 0,
              "& > :last-child": { ml: "auto", flex: "none", alignSelf: "center" },
            }}
          >
            <Typography variant="h1" noWrap sx={{ flex: "none", maxWidth: "65%" }}>
              {track.title}
            </Typography>
            <Box
              sx={{
                color: "text.secondary",
                overflow: "hidden",
                textOverflow: "ellipsis",
                whiteSpace: "nowrap",
              }}
            >
              {from}
            </Box>
            <Locks bench={bench} />
          </Box>
          <Box
            sx={{
              display: "flex",
              columnGap: 2.2,
              alignItems: "center",
              flexWrap: "wrap",
              mt: 0.3,
              whiteSpace: "nowrap",
            }}
          >
            {track.bpm !== null && (
              <Figure
                value={inDoubt ? `~${track.bpm.toFixed(1)}` : track.bpm.toFixed(2)}
                unit={`bpm, ${grid?.by_hand ? "by hand" : inDoubt ? "in doubt" : (grid?.kind ?? "from the file")}`}
                testId="tempo"
              />
            )}
            {track.key && (
              <Tooltip
                title={`From ${track.key_source}${track.key_confidence === null ? "" : `, ${Math.round(track.key_confidence * 100)} of 100 sure`}${heard.second_key ? "" : heard.runner_up_key ? `; else ${heard.runner_up_key}` : ""}${heard.tuning_cents !== null && Math.abs(heard.tuning_cents) >= 8 ? `; tuned ${Math.round(heard.tuning_cents)} cents ${heard.tuning_cents > 0 ? "high" : "low"}` : ""}`}
              >
                <Box
                  sx={{
                    display: "flex",
                    gap: 0.7,
                    alignItems: "center",
                    fontFamily: FIGURES,
                    fontSize: "1.02rem",
                  }}
                >
                  <KeyRing name={track.key} size={22} />
                  {track.key}
                  {heard.second_key && (
                    <Box component="span" sx={{ color: "text.secondary", fontSize: "0.85rem" }}>
                      then {heard.second_key} from {clock(heard.second_from_s ?? 0)}
                    </Box>
                  )}
                </Box>
              </Tooltip>
            )}
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
            {!grid?.by_hand && <Doubt value={track.doubt} reasons={reasons} />}
          </Box>
        </Box>
      </Box>
      {!grid?.by_hand && reasons.length > 0 && (
        <Box sx={{ color: "warning.main", fontSize: "0.8rem", mt: 0.6 }}>
          Check the grid by ear: {reasons.join("; ")}.
        </Box>
      )}
    </Box>
  );
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
