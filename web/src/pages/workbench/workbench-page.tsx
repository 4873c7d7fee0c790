/** The Workbench: where one track is prepared, then the next. */
import { Alert, Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { useNavigate, useParams } from "react-router";
import type { Workbench } from "../../api/client";
import { waveformQuery, workbenchQuery } from "../../api/queries";
import { engine } from "../../audio/engine";
import { Empty } from "../../components/empty";
import { FirstSteps } from "../../components/first-steps";
import { RouteMap } from "../../drawing/route-map";
import { TempoMap } from "../../drawing/tempo-map";
import { useRemembered } from "../../settings";
import type { Bench } from "./bench";
import { Closeup } from "./closeup";
import { Dialogs } from "./dialogs";
import { DriftStrip } from "./drift-strip";
import { NoPage } from "./no-page";
import { Page } from "./page";
import { Queue } from "./queue";
import { useQueue } from "./queue-order";
import { ReplacedNotice } from "./replaced-notice";
import { RouteHead } from "./route-head";
import { SidePanel } from "./side-panel";
import { TrackHeader } from "./track-header";
import { Transport } from "./transport";
import { useBench } from "./use-bench";
import { useWorkbenchKeys } from "./use-workbench-keys";

export function WorkbenchPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const queue = useQueue();
  const { ids, total } = queue;
  const [last, setLast] = useRemembered<number | null>("workbench", null);
  const track = id ? Number(id) : null;
  useEffect(() => {
    const first = last !== null && ids.includes(last) ? last : ids[0];
    if (track === null && first !== undefined) void navigate(`/workbench/${first}`, { replace: true });
    else if (track !== null && track !== last) setLast(track);
  }, [track, ids, last, navigate, setLast]);
  if (total === 0)
    return (
      <Empty title="Nothing to prepare yet">
        <p>The Workbench opens a track at a time. Bring music in first.</p>
        <Button variant="contained" color="error" onClick={() => void navigate("/arrivals")}>
          Go to Arrivals
        </Button>
        <FirstSteps />
      </Empty>
    );
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: "auto minmax(0, 1fr) auto",
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
  if (!query.data) return <Box aria-busy />;
  return <LoadedTrack data={query.data} ids={ids} />;
}

function LoadedTrack({ data, ids }: { data: Workbench; ids: number[] }) {
  const bench = useBench(data, ids);
  useWorkbenchKeys(bench);
  return (
    <>
      <Box sx={{ px: 2.2, pt: 1.2, minWidth: 0, minHeight: 0, display: "flex", flexDirection: "column" }}>
        <TrackHeader bench={bench} />
        {data.track.replaced && <ReplacedNotice bench={bench} />}
        {bench.transport.state.problem && (
          <Alert severity="error" sx={{ mb: 1 }}>
            {bench.transport.state.problem}
          </Alert>
        )}
        <Views bench={bench} />
      </Box>
      <SidePanel bench={bench} />
      <Transport bench={bench} />
      <Dialogs bench={bench} />
    </>
  );
}

/** The close-up, the drift line, and the page. */
function Views({ bench }: { bench: Bench }) {
  const { data, map, drift, palette, proposals } = bench.track;
  const { route, mark, cue: chosenCue } = bench.chosen;
  const { track } = data;
  const waveform =
    useQuery({
      ...waveformQuery(track.id),
      enabled: track.analysis_state === "done" || data.grid !== null,
    }).data ?? null;
  const analysed = useMemo(
    () => (data.grid?.by_hand && data.analysed ? new TempoMap(data.analysed) : null),
    [data.grid, data.analysed],
  );
  const routeMap = useMemo(() => (map && route ? new RouteMap(map, route.stretches) : null), [map, route]);
  const isPlayed = (time: number) => !routeMap || routeMap.plays(time);
  const drawn = { cues: data.cues, chosenCue, duration: track.duration_s, proposals, mark, palette };
  const onPage = {
    ...drawn,
    sections: data.heard.sections.filter((section) => isPlayed(section.start_s)),
    cues: data.cues.filter((cue) => isPlayed(cue.position_s)),
    jumps: [],
    proposals: route ? [] : proposals,
  };
  return (
    <>
      <Closeup bench={bench} content={{ ...drawn, map, analysed, waveform, pcm: engine.pcm }} />
      {map && drift && drift.times_s.length > 0 && <DriftStrip bench={bench} drift={drift} />}
      {route && <RouteHead bench={bench} route={route} />}
      {map && waveform ? (
        <Page bench={bench} content={{ ...onPage, map: routeMap ?? map, waveform }} />
      ) : (
        <NoPage data={data} onType={() => bench.ask("tempo")} />
      )}
    </>
  );
}
