/** Changes to one stick. */
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema, type Stick } from "../../api/client";

export type StickActions = ReturnType<typeof useStickActions>;

export function useStickActions(stick: Stick) {
  const params = { path: { stick_id: stick.id } };
  return {
    choose: useChange((ids: number[]) =>
      unwrap(client.PUT("/api/sticks/{stick_id}/crates", { params, body: { crate_ids: ids } })),
    ),
    players: useChange((players: Schema["PlayerIn"][]) =>
      unwrap(client.PUT("/api/sticks/{stick_id}/players", { params, body: { players } })),
    ),
    options: useChange((body: Schema["OptionsIn"]) =>
      unwrap(client.PUT("/api/sticks/{stick_id}/options", { params, body })),
    ),
    leaveOut: useChange(
      (body: Schema["LeftOutIn"]) => unwrap(client.PUT("/api/sticks/{stick_id}/left-out", { params, body })),
      (_, { left_out, track_ids }) =>
        left_out
          ? `“${stick.name}” goes without ${counted(track_ids.length, "track")}; the lists here stay as they are.`
          : null,
    ),
    fault: useChange((body: Schema["FaultIn"]) =>
      unwrap(client.PUT("/api/sticks/{stick_id}/fault", { params, body })),
    ),
    pack: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pack", { params }))),
    check: useChange((mend: boolean) =>
      unwrap(client.POST("/api/sticks/{stick_id}/check", { params, body: { mend } })),
    ),
    eject: useChange(
      () => unwrap(client.POST("/api/sticks/{stick_id}/eject", { params })),
      () => `Everything is on “${stick.name}”: it can be taken out now.`,
    ),
    pull: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/pull", { params }))),
    insert: useChange(() => unwrap(client.POST("/api/sticks/{stick_id}/insert", { params })), saidOf(stick)),
    takePlays: useChange(
      () => unwrap(client.POST("/api/sticks/{stick_id}/plays", { params })),
      saidOf(stick),
    ),
    takeHome: useChange(
      (body: Schema["ChoicesIn"]) => unwrap(client.POST("/api/sticks/{stick_id}/home", { params, body })),
      ({ taken, failed }) =>
        [`${counted(taken, "value")} taken in from “${stick.name}”.`, ...failed].join(" "),
    ),
    forget: useChange(
      () => unwrap(client.DELETE("/api/sticks/{stick_id}", { params })),
      () => `“${stick.name}” is forgotten; what is on it stays.`,
    ),
  };
}

/** What came of the plays that a player wrote down. */
const saidOf =
  (stick: Stick) =>
  ({ plays_taken: plays = 0, nights = [] }: Stick) => {
    if (!nights.length) return null;
    const joined = nights.filter((night) => night.was_there);
    const shared = joined.reduce((sum, night) => sum + night.shared, 0);
    const known = joined.length
      ? ` ${counted(joined.length, "night")} was in the Logbook already and is joined; ${shared} plays were the same and count once.`
      : "";
    return `${counted(plays, "play")} taken in from “${stick.name}” into the Logbook.${known}`;
  };
