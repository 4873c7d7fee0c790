/** Above the shortened page: the route's name, its own length, and key, energy and loudness of what is left. */
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Route } from "../../api/client";
import { finished } from "../../api/jobs";
import { clock, lufs } from "../../components/format";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";

interface Heard {
  key: string | null;
  energy: number;
  lufs: number | null;
}

const HEARD = "/api/tracks/{track_id}/routes/{route_id}/heard" as const;

/** Hearing what a route leaves is a job; a window that goes on to another route ends it. */
function useHeard(track: number, route: Route) {
  const path = { track_id: track, route_id: route.id };
  return useQuery({
    queryKey: ["route heard", path, route.jumps],
    queryFn: async ({ signal }) => {
      const job = await finished(await unwrap(client.POST(HEARD, { params: { path } })), signal);
      return job.result as unknown as Heard;
    },
    staleTime: Infinity,
    retry: false,
  });
}

export function RouteHead({ bench, route }: { bench: Bench; route: Route }) {
  const { track } = bench.track.data;
  const heard = useHeard(track.id, route);
  const shorter = track.duration_s - route.length_s;
  return (
    <Box
      role="status"
      sx={(theme) => ({
        ...{ display: "flex", alignItems: "baseline", gap: 1.6, px: 1, py: 0.5, mb: 0.8 },
        bgcolor: theme.inks.chosenWash,
        fontSize: "0.82rem",
      })}
    >
      <Box component="span" sx={{ fontWeight: 650 }}>
        {route.name}
      </Box>
      <Box component="span" sx={{ fontFamily: FIGURES }}>
        {clock(route.length_s)}
      </Box>
      <Box component="span" sx={{ color: "text.secondary" }}>
        {clock(Math.abs(shorter))} {shorter >= 0 ? "shorter" : "longer"} than the track
      </Box>
      {heard.data && (
        <Box component="span" sx={{ fontFamily: FIGURES }}>
          {heard.data.key ?? "no key"} · energy {heard.data.energy} · {lufs(heard.data.lufs)} LUFS
        </Box>
      )}
      {(heard.isLoading || heard.error) && (
        <Box component="span" sx={{ color: "text.secondary" }}>
          {heard.error ? heard.error.message : "hearing what is left…"}
        </Box>
      )}
      <Button onClick={() => bench.chosen.setRoute(null)} sx={{ ml: "auto", py: 0 }}>
        Whole track
      </Button>
    </Box>
  );
}
