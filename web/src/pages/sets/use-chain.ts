/** The chain of a set: where one is in it, going on, back, and away with a step. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { useRemembered } from "../../settings";
import { wayTo } from "./chain-rows";
import { chainQuery, useChainChanges, type ChainStep } from "./use-sets";

const NONE: readonly ChainStep[] = [];

export interface Chain {
  steps: readonly ChainStep[];
  /** Where one is; none where a chain is to begin. */
  at: ChainStep | undefined;
  /** From where the chain begins to where one is. */
  way: readonly ChainStep[];
  goTo: (step: ChainStep | undefined) => void;
  goOn: (trackId: number, onGone: () => void) => void;
  /** Back to the step one came from. */
  back: () => void;
  /** Away with the step one is at, and all after it. */
  takeBack: () => void;
}

export function useChain(setId: number): Chain {
  const steps = useQuery(chainQuery(setId)).data ?? NONE;
  const [places, setPlaces] = useRemembered<Record<string, number>>("sets.chain", {});
  const changes = useChainChanges(setId);
  const queries = useQueryClient();
  const going = useRef(false);
  const way = wayTo(steps, places[setId]);
  const at = way.at(-1);
  const stand = (id: number | undefined) => setPlaces({ ...places, [setId]: id ?? 0 });
  const back = () => stand(at?.from_id ?? undefined);
  return {
    steps,
    at,
    way,
    goTo: (step) => stand(step?.id),
    goOn: (track_id, onGone) => {
      // A second Enter before the first is answered would go on from where one is no more.
      if (going.current) return;
      going.current = true;
      const body = { track_id, from_id: at?.id ?? null };
      changes.goOn.mutate(body, {
        onSuccess: async ({ id }) => {
          await queries.refetchQueries({ queryKey: chainQuery(setId).queryKey });
          stand(id);
          onGone();
          going.current = false;
        },
        onError: () => void (going.current = false),
      });
    },
    back,
    takeBack: () => {
      if (at && !changes.takeBack.isPending) changes.takeBack.mutate(at.id, { onSuccess: back });
    },
  };
}
