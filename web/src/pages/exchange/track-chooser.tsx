/** Choosing the track that is tried first, among those that go. */
import type { Condition } from "../../api/client";
import { TrackFinder } from "../../components/track-finder";
import type { Order } from "./use-exchange";

interface Props {
  order: Order;
  onChoose: (trackId: number) => void;
  onClose: () => void;
}

/** Tracks with most cues come first: they show most. */
export function TrackChooser({ order, onChoose, onClose }: Props) {
  const lists = order.lists?.map((list_id) => ({ kind: "list" as const, list_id }));
  const within: Condition | undefined = lists && { kind: "any", parts: lists };
  return (
    <TrackFinder
      title="Which track first?"
      label="Find a track"
      action={() => "Try it"}
      sort="cue_count"
      within={within}
      nothing="None of the tracks that go has these words: type fewer, or tick more lists."
      onChoose={onChoose}
      onClose={onClose}
    />
  );
}
