/** Saying which track of the Shelf a play was of. */
import { TrackFinder } from "../../components/track-finder";
import type { NightActions } from "./night-actions";
import type { Play } from "./play-row";

interface Props {
  play: Play;
  actions: NightActions;
  onClose: () => void;
}

export function MatchDialog({ play, actions, onClose }: Props) {
  return (
    <TrackFinder
      title={`Which track was “${[play.artist, play.title].filter(Boolean).join(" – ")}”?`}
      label="Find it on the Shelf"
      action={(chosen) => (chosen ? `It was ${chosen.title}` : "It was this")}
      sort="title"
      words={play.title}
      nothing="Nothing on the Shelf has these words. It stays as text."
      onChoose={(track_id) => actions.match.mutate({ id: play.id, track_id })}
      onClose={onClose}
    />
  );
}
