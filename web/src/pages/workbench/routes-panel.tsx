import { Box, Button, InputBase, Link as PlainLink, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Route } from "../../api/client";
import { routeHeardQuery } from "../../api/queries";
import { clock, lufs } from "../../components/format";
import { KEYS } from "../../components/keys";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { routeActions } from "./route-actions";
import { Tool } from "./tool";

const { track: T } = KEYS;

/** The ways through this track: recorded, drawn, played, written as a new file. */
export function RoutesPanel({ bench }: { bench: Bench }) {
  const act = routeActions(bench);
  const { data, route, state } = bench;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.2 }}>
      <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
        <Tool
          name={state.recording ? "End recording" : "Record"}
          entry={T.record}
          on={state.recording}
          onClick={act.record}
        />
        <Tool
          name={state.way === "route" && state.playing ? "Pause route" : "Play route"}
          entry={T.route}
          disabled={!route}
          onClick={act.play}
        />
        {route && (
          <Tool name="Whole track" tip="Show the whole track again" onClick={() => bench.setRoute(null)} />
        )}
      </Box>
      {!data.routes.length && (
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
          No route yet. Drag on the page from where it leaves to where it comes in again, or record: play, and
          jump. Each jump goes to the beat, so that it plays in time.
        </Box>
      )}
      <Box role="listbox" aria-label="Routes">
        {data.routes.map((each) => (
          <Box
            key={each.id}
            role="option"
            aria-selected={each.id === route?.id}
            tabIndex={0}
            onClick={() => bench.setRoute(each.id)}
            onKeyDown={(e) => e.key === "Enter" && (e.stopPropagation(), bench.setRoute(each.id))}
            sx={(theme) => ({
              borderTop: 1,
              borderColor: "divider",
              px: 0.5,
              mx: -0.5,
              py: 0.5,
              cursor: "pointer",
              display: "flex",
              gap: 1,
              fontSize: "0.88rem",
              bgcolor: each.id === route?.id ? theme.inks.chosenWash : "transparent",
            })}
          >
            <Box sx={{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis" }}>{each.name}</Box>
            <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem" }}>{clock(each.length_s)}</Box>
          </Box>
        ))}
      </Box>
      {route && <RouteEditor key={route.id} bench={bench} route={route} />}
    </Box>
  );
}

function RouteEditor({ bench, route }: { bench: Bench; route: Route }) {
  const act = routeActions(bench);
  const [name, setName] = useState(route.name);
  const source = `/api/tracks/${bench.data.track.id}/routes/${route.id}/audio`;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 0.8 }}>
      <InputBase
        value={name}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => name.trim() && name !== route.name && act.rename(name)}
        inputProps={{ "aria-label": "Name of the route", maxLength: 80 }}
        onKeyDown={(e) =>
          (e.key === "Enter" || e.key === "Escape") && (e.stopPropagation(), (e.target as HTMLElement).blur())
        }
        sx={{
          fontSize: "0.85rem",
          px: 0.8,
          bgcolor: "background.paper",
          border: 1,
          borderColor: "divider",
          borderRadius: "3px",
        }}
      />
      {route.jumps.map((jump, i) => (
        <Box
          key={`${jump.from_s} ${jump.to_s}`}
          sx={{ display: "flex", alignItems: "center", gap: 0.6, fontFamily: FIGURES, fontSize: "0.76rem" }}
        >
          <span>
            {clock(jump.from_s, true)} → {clock(jump.to_s, true)}
          </span>
          <Button
            onClick={() => act.playJoint(i)}
            title="Hear two bars before this joint, and on over it"
            sx={{ ml: "auto", px: 0.7, py: 0 }}
          >
            Hear
          </Button>
          <Button
            color="error"
            onClick={() => act.removeJump(i)}
            aria-label={`Remove the jump at ${clock(jump.from_s, true)}`}
            sx={{ px: 0.7, py: 0 }}
          >
            ×
          </Button>
        </Box>
      ))}
      <Box sx={{ display: "flex", gap: 0.8, alignItems: "center", fontSize: "0.8rem" }}>
        <Typography variant="overline">New file</Typography>
        {["flac", "wav", "mp3"].map((form) => (
          <PlainLink
            key={form}
            href={`${source}?form=${form}`}
            download
            color="inherit"
            title="Write the route as a new audio file; the track’s own file is not touched"
          >
            {form.toUpperCase()}
          </PlainLink>
        ))}
        <Button color="error" onClick={act.remove} sx={{ ml: "auto", px: 0.8 }}>
          Delete route
        </Button>
      </Box>
    </Box>
  );
}

/** Above the shortened page: the route's name, its own length, and key and energy of what is left. */
export function RouteHead({ bench, route }: { bench: Bench; route: Route }) {
  const heard = useQuery(routeHeardQuery(bench.data.track.id, route.id, route.jumps));
  const { track } = bench.data;
  return (
    <Box
      role="status"
      sx={(theme) => ({
        display: "flex",
        alignItems: "baseline",
        gap: 1.6,
        px: 1,
        py: 0.5,
        mb: 0.8,
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
        {clock(track.duration_s - route.length_s)} {route.length_s <= track.duration_s ? "shorter" : "longer"}{" "}
        than the track
      </Box>
      {heard.data && (
        <Box component="span" sx={{ fontFamily: FIGURES }}>
          {heard.data.key ?? "no key"} · energy {heard.data.energy} · {lufs(heard.data.lufs)} LUFS
        </Box>
      )}
      {heard.isLoading && (
        <Box component="span" sx={{ color: "text.secondary" }}>
          hearing what is left…
        </Box>
      )}
      <Button onClick={() => bench.setRoute(null)} sx={{ ml: "auto", py: 0 }}>
        Whole track
      </Button>
    </Box>
  );
}
