/** Copy, cut and paste of tracks in a crate by hand. */
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Crate } from "../../api/client";
import { keepCopy, keepCut, keptCut, type Cut } from "../../components/clipboard";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { useSay } from "../../components/messages";
import type { OpenCrateState } from "./use-open-crate";

export function usePasting(crate: Crate, open: OpenCrateState): void {
  const say = useSay();
  const put = useChange(
    ({ chosen, ...where }: Cut & { at: number | null }) =>
      unwrap(
        client.POST("/api/crates/{crate_id}/tracks", {
          params: { path: { crate_id: crate.id } },
          body: { ...chosen, ...where },
        }),
      ),
    ({ added, already_in: had }) =>
      `${counted(added, "track")} pasted${had ? `; ${had} already in “${crate.name}”` : ""}.`,
  );
  useKeys(KEYS.lists.cut, () => {
    const ids = open.chosen();
    if (!ids.length) return;
    keepCut({ chosen: open.selection.picked().chosen, out_of: crate.id, places: ids });
    say(`${counted(ids.length, "track")} cut: they leave “${crate.name}” where they are pasted.`);
  });
  useKeys(KEYS.lists.paste, () => {
    const cut = keptCut();
    if (!cut) say("Nothing was copied or cut: choose tracks and press Ctrl C first.");
    else if (!open.byHand) say("Go back to your own order first: pasted tracks have a place in it.");
    else if (cut.out_of === crate.id) {
      const moving = (cut.places ?? []).filter((id) => open.ids.includes(id));
      const before = open.ids.slice(0, open.selection.focus + 1).filter((id) => !moving.includes(id));
      open.reorder(moving, before.length, true);
      keepCopy(cut.chosen);
    } else {
      const at = open.selection.focus >= 0 ? open.selection.focus + 1 : null;
      put.mutate({ ...cut, at }, { onSuccess: () => keepCopy(cut.chosen) });
    }
  });
}
