/** What is done with nights and with what was played at them. */
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { nights } from "./words";

export type NightActions = ReturnType<typeof useNightActions>;
type Marks = Schema["MarksIn"];

export function useNightActions() {
  return {
    change: useChange(({ id, ...body }: Schema["GigChange"] & { id: number }) =>
      unwrap(client.PATCH("/api/gigs/{gig_id}", { params: { path: { gig_id: id } }, body })),
    ),
    mark: useChange(
      (body: Marks) => unwrap(client.PUT("/api/plays/marks", { body })),
      ({ locked }) =>
        locked ? `${counted(locked, "track")} left as they were: their tags are locked.` : null,
    ),
    remove: useChange((ids: number[]) => unwrap(client.POST("/api/plays/remove", { body: { ids } }))),
    move: useChange((body: Schema["MovedIn"]) => unwrap(client.POST("/api/plays/move", { body }))),
    add: useChange(({ id, ...body }: Partial<Schema["AddIn"]> & { id: number }) =>
      unwrap(
        client.POST("/api/gigs/{gig_id}/plays", {
          params: { path: { gig_id: id } },
          body: { track_ids: [], text: "", ...body },
        }),
      ),
    ),
    match: useChange(({ id, track_id }: { id: number; track_id: number | null }) =>
      unwrap(
        client.PUT("/api/plays/{play_id}/track", { params: { path: { play_id: id } }, body: { track_id } }),
      ),
    ),
    throwAway: useChange(
      (body: Schema["ThrownIn"]) => unwrap(client.POST("/api/gigs/thrown-away", { body })),
      (_, { ids, practice }) =>
        practice ? `${nights(ids.length)} thrown away as practice.` : `${nights(ids.length)} brought back.`,
    ),
    removeNights: useChange((ids: number[]) => unwrap(client.POST("/api/gigs/delete", { body: { ids } }))),
    name: useChange(
      (body: Schema["NamingIn"]) => unwrap(client.POST("/api/gigs/name", { body })),
      (_, { ids }) => `${nights(ids.length)} named.`,
    ),
    join: useChange((ids: number[]) => unwrap(client.POST("/api/gigs/join", { body: { ids } }))),
    split: useChange(({ id, play_id }: { id: number; play_id: number }) =>
      unwrap(
        client.POST("/api/gigs/{gig_id}/split", { params: { path: { gig_id: id } }, body: { play_id } }),
      ),
    ),
  };
}
