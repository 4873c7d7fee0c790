/** Where and when a track was played, with what before and after. */
import { Box } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { counted } from "../api/changes";
import type { Schema, Track } from "../api/client";
import { trackPlaysQuery } from "../api/queries";
import { day } from "./format";
import { Side } from "./side";

type Heard = Schema["TrackPlayOut"];

export function PlaysPanel({ track, onClose }: { track: Track | undefined; onClose: () => void }) {
  const query = useQuery({ ...trackPlaysQuery(track?.id ?? 0), enabled: track !== undefined });
  const plays = track ? (query.data ?? []) : [];
  const counting = plays.filter((play) => !play.practice).length;
  return (
    <Side title="Where it was played" onClose={onClose}>
      <Box sx={{ fontSize: "0.82rem", mb: 1 }}>
        {track ? <b>{track.title}</b> : "Choose a track"}
        {plays.length > 0 && `: ${counted(counting, "time")}`}
        {track && track.went_well > 0 && `, went well ${counted(track.went_well, "time")}`}
      </Box>
      <Box component="ol" aria-label="Plays" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {plays.map((play) => (
          <PlayLine key={play.play_id} play={play} />
        ))}
      </Box>
      {track && query.data?.length === 0 && (
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>The Logbook knows of no play.</Box>
      )}
    </Side>
  );
}

function PlayLine({ play }: { play: Heard }) {
  const where = play.venue || play.gig || (play.gig_id === null ? "noted by hand" : "no venue yet");
  const marks = [
    play.went === "well" && "went well",
    play.went === "flat" && "fell flat",
    play.asked && "asked for",
    play.practice && "practice, not counted",
    play.note,
  ].filter(Boolean);
  const head = `${day(play.on)} ${play.at ?? ""} ${where}`;
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: "divider", py: 0.6, fontSize: "0.82rem" }}>
      {play.gig_id === null ? (
        <b>{head}</b>
      ) : (
        <Box component={Link} to={`/logbook?night=${play.gig_id}`} sx={{ color: "inherit", fontWeight: 650 }}>
          {head}
        </Box>
      )}
      {marks.length > 0 && <Box sx={{ color: "info.main" }}>{marks.join(", ")}</Box>}
      {(play.before || play.after) && (
        <Box sx={{ color: "text.secondary" }}>
          {play.before ? `after ${play.before}` : "the first"},{" "}
          {play.after ? `before ${play.after}` : "the last"}
        </Box>
      )}
    </Box>
  );
}
