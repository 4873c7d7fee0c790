/** The ways through this track: recorded, drawn, played, written as a new file. */
import { Box, Button, InputBase, Typography } from "@mui/material";
import { useState } from "react";
import type { Route } from "../../api/client";
import { clock } from "../../components/format";
import { KEYS } from "../../components/keys";
import { FIGURES } from "../../theme";
import type { Bench } from "./bench";
import { routeActions } from "./route-actions";
import { Tool } from "./tool";

const { track: T } = KEYS;

export function RoutesPanel({ bench }: { bench: Bench }) {
  const { routes } = bench.track.data;
  const { route, setRoute } = bench.chosen;
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.2 }}>
      <RouteTools bench={bench} />
      {!routes.length && (
        <Box sx={{ color: "text.secondary", fontSize: "0.8rem" }}>
          No route yet. Drag on the page from where it leaves to where it comes in again, or record: play, and
          jump. Each jump goes to the beat, so that it plays in time.
        </Box>
      )}
      <Box role="listbox" aria-label="Routes">
        {routes.map((each) => (
          <RouteRow
            key={each.id}
            route={each}
            chosen={each.id === route?.id}
            onChoose={() => setRoute(each.id)}
          />
        ))}
      </Box>
      {route && <RouteEditor key={route.id} bench={bench} route={route} />}
    </Box>
  );
}

function RouteTools({ bench }: { bench: Bench }) {
  const act = routeActions(bench);
  const { route, setRoute } = bench.chosen;
  const { state } = bench.transport;
  const isPlayed = state.way === "route" && state.playing;
  return (
    <Box sx={{ display: "flex", gap: 0.5, flexWrap: "wrap" }}>
      <Tool
        name={state.recording ? "End recording" : "Record"}
        entry={T.record}
        on={state.recording}
        onClick={act.record}
      />
      <Tool
        name={isPlayed ? "Pause route" : "Play route"}
        entry={T.route}
        disabled={!route}
        onClick={act.play}
      />
      {route && <Tool name="Whole track" tip="Show the whole track again" onClick={() => setRoute(null)} />}
    </Box>
  );
}

interface RowProps {
  route: Route;
  chosen: boolean;
  onChoose: () => void;
}

function RouteRow({ route, chosen, onChoose }: RowProps) {
  return (
    <Box
      role="option"
      aria-selected={chosen}
      tabIndex={0}
      onClick={onChoose}
      onKeyDown={(e) => e.key === "Enter" && (e.stopPropagation(), onChoose())}
      sx={(theme) => ({
        ...{ borderTop: 1, borderColor: "divider", px: 0.5, mx: -0.5, py: 0.5 },
        ...{ cursor: "pointer", display: "flex", gap: 1, fontSize: "0.88rem" },
        bgcolor: chosen ? theme.inks.chosenWash : "transparent",
      })}
    >
      <Box sx={{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis" }}>{route.name}</Box>
      <Box sx={{ fontFamily: FIGURES, fontSize: "0.78rem" }}>{clock(route.length_s)}</Box>
    </Box>
  );
}

function RouteEditor({ bench, route }: { bench: Bench; route: Route }) {
  const act = routeActions(bench);
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 0.8 }}>
      <RouteName name={route.name} onRename={act.rename} />
      {route.jumps.map((jump, place) => (
        <Joint
          key={`${jump.from_s} ${jump.to_s}`}
          jump={jump}
          onHear={() => act.playJoint(place)}
          onRemove={() => act.removeJump(place)}
        />
      ))}
      <NewFile bench={bench} route={route} />
      <Button color="error" onClick={act.remove} sx={{ ml: "auto", px: 0.8 }}>
        Delete route
      </Button>
    </Box>
  );
}

function RouteName({ name, onRename }: { name: string; onRename: (name: string) => void }) {
  const [text, setText] = useState(name);
  return (
    <InputBase
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text.trim() && text !== name && onRename(text)}
      inputProps={{ "aria-label": "Name of the route", maxLength: 80 }}
      onKeyDown={(e) =>
        (e.key === "Enter" || e.key === "Escape") && (e.stopPropagation(), (e.target as HTMLElement).blur())
      }
      sx={{
        ...{ fontSize: "0.85rem", px: 0.8, bgcolor: "background.paper" },
        ...{ border: 1, borderColor: "divider", borderRadius: "3px" },
      }}
    />
  );
}

interface JointProps {
  jump: Route["jumps"][number];
  onHear: () => void;
  onRemove: () => void;
}

function Joint({ jump, onHear, onRemove }: JointProps) {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.6, fontFamily: FIGURES, fontSize: "0.76rem" }}>
      <span>
        {clock(jump.from_s, true)} → {clock(jump.to_s, true)}
      </span>
      <Button
        onClick={onHear}
        title="Hear two bars before this joint, and on over it"
        sx={{ ml: "auto", px: 0.7, py: 0 }}
      >
        Hear
      </Button>
      <Button
        color="error"
        onClick={onRemove}
        aria-label={`Remove the jump at ${clock(jump.from_s, true)}`}
        sx={{ px: 0.7, py: 0 }}
      >
        ×
      </Button>
    </Box>
  );
}

function NewFile({ bench, route }: { bench: Bench; route: Route }) {
  const { exportRoute } = bench.track.actions;
  return (
    <Box sx={{ display: "flex", gap: 0.4, alignItems: "center", fontSize: "0.8rem" }}>
      <Typography variant="overline">{exportRoute.isPending ? "Writing…" : "New file"}</Typography>
      {(["flac", "wav", "mp3"] as const).map((form) => (
        <Button
          key={form}
          disabled={exportRoute.isPending}
          onClick={() => exportRoute.mutate({ routeId: route.id, form })}
          title="Write the route as a new audio file; the track’s own file is not touched"
          sx={{ px: 0.7, py: 0 }}
        >
          {form.toUpperCase()}
        </Button>
      ))}
    </Box>
  );
}
