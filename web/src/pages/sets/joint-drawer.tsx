/** Rehearsing the joints of a set, one after the other: what is changed is kept with the joint at once. */
import { MixDrawer } from "../../components/mix/mix-drawer";
import type { Pair } from "../../components/mix/use-mix";
import type { DjSet, useSetChanges } from "./use-sets";

interface Props {
  set: DjSet;
  /** The outgoing track's place. */
  place: number;
  /** All joints from here on are heard. */
  through: boolean;
  changes: ReturnType<typeof useSetChanges>;
  onPlace: (place: number) => void;
  onClose: () => void;
}

export function JointDrawer({ set, place, through, changes, onPlace, onClose }: Props) {
  const [out, into] = [set.order[place], set.order[place + 1]];
  const joint = set.joints.find(({ out_id }) => out_id === out?.id);
  if (!joint || !out?.on_shelf || !into?.on_shelf || out.track_id === null || into.track_id === null)
    return null;
  const pair: Pair = {
    out: { id: out.track_id, title: out.title || "without a title" },
    into: { id: into.track_id, title: into.title || "without a title" },
  };
  const { settings, note } = joint;
  const said = { out_id: out.id, in_id: into.id, settings, note };
  return (
    <MixDrawer
      key={`${out.id} ${into.id}`}
      {...{ pair, settings, note, through, onClose }}
      keyHeld={set.key_held}
      cautions={joint.cautions.map(({ words, help }) => (help ? `${words}: ${help}` : words))}
      steps="other joints"
      onSettings={(changed) => changes.joint.mutate({ ...said, settings: changed })}
      onNote={(words) => changes.joint.mutate({ ...said, note: words })}
      onStep={(by) => {
        const to = nextHeard(set, place, by);
        if (to !== null) onPlace(to);
        return to !== null;
      }}
    />
  );
}

/** The next place whose joint can be heard: both tracks are on the Shelf. */
export function nextHeard({ order }: DjSet, place: number, by: 1 | -1): number | null {
  for (let to = place + by; to >= 0 && to < order.length - 1; to += by)
    if (order[to]?.on_shelf && order[to + 1]?.on_shelf) return to;
  return null;
}
