/** What goes with a track: by key, tempo, energy and sound, each with its reasons; heard, taken into crates and gone on
 * from by hand and by key. */
import { Box, Button, MenuItem, Select } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { counted, lastCrate, usePutIntoCrate } from "../api/changes";
import { only, type Picked, type Schema, type Track } from "../api/client";
import { fitsQuery } from "../api/queries";
import { engine } from "../audio/engine";
import { useEngine } from "../audio/use-engine";
import { useRemembered } from "../settings";
import { FitLine, lineName, type LineActions } from "./fit-line";
import { KEYS } from "./keys";
import { useSay } from "./messages";
import { Side } from "./side";
import { useKeys } from "./use-keys";
import { playTrack } from "./use-listening";

type Fit = Schema["FitOut"];
type Reach = NonNullable<Schema["FitIn"]["reach"]>;

/** Where there are fewer lines, what a wider reach would have is asked for too. */
const SHORT = 12;

interface Props {
  /** The track that has the focus in the list. */
  track: Track | undefined;
  onPutIntoCrate: (picked: Picked) => void;
  /** Puts a track after the one that has the focus, where the list has an order by hand. */
  onPutAfter?: ((trackId: number) => void) | undefined;
  /** Gives the focus back to the list. */
  onLeave: () => void;
  onClose: () => void;
}

/** Where one has gone on to from the track of the list. */
interface Trail {
  from: number | undefined;
  tracks: readonly Track[];
}

export function FitsPanel({ track: given, onPutIntoCrate, onPutAfter, onLeave, onClose }: Props) {
  const track = useLast(given);
  const [reach, setReach] = useRemembered<Reach>("fits.reach", "near");
  const [held, setHeld] = useRemembered("fits.held", true);
  const [trail, setTrail] = useState<Trail>({ from: undefined, tracks: [] });
  const gone = trail.from === track?.id ? trail.tracks : [];
  const base = gone.at(-1) ?? track;
  const found = useFits(base, reach, held);
  const isShort = reach === "near" && found !== undefined && found.length < SHORT;
  const wide = useFits(isShort ? base : undefined, "wide", held);
  const actions = useLineActions(onPutIntoCrate, onPutAfter, {
    goOn: (next) => setTrail({ from: track?.id, tracks: [...gone, next] }),
    back: () => setTrail({ from: track?.id, tracks: gone.slice(0, -1) }),
    leave: onLeave,
  });
  const more = isShort && wide ? wide.length - found.length : 0;
  return (
    <Side title="Fits this" onClose={onClose}>
      {gone.length > 0 && (
        <Button size="small" onClick={actions.back}>
          ← Back to {gone.at(-2)?.title ?? track?.title}
        </Button>
      )}
      <Box sx={{ fontSize: "0.82rem", mb: 1, lineHeight: 1.9 }}>
        {base ? <b>{base.title}</b> : "Choose a track"}: tracks{" "}
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
      <Lines base={base?.id} found={found ?? []} held={held} actions={actions} />
      {found?.length === 0 && (
        <Box sx={{ color: "text.secondary", fontSize: "0.82rem" }}>
          Nothing is in {reach === "near" ? "reach" : "wide reach"} of its key and tempo.
          {reach === "wide" && " Analyse more tracks, or let the key move with the tempo."}
        </Box>
      )}
      {more > 0 && (
        <Button size="small" sx={{ mt: 1 }} onClick={() => setReach("wide")}>
          {counted(more, "more track")} in wide reach
        </Button>
      )}
    </Side>
  );
}

/** The track of the list, while that is read anew the one before: what is pressed meanwhile is about that. */
function useLast(given: Track | undefined): Track | undefined {
  const [last, setLast] = useState(given);
  if (given && given !== last) setLast(given);
  return given ?? last;
}

function useFits(track: Track | undefined, reach: Reach, held: boolean): Fit[] | undefined {
  const asked = fitsQuery(track?.id ?? 0, { reach, key_held: held });
  const { data } = useQuery({ ...asked, enabled: track !== undefined });
  return track ? data : undefined;
}

interface Ways {
  goOn: (track: Track) => void;
  back: () => void;
  leave: () => void;
}

function useLineActions(
  onPutIntoCrate: Props["onPutIntoCrate"],
  onPutAfter: Props["onPutAfter"],
  ways: Ways,
): LineActions {
  const navigate = useNavigate();
  const put = usePutIntoCrate();
  const say = useSay();
  const { track: heard, playing } = useEngine();
  const intoLast = (track: Track) => {
    const crate = lastCrate();
    if (crate) put.mutate({ crate, chosen: { ids: [track.id] } });
    else say("No crate was used yet: put a track into one first (P).");
  };
  return {
    ...ways,
    open: (track) => void navigate(`/workbench/${track.id}`),
    play: (track) => (playing && heard === track.id ? engine.pause() : playTrack(track)),
    plays: (track) => playing && heard === track.id,
    put: (track) => onPutIntoCrate(only(track.id)),
    intoLast,
    after: onPutAfter && ((track) => onPutAfter(track.id)),
  };
}

interface LinesProps {
  /** The track that they fit. */
  base: number | undefined;
  found: readonly Fit[];
  held: boolean;
  actions: LineActions;
}

/** The lines as a list that takes keys while it has the focus. */
function Lines({ base, found, held, actions }: LinesProps) {
  const list = useRef<HTMLUListElement>(null);
  const [kept, setKept] = useState({ base, at: 0 });
  const at = kept.base === base ? kept.at : 0;
  const setAt = (to: number) => setKept({ base, at: to });
  const chosen = found[Math.min(at, found.length - 1)]?.track;
  useKeys(KEYS.lists.toFits, () => list.current?.focus());
  useEffect(() => {
    if (chosen) document.getElementById(lineName(chosen.id))?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const press = (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const act = actOf(event, actions, chosen, (by) =>
      setAt(Math.max(0, Math.min(found.length - 1, at + by))),
    );
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  };
  return (
    <ul
      ref={list}
      role="listbox"
      tabIndex={0}
      aria-label="Tracks that fit"
      aria-activedescendant={chosen && lineName(chosen.id)}
      onKeyDown={press}
      style={{ listStyle: "none", padding: 0, margin: 0 }}
    >
      {found.map((fit, place) => (
        <FitLine
          key={fit.track.id}
          fit={fit}
          held={held}
          chosen={fit.track === chosen}
          onChoose={() => setAt(place)}
          actions={actions}
        />
      ))}
    </ul>
  );
}

function actOf(
  event: React.KeyboardEvent,
  actions: LineActions,
  track: Track | undefined,
  step: (by: number) => void,
): (() => void) | undefined {
  const always: Record<string, () => void> = {
    ArrowDown: () => step(1),
    ArrowUp: () => step(-1),
    Home: () => step(-Infinity),
    End: () => step(Infinity),
    ArrowLeft: actions.back,
    Escape: actions.leave,
  };
  if (always[event.key] || !track) return always[event.key];
  const { after } = actions;
  const withTrack: Record<string, (() => void) | undefined> = {
    ArrowRight: () => actions.goOn(track),
    Enter: () => actions.open(track),
    " ": () => actions.play(track),
    p: () => actions.put(track),
    C: () => actions.intoLast(track),
    a: after && (() => after(track)),
  };
  return withTrack[event.key];
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
