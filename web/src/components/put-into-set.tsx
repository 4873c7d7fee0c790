/** Choosing the set, or making one, into whose tray tracks are put. */
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { setsQuery, useSetMaking, type SetLine } from "../pages/sets/use-sets";
import { ChooseDialog } from "./choose-dialog";
import { day } from "./format";

type Named = { id: number; name: string };

function usePutIntoTray() {
  return useChange(
    ({ set, chosen }: { set: Named; chosen: Schema["Chosen"] }) =>
      unwrap(
        client.POST("/api/sets/{set_id}/tracks", {
          params: { path: { set_id: set.id } },
          body: { ...chosen, placed: false },
        }),
      ),
    ({ added }, { set }) =>
      added
        ? `${counted(added, "track")} put into the tray of “${set.name}”.`
        : `“${set.name}” has them already.`,
  );
}

/** Choose a set by typing; a name that is not there yet makes a new one. */
export function PutIntoSet({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const sets = useQuery(setsQuery).data ?? [];
  const put = usePutIntoTray();
  const { make } = useSetMaking();
  const into = (set: Named) => {
    put.mutate({ set, chosen: picked.chosen });
    onClose();
  };
  const makeNew = (name: string) =>
    make.mutate(
      { name, venue: "", on_day: "", begins: "", ends: "" },
      { onSuccess: ({ id }) => into({ id, name }) },
    );
  const saidOf = ({ venue, on_day, placed, in_tray }: SetLine) =>
    [venue, on_day && day(on_day), counted(placed + in_tray, "track")].filter(Boolean).join(", ");
  return (
    <ChooseDialog
      title={`Put ${counted(picked.count, "track")} into the tray of…`}
      action="Put in"
      label="Set"
      items={sets}
      saidOf={saidOf}
      none="There is no set yet. Type a name to make one."
      onChoose={into}
      onMake={makeNew}
      onClose={onClose}
    />
  );
}
