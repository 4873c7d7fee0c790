/** Weights of the user's own, kept in the browser. */
import { useMemo } from "react";
import { useRemembered } from "../../settings";

/** What was kept by an older Vinyl may lack a name: that one weighs as usual. */
export function useWeights<Name extends string>(
  name: string,
  usual: Record<Name, number>,
): [Record<Name, number>, (weights: Record<Name, number>) => void] {
  const [own, remember] = useRemembered<Partial<Record<Name, number>>>(name, {});
  return [useMemo(() => ({ ...usual, ...own }), [usual, own]), remember];
}
