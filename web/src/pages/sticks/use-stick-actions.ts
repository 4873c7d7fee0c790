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
      ({ plays_taken: plays = 0 }) =>
        plays ? `${counted(plays, "play")} taken in from “${stick.name}”.` : null,
    ),
  };
}
