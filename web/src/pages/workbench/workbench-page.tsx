import { Alert, Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Workbench } from "../../api/client";
import { orderQuery, workbenchQuery } from "../../api/queries";
import { engine } from "../../audio/engine";
import { Empty } from "../../components/empty";
import { PutIntoCrate } from "../../components/put-into-crate";
import { useRemembered } from "../../settings";
import { TempoMap } from "../../drawing/tempo-map";
import { parseWaveform, type Waveform } from "../../drawing/waveform";
import { Closeup } from "./closeup";
import { Page } from "./page";
import { Queue } from "./queue";
import { forgetQueue, rememberedQueue } from "./queue-order";
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
  const newest = useQuery({ ...orderQuery({ sort: "added_at", descending: true }), staleTime: Infinity }).data;
  const [queue, setQueue] = useState(rememberedQueue);
  const showAll = () => {
    forgetQueue();
    setQueue(null);
  };
  const ids = useMemo(() => queue?.ids ?? newest?.ids ?? [], [queue, newest]);
  const [last, setLast] = useRemembered<number | null>("workbench", null);
  const track = id ? Number(id) : null;
  useEffect(() => {
    if (track !== null) setLast(track);
    else if (ids.length) void navigate(`/workbench/${last !== null && newest?.ids.includes(last) ? last : ids[0]}`, { replace: true });
  }, [track, ids, newest, last, navigate]); // eslint-disable-line react-hooks/exhaustive-deps
  if (newest && !newest.total) {
    return (
      <Empty title="Nothing to prepare yet">
        <p>The Workbench opens a track at a time. Bring music in first.</p>
        <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>Go to Arrivals</Button>
      </Empty>
    );
  }
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "216px minmax(0, 1fr) 262px", gridTemplateRows: "minmax(0, 1fr) auto" }}>
      <Queue name={queue?.name ?? "Newest first"} ids={ids} current={track} onAll={queue && showAll} />
      {track !== null && <Bench key={track} id={track} ids={ids} />}
    </Box>
  );
}

function Bench({ id, ids }: { id: number; ids: number[] }) {
  const query = useQuery(workbenchQuery(id));
  if (query.error) return <Empty title="This track is not here">{query.error.message}</Empty>;
  if (!query.data) return <Box />;
  return <LoadedBench data={query.data} ids={ids} />;
}

function LoadedBench({ data, ids }: { data: Workbench; ids: number[] }) {
  const { track, cues } = data;
  const map = useMemo(() => (data.grid ? new TempoMap(data.grid, data.heard.phrase_s) : null), [data.grid, data.heard.phrase_s]);
  const waveform = useWaveform(track.id, track.analysis_state === "done");
  const actions = useTrackActions(track.id);
  const state = useEngine();
  const [chosenCue, setChosenCue] = useState<number | null>(null);
  const [step, setStep] = useRemembered("step", 16);
  const [loopBeats, setLoopBeats] = useRemembered("loop", 16);
  const [span, setSpan] = useRemembered("span", 8);
  const [asking, setAsking] = useState<"tempo" | "crate" | null>(null);
  const goTo = useGoTo(ids, track.id);

  useEffect(() => {
    const wasPlaying = engine.snapshot().playing;
    engine.load(track.id, track.duration_s);
    if (wasPlaying && engine.snapshot().track === track.id) void engine.play();
  }, [track.id, track.duration_s]);
  useEffect(() => engine.setGrid(map), [map]);
  useEffect(() => engine.setEngaging(cues.flatMap((c) => (c.engages && c.length_s !== null ? [{ start: c.position_s, end: c.position_s + c.length_s }] : []))), [cues]);
  useWarmUp(ids[ids.indexOf(track.id) + 1]);

  const bench = { data, map, actions, state, chosenCue, setChosenCue, step, setStep, loopBeats, setLoopBeats, span, setSpan, goTo, ask: setAsking };
  useWorkbenchKeys(bench);
  return (
    <>
      <Box sx={{ px: 2.2, pt: 1.4, minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <TrackHeader data={data} onReset={() => actions.resetGrid.mutate(undefined)} />
        {state.problem && <Alert severity="error" sx={{ mb: 1 }}>{state.problem}</Alert>}
        <Closeup content={{ map, waveform, pcm: engine.pcm, cues, chosenCue, duration: track.duration_s }} span={span} onSpan={setSpan} />
        {map && waveform ? (
          <Page content={{ map, waveform, duration: track.duration_s, cues, chosenCue, sections: data.heard.sections }} onChoose={setChosenCue} actions={actions} />
        ) : (
          <NoPage data={data} onType={() => setAsking("tempo")} />
        )}
      </Box>
      <SidePanel bench={bench} waveform={waveform} />
      <Transport bench={bench} />
      {asking === "tempo" && <TempoDialog data={data} actions={actions} onClose={() => setAsking(null)} />}
      {asking === "crate" && <PutIntoCrate ids={[track.id]} onClose={() => setAsking(null)} />}
    </>
  );
}

export interface Bench {
  data: Workbench;
  map: TempoMap | null;
  actions: ReturnType<typeof useTrackActions>;
  state: ReturnType<typeof useEngine>;
  chosenCue: number | null;
  setChosenCue: (id: number | null) => void;
  step: number;
  setStep: (beats: number) => void;
  loopBeats: number;
  setLoopBeats: (beats: number) => void;
  span: number;
  setSpan: (seconds: number) => void;
  goTo: (by: 1 | -1) => void;
  ask: (what: "tempo" | "crate" | null) => void;
}

function NoPage({ data, onType }: { data: Workbench; onType: () => void }) {
  const { analysis_state: state, analysis_error: error } = data.track;
  if (state === "failed") return <Empty title="This track could not be analysed"><p>{error}</p></Empty>;
  if (state !== "done") return <Empty title="Waiting for its analysis"><p>{state === "paused" ? "Analysis is paused; go on with it in Arrivals." : "The page appears as soon as the beats are found. You can listen already."}</p></Empty>;
  return (
    <Empty title="No beat was found">
      <p>Nothing in this track repeats clearly enough for a beatgrid. If you know its tempo, type it, and move bar 1 to where it belongs.</p>
      <Button onClick={onType}>Type the tempo</Button>
    </Empty>
  );
}

function useWaveform(id: number, analysed: boolean): Waveform | null {
  const query = useQuery({
    queryKey: ["waveform", id],
    queryFn: async () => {
      const response = await fetch(`/api/tracks/${id}/waveform`);
      return response.ok ? parseWaveform(await response.arrayBuffer()) : null;
    },
    enabled: analysed,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return query.data ?? null;
}

function useGoTo(ids: number[], id: number) {
  const navigate = useNavigate();
  return (by: 1 | -1) => {
    const next = ids[ids.indexOf(id) + by];
    if (next !== undefined) void navigate(`/workbench/${next}`);
  };
}

/** Let the server decode the next track while this one is prepared. */
function useWarmUp(next: number | undefined) {
  useEffect(() => {
    if (next === undefined) return;
    const timer = window.setTimeout(() => void fetch(`/api/tracks/${next}/listening?first_frame=0&frames=1`).catch(() => null), 1500);
    return () => window.clearTimeout(timer);
  }, [next]);
}
