/** What is asked and changed in the room of twins. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";

export type Line = Schema["TwinLine"];
export type Group = Schema["TwinGroupOut"];
export type Track = Schema["TwinTrack"];
export type Carried = Schema["CarriedOut"];
export type Settlement = Schema["SettlementIn"];

export const twinsQuery = queryOptions({
  queryKey: ["twins", "list"],
  queryFn: () => unwrap(client.GET("/api/twins")),
});

export const groupQuery = (track_ids: number[]) =>
  queryOptions({
    queryKey: ["twins", "group", track_ids],
    queryFn: () => unwrap(client.POST("/api/twins/group", { body: { track_ids } })),
    retry: false,
  });

export const carriedQuery = (body: Settlement) =>
  queryOptions({
    queryKey: ["twins", "carried", body],
    queryFn: () => unwrap(client.POST("/api/twins/look", { body })),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const sureQuery = queryOptions({
  queryKey: ["twins", "sure"],
  queryFn: () => unwrap(client.GET("/api/twins/sure")),
});

export const orderQuery = queryOptions({
  queryKey: ["twins", "order"],
  queryFn: () => unwrap(client.GET("/api/twins/order")),
});

export function useTwinChanges() {
  const settle = useChange(
    (body: Schema["SettleIn"]) => unwrap(client.POST("/api/twins/settle", { body })),
    (_, { copy_ids, copies = [] }) =>
      `Settled: ${counted(copy_ids.length + copies.length, "file")} gave way. Ctrl Z brings all back.`,
  );
  const sure = useChange(
    (aside: boolean) => unwrap(client.POST("/api/twins/sure", { body: { aside } })),
    ({ subject }) => `${subject}: this goes on in the background. Ctrl Z takes back what is done.`,
  );
  const none = useChange(
    (track_ids: number[]) => unwrap(client.POST("/api/twins/not", { body: { track_ids } })),
    () => "Remembered: these are no twins.",
  );
  const copy = useChange(
    (body: Schema["TwinCopyIn"]) => unwrap(client.POST("/api/twins/use-copy", { body })),
    (_, { path }) => `${path.split("/").pop()} is the track's file now; the other is its copy.`,
  );
  const later = useChange(
    (body: Schema["LaterIn"]) => unwrap(client.POST("/api/twins/later", { body })),
    (_, { later: marked }) => (marked ? "It stands at the end, to be looked at once more." : null),
  );
  const order = useChange((body: Schema["OrderOut"]) => unwrap(client.PUT("/api/twins/order", { body })));
  const search = useChange(
    () => unwrap(client.POST("/api/twins/search")),
    () => "All tracks are looked at once more.",
  );
  return { settle, sure, none, copy, later, order, search };
}
