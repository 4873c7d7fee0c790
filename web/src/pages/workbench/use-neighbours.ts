/** The neighbours of a track in the list that is gone through: going to them, and having the next one ready. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { waveformQuery, workbenchQuery } from "../../api/queries";
import { engine } from "../../audio/engine";

const REST_MS = 300;

/** Opens a neighbour. If the sound is running, it goes on with the new track at once, before anything is drawn. */
export function useGoTo(ids: number[], id: number) {
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
export function usePreparedNeighbours(ids: number[], id: number): void {
  const queries = useQueryClient();
  const next = ids[ids.indexOf(id) + 1];
  useEffect(() => {
    if (next === undefined) return;
    const timer = window.setTimeout(() => {
      void queries.fetchQuery(workbenchQuery(next)).catch(() => null);
      void queries.prefetchQuery(waveformQuery(next));
      engine.prefetch(next, [0]);
    }, REST_MS);
    return () => window.clearTimeout(timer);
  }, [next, queries]);
}
