/** Puts the four parts of a bench together, and keeps the sound in step with them. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { client, type Proposal, type Workbench } from "../../api/client";
import { coloursQuery, driftQuery } from "../../api/queries";
import { engine } from "../../audio/engine";
import { useSay } from "../../components/messages";
import { TempoMap } from "../../drawing/tempo-map";
import { useRemembered } from "../../settings";
import type {
  Asked,
  Bench,
  ChosenPart,
  Mark,
  Panel,
  SettingsPart,
  Snap,
  TempoReach,
  TrackPart,
} from "./bench";
import { useEngine } from "../../audio/use-engine";
import { useGoTo, usePreparedNeighbours } from "./use-neighbours";
import { useTrackActions } from "./use-track-actions";

export function useBench(data: Workbench, ids: number[]): Bench {
  const track = useTrackPart(data);
  const chosen = useChosenPart(data);
  const settings = useSettingsPart();
  const state = useEngine();
  const goTo = useGoTo(ids, data.track.id);
  const say = useSay();
  const [asked, ask] = useState<Asked>(null);
  useSound(data, track.map, settings.clickGain);
  usePreparedNeighbours(ids, data.track.id);
  useOpened(data);
  return { track, chosen, transport: { state, goTo }, settings, asked, ask, say };
}

/** Tells of a track that was not analysed that it is open: it may have waited for that. */
function useOpened({ track }: Workbench): void {
  const unheard = track.analysis_state === "none";
  useEffect(() => {
    if (unheard)
      void client.POST("/api/analysis/opened/{track_id}", { params: { path: { track_id: track.id } } });
  }, [track.id, unheard]);
}

function useTrackPart(data: Workbench): TrackPart {
  const { track, heard } = data;
  const map = useMemo(
    () => (data.grid ? new TempoMap(data.grid, heard.phrase_s) : null),
    [data.grid, heard.phrase_s],
  );
  const actions = useTrackActions(track.id);
  const drift = useQuery({ ...driftQuery(track.id, data.grid), enabled: map !== null }).data ?? null;
  const colours = useQuery(coloursQuery).data;
  const palette = useMemo(
    () => Object.fromEntries((colours ?? []).map((colour) => [colour.colour, colour])),
    [colours],
  );
  return { data, map, palette, drift, actions, ...useProposals(data) };
}

/** Proposals can be moved by hand before they are taken. */
function useProposals(data: Workbench) {
  const [moved, setMoved] = useState<Record<string, number>>({});
  const proposals = useMemo(
    () => data.proposals.map((p): Proposal => ({ ...p, position_s: moved[nameOf(p)] ?? p.position_s })),
    [data.proposals, moved],
  );
  const moveProposal = (proposal: Proposal, to: number) =>
    setMoved((before) => ({ ...before, [nameOf(originOf(data.proposals, moved, proposal))]: to }));
  return { proposals, moveProposal };
}

/** A proposal is known by its place as analysed, also after it was moved. */
function nameOf(proposal: Proposal): string {
  return `${proposal.role ?? proposal.label} ${proposal.position_s.toFixed(3)}`;
}

function originOf(all: Proposal[], moved: Record<string, number>, proposal: Proposal): Proposal {
  const isIt = (each: Proposal) =>
    (moved[nameOf(each)] ?? each.position_s) === proposal.position_s && each.label === proposal.label;
  return all.find(isIt) ?? proposal;
}

function useChosenPart(data: Workbench): ChosenPart {
  const [cue, setCue] = useState<number | null>(null);
  const [mark, setMark] = useState<Mark | null>(null);
  const [routeId, setRoute] = useState<number | null>(null);
  const [taps, setTaps] = useState<number[]>([]);
  const route = data.routes.find((each) => each.id === routeId) ?? null;
  return { cue, setCue, mark, setMark, route, setRoute, taps, setTaps };
}

function useSettingsPart(): SettingsPart {
  const [step, setStep] = useRemembered("step", 16);
  const [loopBeats, setLoopBeats] = useRemembered("loop", 16);
  const [snap, setSnap] = useRemembered<Snap>("snap", "beat");
  const [span, setSpan] = useRemembered("span", 8);
  const [panel, setPanel] = useRemembered<Panel>("panel", "cues");
  const [isFolded, setFolded] = useRemembered("panel folded", false);
  const [tempoReach, setTempoReach] = useRemembered<TempoReach>("tempo reach", "whole track");
  const [clickGain, setClickGain] = useRemembered("click", 0.6);
  const show = (next: Panel) => {
    setPanel(next);
    if (isFolded) setFolded(false);
  };
  return {
    ...{ step, setStep, loopBeats, setLoopBeats, snap, setSnap, tempoReach, setTempoReach },
    ...{ span, setSpan, panel, setPanel: show, clickGain, setClickGain },
    ...{ isFolded, foldPanel: () => setFolded(!isFolded) },
  };
}

/** The engine plays this track, on this grid, with these loops; what is soon jumped to is there. */
function useSound(data: Workbench, map: TempoMap | null, clickGain: number): void {
  const { track, cues, proposals } = data;
  useEffect(() => {
    const wasPlaying = engine.snapshot().playing;
    engine.load(track.id, track.duration_s);
    if (wasPlaying && engine.snapshot().track === track.id) void engine.play();
  }, [track.id, track.duration_s]);
  useEffect(() => engine.setGrid(map), [map]);
  useEffect(() => engine.setClick(engine.snapshot().click, clickGain), [clickGain]);
  useEffect(() => {
    const loops = cues.flatMap((cue) =>
      cue.engages && cue.length_s !== null
        ? [{ start: cue.position_s, end: cue.position_s + cue.length_s }]
        : [],
    );
    engine.setEngaging(loops);
  }, [cues]);
  useEffect(() => engine.makeReady([...cues, ...proposals].map((cue) => cue.position_s)), [cues, proposals]);
}
