/** Changes to one stick. */
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Stick } from "../../api/client";

export type StickActions = ReturnType<typeof useStickActions>;

export function useStickActions(stick: Stick) {
  const params = { path: { stick_id: stick.id } };
  return {
    choose: useChange((ids: number[]) =>
      unwrap(client.PUT("/api/sticks/{stick_id}/crates", { params, body: { crate_ids: ids } })),
    ),
    pack: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pack", { params }))),
    eject: useChange(
      () => unwrap(client.POST("/api/sticks/{stick_id}/eject", { params })),
      () => `“${stick.name}” can be taken out now.`,
    ),
    pull: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pull", { params }))),
    insert: useChange(
      () => unwrap(client.POST("/api/sticks/{stick_id}/insert", { params })),
      ({ plays_taken: plays = 0, nights = [] }) => {
        if (!nights.length) return null;
        const joined = nights.filter((night) => night.was_there);
        const shared = joined.reduce((sum, night) => sum + night.shared, 0);
        const known = joined.length
          ? ` ${counted(joined.length, "night")} was in the Logbook already and is joined; ${shared} plays were the same and count once.`
          : "";
        return `${counted(plays, "play")} taken in from “${stick.name}” into the Logbook.${known}`;
      },
    ),
  };
}
