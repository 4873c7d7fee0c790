/** The tag card beside a list, for the chosen tracks. */
import { counted } from "../api/changes";
import type { Picked } from "../api/client";
import { Side } from "./side";
import { TagCard } from "./tag-card";

interface Props {
  picked: Picked;
  onClose: () => void;
}

export function TagPanel({ picked, onClose }: Props) {
  const title = picked.count > 1 ? `Tags of ${counted(picked.count, "track")}` : "Tags";
  return (
    <Side title={title} onClose={onClose}>
      <TagCard picked={picked} />
    </Side>
  );
}
