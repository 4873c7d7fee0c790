/** What goes with a track: by key, tempo, energy and sound, each with its reasons, and heard with one click. */
import { Box, MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schema, Track } from "../api/client";
import { fitsQuery } from "../api/queries";
import { engine } from "../audio/engine";
import { useEngine } from "../audio/use-engine";
import { useRemembered } from "../settings";
import { FIGURES } from "../theme";
import { useKeyName } from "./key-name";
import { Side } from "./side";
import { playTrack } from "./use-listening";

type Fit = Schema["FitOut"];
type Reach = NonNullable<Schema["FitIn"]["reach"]>;

export function FitsPanel({ track, onClose }: { track: Track | undefined; onClose: () => void }) {
  const [reach, setReach] = useRemembered<Reach>("fits.reach", "near");
  const [held, setHeld] = useRemembered("fits.held", true);
  const fits = useQuery({
    ...fitsQuery(track?.id ?? 0, { reach, key_held: held }),
    enabled: track !== undefined,
  });
  const found = track ? (fits.data ?? []) : [];
  return (
    <Side title="Fits this" onClose={onClose}>
      <Box sx={{ fontSize: "0.82rem", mb: 1, lineHeight: 1.9 }}>
        {track ? <b>{track.title}</b> : "Choose a track"}: tracks{" "}
        <Choice
          label="How far"
          value={reach}
          choices={[
            ["near", "in reach"],
            ["wide", "in wide reach"],
          ]}
          onChoose={(next) => setReach(next as Reach)}
        />
        , played with the key{" "}
        <Choice
          label="Is the key held"
          value={held ? "held" : "free"}
          choices={[
            ["held", "held"],
            ["free", "moving with the tempo"],
          ]}
          onChoose={(next) => setHeld(next === "held")}
        />
      </Box>
      <Box component="ol" aria-label="Tracks that fit" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {found.map((fit) => (
          <FitLine key={fit.track.id} fit={fit} held={held} />
        ))}
      </Box>
      {track && fits.data?.length === 0 && (
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>
          Nothing is in reach of its key and tempo. Look in wide reach.
        </Box>
      )}
    </Side>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  choices: [string, string][];
  onChoose: (value: string) => void;
}

function Choice({ label, value, choices, onChoose }: ChoiceProps) {
  return (
    <Select
      variant="standard"
      size="small"
      value={value}
      SelectDisplayProps={{ "aria-label": label }}
      onChange={(event) => onChoose(event.target.value)}
      sx={{ fontSize: "inherit" }}
    >
      {choices.map(([each, words]) => (
        <MenuItem key={each} value={each}>
          {words}
        </MenuItem>
      ))}
    </Select>
  );
}

function FitLine({ fit, held }: { fit: Fit; held: boolean }) {
  const { track } = fit;
  const written = useKeyName();
  const { track: heard, playing } = useEngine();
  const plays = playing && heard === track.id;
  return (
    <Box component="li" sx={{ py: 0.7, borderBottom: 1, borderColor: "divider", display: "flex", gap: 1 }}>
      <Box
        component="button"
        type="button"
        aria-label={plays ? `Pause ${track.title}` : `Play ${track.title}`}
        onClick={() => (plays ? engine.pause() : playTrack(track))}
        sx={{
          border: 0,
          p: 0,
          background: "none",
          cursor: "pointer",
          color: plays ? "error.main" : "text.primary",
        }}
      >
        {plays ? "❚❚" : "▶"}
      </Box>
      <Box sx={{ minWidth: 0, flex: 1 }}>
        <Box
          component={Link}
          to={`/workbench/${track.id}`}
          sx={{ color: "text.primary", textDecoration: "none", fontWeight: 650, fontSize: "0.88rem" }}
        >
          {track.title}
        </Box>
        <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>{track.artist}</Box>
        <Box sx={{ fontSize: "0.76rem" }}>{fit.reasons.join(", ")}</Box>
        {!held && Math.abs(fit.cents) >= 1 && fit.heard_key && (
          <Box sx={{ fontSize: "0.76rem", color: "warning.main" }}>
            {fit.cents > 0 ? "+" : "−"}
            {Math.abs(fit.cents).toFixed(0)} cents: sounds in {written(fit.heard_key)}
          </Box>
        )}
      </Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem", textAlign: "right", flex: "none" }}>
        {track.bpm?.toFixed(1)}
        <br />
        {track.key && written(track.key)}
      </Box>
    </Box>
  );
}
