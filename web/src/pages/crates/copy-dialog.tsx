/** A copy of a list, under a name; it is opened then. */
import { useNavigate } from "react-router";
import type { Crate } from "../../api/client";
import { NameDialog } from "../../components/name-dialog";
import { useListChanges } from "./list-changes";

export function CopyDialog({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const navigate = useNavigate();
  const { copy } = useListChanges(crate);
  return (
    <NameDialog
      title={`Make a copy of “${crate.name}”`}
      label="Name"
      action="Copy"
      initial={`${crate.name}, copy`}
      onClose={onClose}
      onDone={(name) => copy.mutate(name, { onSuccess: ({ id }) => void navigate(`/crates/${id}`) })}
    />
  );
}
