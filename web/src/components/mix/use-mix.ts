/** What is asked and said of one track mixed into another, and the changes of it, one after the other. */
import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import type { Mix } from "../../audio/mix-way";
import { useSay } from "../messages";

export type { Mix };

export type MixSettings = Schema["MixSettings"];
/** How points are moved before a mix is laid out. */
export type Move = Pick<Schema["MixIn"], "out_beats" | "in_beats" | "drops_meet">;

/** Two tracks, and what they are called. */
export interface Pair {
  out: { id: number; title: string };
  into: { id: number; title: string };
}

const ask = (body: Schema["MixIn"]): Promise<Mix> => unwrap(client.POST("/api/mixes", { body }));

const mixQuery = ({ out, into }: Pair, settings: MixSettings) =>
  queryOptions({
    queryKey: ["sets", "mix", out.id, into.id, settings],
    queryFn: () => ask({ out_track_id: out.id, in_track_id: into.id, settings }),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** A mix as it stands, and ways to change it: what is pressed quickly builds on what was pressed before. */
export function useMix(pair: Pair, initial: MixSettings, onSettings: (settings: MixSettings) => void) {
  const [settings, setSettings] = useState(initial);
  const latest = useRef(initial);
  const queue = useRef(Promise.resolve());
  const sent = useRef<string[]>([]);
  const say = useSay();
  const found = useQuery(mixQuery(pair, settings));
  const known = JSON.stringify(initial);
  useEffect(() => {
    const isLatest = JSON.stringify(latest.current) === known;
    // What was said here comes back after more was said.
    if (!isLatest && sent.current.includes(known)) return;
    sent.current = [];
    if (isLatest) return;
    // Changed elsewhere, or taken back.
    latest.current = JSON.parse(known) as MixSettings;
    setSettings(latest.current);
  }, [known]);
  const take = (next: MixSettings) => {
    latest.current = next;
    sent.current.push(JSON.stringify(next));
    setSettings(next);
    onSettings(next);
  };
  const move = (moves: Move) => {
    queue.current = queue.current.then(async () => {
      try {
        const body = { out_track_id: pair.out.id, in_track_id: pair.into.id, settings: latest.current };
        take((await ask({ ...body, ...moves })).settings);
      } catch (error) {
        say(error instanceof Error ? error.message : String(error), "error");
      }
    });
  };
  const set = (change: (now: MixSettings) => Partial<MixSettings>) => {
    queue.current = queue.current.then(() => take({ ...latest.current, ...change(latest.current) }));
  };
  return { mix: found.data, problem: found.error?.message ?? null, move, set };
}

/** Says whether one track goes over into another. */
export function useVerdict({ out, into }: Pair) {
  return useChange(
    (works: boolean | null) =>
      unwrap(
        client.PUT("/api/mixes/verdict", {
          body: { out_track_id: out.id, in_track_id: into.id, works },
        }),
      ),
    (_, works) =>
      works === null
        ? null
        : works
          ? `“${out.title}” into “${into.title}” works: it is suggested first from now on.`
          : `“${out.title}” into “${into.title}” does not work: it is suggested last from now on.`,
  );
}
