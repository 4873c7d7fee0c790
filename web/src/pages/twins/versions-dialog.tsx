/** Keeping all files of a group as versions of one work. */
import { clock } from "../../components/format";
import { VersionsForm } from "../../components/versions-dialog";
import type { Group } from "./use-twins";

interface Props {
  group: Group;
  onClose: () => void;
  onDone: () => void;
}

export function VersionsDialog({ group, onClose, onDone }: Props) {
  const lines = group.tracks.map(({ track_id, path, duration_s }) => ({
    id: track_id,
    words: `${path.split("/").pop()}, ${clock(duration_s)}`,
    kind: "",
  }));
  return (
    <VersionsForm
      title="Keep all, as versions of one work"
      name={group.tracks[0]?.title ?? ""}
      lines={lines}
      onClose={onClose}
      onDone={onDone}
    />
  );
}
