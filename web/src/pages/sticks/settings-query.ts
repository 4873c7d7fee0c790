/** Sets of players' settings. */
import { queryOptions } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";

export const settingsQuery = queryOptions({
  queryKey: ["sticks", "settings"],
  queryFn: () => unwrap(client.GET("/api/sticks/settings")),
});

export const knownSettingsQuery = queryOptions({
  queryKey: ["sticks", "settings", "known"],
  queryFn: () => unwrap(client.GET("/api/sticks/settings/known")),
  staleTime: Infinity,
});
