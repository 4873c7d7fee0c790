/** Choosing the crate, or making one, that tracks are put into. */
import { useQuery } from "@tanstack/react-query";
import { counted, useMakeCrate, usePutIntoCrate } from "../api/changes";
import type { Picked } from "../api/client";
import { byHandQuery } from "../api/queries";
import { ChooseDialog } from "./choose-dialog";

/** Choose a crate by typing; a name that is not there yet makes a new one. */
export function PutIntoCrate({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const crates = useQuery(byHandQuery).data ?? [];
  const put = usePutIntoCrate();
  const make = useMakeCrate();
  const into = (crate: { id: number; name: string }) => {
    put.mutate({ crate, chosen: picked.chosen });
    onClose();
  };
  return (
    <ChooseDialog
      title={`Put ${counted(picked.count, "track")} into…`}
      action="Put in"
      label="Crate"
      items={crates}
      saidOf={({ tracks }) => counted(tracks, "track")}
      none="There is no crate yet. Type a name to make one."
      onChoose={into}
      onMake={(name) => make.mutate({ name }, { onSuccess: into })}
      onClose={onClose}
    />
  );
}
