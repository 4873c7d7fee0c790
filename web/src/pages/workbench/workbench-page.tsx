import { Alert, Box, Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Proposal, Workbench } from "../../api/client";
import { coloursQuery, driftQuery, waveformQuery, workbenchQuery } from "../../api/queries";
import { engine } from "../../audio/engine";
import { Empty } from "../../components/empty";
import { useSay } from "../../components/messages";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TemplateDialog } from "../../components/template-dialog";
import { RouteMap } from "../../drawing/route-map";
import { TempoMap } from "../../drawing/tempo-map";
import { useRemembered } from "../../settings";
import type { Asked, Bench, Mark, Panel, Snap } from "./bench";
import { Closeup } from "./closeup";
import { ColoursDialog } from "./colours-dialog";
import { DriftStrip } from "./drift-strip";
import { FinishDialog } from "./finish-dialog";
import { OntoGridDialog } from "./onto-grid-dialog";
import { Page } from "./page";
import { Queue } from "./queue";
import { useQueue } from "./queue-order";
import { RescanDialog } from "./rescan-dialog";
import { RouteHead } from "./routes-panel";
import { SidePanel } from "./side-panel";
import { TempoDialog } from "./tempo-dialog";
import { TrackHeader } from "./track-header";
import { Transport } from "./transport";
import { useEngine } from "./use-engine";
import { useTrackActions } from "./use-track-actions";
import { useWorkbenchKeys } from "./use-workbench-keys";

/** Where one track is prepared, then the next. */
export function WorkbenchPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const queue = useQueue();
  const { ids, total } = queue;
  const [last, setLast] = useRemembered<number | null>("workbench", null);
  const track = id ? Number(id) : null;
  useEffect(() => {
    if (track !== null) setLast(track);
    else if (ids.length)
      void navigate(`/workbench/${last !== null && ids.includes(last) ? last : ids[0]}`, { replace: true });
  }, [track, ids, last, navigate]); // eslint-disable-line react-hooks/exhaustive-deps
  if (total === 0) {
    return (
      <Empty title="Nothing to prepare yet">
        <p>The Workbench opens a track at a time. Bring music in first.</p>
        <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>
          Go to Arrivals
        </Button>
      </Empty>
    );
  }
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: "216px minmax(0, 1fr) 278px",
        gridTemplateRows: "minmax(0, 1fr) auto",
      }}
    >
      <Queue queue={queue} current={track} />
      {track !== null && <OpenTrack key={track} id={track} ids={ids} />}
    </Box>
  );
}

function OpenTrack({ id, ids }: { id: number; ids: number[] }) {
  const query = useQuery(workbenchQuery(id));
  if (query.error) return <Empty title="This track is not here">{query.error.message}</Empty>;
  if (!query.data) return <Box />;
  return <LoadedTrack data={query.data} ids={ids} />;
}

function LoadedTrack({ data, ids }: { data: Workbench; ids: number[] }) {
  const { track } = data;
  const bench = useBench(data, ids);
  const waveform =
    useQuery({ ...waveformQuery(track.id), enabled: track.analysis_state === "done" || data.grid !== null })
      .data ?? null;
  useWorkbenchKeys(bench);
  const { map, route } = bench;
  const analysed = useMemo(
    () => (data.grid?.by_hand && data.analysed ? new TempoMap(data.analysed) : null),
    [data.grid, data.analysed],
  );
  const routeMap = useMemo(() => (map && route ? new RouteMap(map, route.stretches) : null), [map, route]);
  const { palette, chosenCue, proposals, mark } = bench;
  const close = () => bench.ask(null);
  const isPlayed = (time: number) => !routeMap || routeMap.plays(time);
  const drawn = { cues: data.cues, chosenCue, duration: track.duration_s, proposals, mark, palette };
  return (
    <>
      <Box sx={{ px: 2.2, pt: 1.2, minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <TrackHeader bench={bench} />
        {bench.state.problem && (
          <Alert severity="error" sx={{ mb: 1 }}>
            {bench.state.problem}
          </Alert>
        )}
        <Closeup bench={bench} content={{ ...drawn, map, analysed, waveform, pcm: engine.pcm }} />
        {map && bench.drift && bench.drift.times_s.length > 0 && (
          <DriftStrip bench={bench} drift={bench.drift} />
        )}
        {route && <RouteHead bench={bench} route={route} />}
        {map && waveform ? (
          <Page
            bench={bench}
            content={{
              ...drawn,
              map: routeMap ?? map,
              waveform,
              sections: data.heard.sections.filter((section) => isPlayed(section.start_s)),
              cues: data.cues.filter((cue) => isPlayed(cue.position_s)),
              jumps: [],
              proposals: route ? [] : proposals,
            }}
          />
        ) : (
          <NoPage data={data} onType={() => bench.ask("tempo")} />
        )}
      </Box>
      <SidePanel bench={bench} />
      <Transport bench={bench} />
      <Dialogs bench={bench} onClose={close} />
    </>
  );
}

function Dialogs({ bench, onClose }: { bench: Bench & { asked: Asked }; onClose: () => void }) {
  const { id } = bench.data.track;
  switch (bench.asked) {
    case "tempo":
      return <TempoDialog bench={bench} onClose={onClose} />;
    case "crate":
      return <PutIntoCrate ids={[id]} onClose={onClose} />;
    case "rescan":
      return <RescanDialog bench={bench} onClose={onClose} />;
    case "onto grid":
      return <OntoGridDialog bench={bench} onClose={onClose} />;
    case "template":
      return <TemplateDialog ids={[id]} onClose={onClose} />;
    case "colours":
      return <ColoursDialog onClose={onClose} />;
    case "finish":
      return <FinishDialog onClose={onClose} />;
    case null:
      return null;
  }
}

function useBench(data: Workbench, ids: number[]): Bench & { asked: Asked } {
  const { track, cues, heard } = data;
  const map = useMemo(
    () => (data.grid ? new TempoMap(data.grid, heard.phrase_s) : null),
    [data.grid, heard.phrase_s],
  );
  const actions = useTrackActions(track.id);
  const state = useEngine();
  const say = useSay();
  const drift = useQuery({ ...driftQuery(track.id, data.grid), enabled: map !== null }).data ?? null;
  const colours = useQuery(coloursQuery).data;
  const palette = useMemo(
    () => Object.fromEntries((colours ?? []).map((colour) => [colour.colour, colour])),
    [colours],
  );
  const [chosenCue, setChosenCue] = useState<number | null>(null);
  const [moved, setMoved] = useState<Record<string, number>>({});
  const [mark, setMark] = useState<Mark | null>(null);
  const [asked, ask] = useState<Asked>(null);
  const [taps, setTaps] = useState<number[]>([]);
  const [routeId, setRoute] = useState<number | null>(null);
  const [step, setStep] = useRemembered("step", 16);
  const [loopBeats, setLoopBeats] = useRemembered("loop", 16);
  const [span, setSpan] = useRemembered("span", 8);
  const [snap, setSnap] = useRemembered<Snap>("snap", "beat");
  const [panel, setPanel] = useRemembered<Panel>("panel", "cues");
  const [clickGain, setClickGain] = useRemembered("click", 0.6);
  const goTo = useGoTo(ids, track.id);
  const proposals = useMemo(
    () => data.proposals.map((p): Proposal => ({ ...p, position_s: moved[nameOf(p)] ?? p.position_s })),
    [data.proposals, moved],
  );

  useEffect(() => {
    const wasPlaying = engine.snapshot().playing;
    engine.load(track.id, track.duration_s);
    if (wasPlaying && engine.snapshot().track === track.id) void engine.play();
  }, [track.id, track.duration_s]);
  useEffect(() => engine.setGrid(map), [map]);
  useEffect(() => engine.setClick(engine.snapshot().click, clickGain), [clickGain]);
  useEffect(
    () =>
      engine.setEngaging(
        cues.flatMap((c) =>
          c.engages && c.length_s !== null ? [{ start: c.position_s, end: c.position_s + c.length_s }] : [],
        ),
      ),
    [cues],
  );
  useEffect(
    () => engine.makeReady([...cues, ...data.proposals].map((cue) => cue.position_s)),
    [cues, data.proposals],
  );
  usePreparedNeighbours(ids, track.id);

  return {
    data,
    map,
    actions,
    state,
    palette,
    drift,
    chosenCue,
    setChosenCue,
    proposals,
    step,
    setStep,
    loopBeats,
    setLoopBeats,
    snap,
    setSnap,
    span,
    setSpan,
    mark,
    setMark,
    panel,
    setPanel,
    route: data.routes.find((route) => route.id === routeId) ?? null,
    setRoute,
    taps,
    setTaps,
    clickGain,
    setClickGain,
    goTo,
    asked,
    ask,
    say,
    moveProposal: (proposal, to) =>
      setMoved((before) => ({ ...before, [nameOf(originOf(data.proposals, moved, proposal))]: to })),
  };
}

/** A proposal is known by its place as analysed, also after it was moved. */
function nameOf(proposal: Proposal): string {
  return `${proposal.role ?? proposal.label} ${proposal.position_s.toFixed(3)}`;
}

function originOf(all: Proposal[], moved: Record<string, number>, proposal: Proposal): Proposal {
  return (
    all.find(
      (each) =>
        (moved[nameOf(each)] ?? each.position_s) === proposal.position_s && each.label === proposal.label,
    ) ?? proposal
  );
}

function NoPage({ data, onType }: { data: Workbench; onType: () => void }) {
  const { analysis_state: state, analysis_error: error } = data.track;
  if (state === "failed")
    return (
      <Empty title="This track could not be analysed">
        <p>{error}</p>
      </Empty>
    );
  if (state !== "done")
    return (
      <Empty title="Waiting for its analysis">
        <p>
          {state === "paused"
            ? "Analysis is paused; go on with it in Arrivals."
            : "The page appears as soon as the beats are found. You can listen already."}
        </p>
      </Empty>
    );
  return (
    <Empty title="No beat was found">
      <p>
        Nothing in this track repeats clearly enough for a beatgrid. If you know its tempo, type it, and move
        bar 1 to where it belongs.
      </p>
      <Button onClick={onType}>Type the tempo</Button>
    </Empty>
  );
}

/** Opens a neighbour in the list. If the sound is running, it goes on with the new track at once, before anything is drawn. */
function useGoTo(ids: number[], id: number) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  return (by: 1 | -1) => {
    const next = ids[ids.indexOf(id) + by];
    if (next === undefined) return;
    const known = queries.getQueryData(workbenchQuery(next).queryKey);
    if (known && engine.snapshot().playing) {
      engine.load(next, known.track.duration_s);
      void engine.play();
    }
    void navigate(`/workbench/${next}`);
  };
}

/** The next track's facts, drawing and sound are fetched while this one is prepared: from the key to its sound nothing waits. */
function usePreparedNeighbours(ids: number[], id: number) {
  const queries = useQueryClient();
  const next = ids[ids.indexOf(id) + 1];
  useEffect(() => {
    if (next === undefined) return;
    const timer = window.setTimeout(() => {
      void queries.fetchQuery(workbenchQuery(next)).catch(() => null);
      void queries.prefetchQuery(waveformQuery(next));
      engine.prefetch(next, [0]);
    }, 300);
    return () => window.clearTimeout(timer);
  }, [next, queries]);
}
