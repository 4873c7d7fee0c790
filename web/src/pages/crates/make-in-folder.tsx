/** Tracks that were let go over a folder become a crate in it, once it has a name. */
import { useState, type ReactNode } from "react";
import { counted, useMakeCrate, usePutIntoCrate } from "../../api/changes";
import type { Crate, Picked } from "../../api/client";
import { NameDialog } from "../../components/name-dialog";

interface Making {
  folder: Crate;
  picked: Picked;
}

/** It goes on when the dialog is closed, so it is kept where tracks are dragged. */
export function useMakeInFolder(): { ask: (folder: Crate, picked: Picked) => void; dialog: ReactNode } {
  const [making, setMaking] = useState<Making | null>(null);
  const make = useMakeCrate();
  const put = usePutIntoCrate();
  const done = ({ folder, picked }: Making, name: string) =>
    make.mutate(
      { name, folder_id: folder.id },
      { onSuccess: (crate) => put.mutate({ crate, chosen: picked.chosen }) },
    );
  const dialog = making && (
    <NameDialog
      title={`A crate in “${making.folder.name}” for ${counted(making.picked.count, "track")}`}
      label="Name"
      action="Make it"
      onDone={(name) => done(making, name)}
      onClose={() => setMaking(null)}
    />
  );
  return { ask: (folder, picked) => setMaking({ folder, picked }), dialog };
}
