/** Other libraries: what is kept about each, the order that goes there, and its ledger. */
import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { finished } from "../../api/jobs";

export type Target = Schema["TargetOut"];
export type Destination = Schema["DestinationOut"];
export type Order = Schema["OrderBody"];
export type Ledger = Schema["LedgerOut"];
export type Choice = Schema["ChoiceOut"];
export type Fate = Schema["CountOut"]["fate"];

export const FATES = ["as it is", "changed", "left here"] as const satisfies readonly Fate[];

export const targetsQuery = queryOptions({
  queryKey: ["exchange-targets"],
  queryFn: () => unwrap(client.GET("/api/exchange/targets")),
  staleTime: Infinity,
});
export const destinationsQuery = queryOptions({
  queryKey: ["exchange", "destinations"],
  queryFn: () => unwrap(client.GET("/api/exchange/destinations")),
});
export const carryingsQuery = queryOptions({
  queryKey: ["exchange", "carryings"],
  queryFn: () => unwrap(client.GET("/api/exchange/carryings")),
});

/** The ledger of an order, made anew whenever the order or the library is another. */
export const ledgerQuery = (order: Order) =>
  queryOptions({
    queryKey: ["exchange", "ledger", order],
    queryFn: async ({ signal }) => {
      const job = await finished(await unwrap(client.POST("/api/exchange/ledgers", { body: order })), signal);
      return unwrap(client.GET("/api/exchange/ledgers/{job_id}", { params: { path: { job_id: job.id } } }));
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });

export function useDestinations() {
  const targets = useQuery(targetsQuery).data;
  const destinations = useQuery(destinationsQuery).data;
  return targets && destinations ? { targets, destinations } : null;
}

/** Making, changing and forgetting destinations. */
export function useDestinationActions() {
  const at = (id: number) => ({ params: { path: { destination_id: id } } });
  return {
    make: useChange((body: Schema["DestinationIn"]) =>
      unwrap(client.POST("/api/exchange/destinations", { body })),
    ),
    change: useChange(({ id, ...body }: Schema["DestinationIn"] & { id: number }) =>
      unwrap(client.PUT("/api/exchange/destinations/{destination_id}", { ...at(id), body })),
    ),
    forget: useChange(
      ({ id }: Destination) => unwrap(client.DELETE("/api/exchange/destinations/{destination_id}", at(id))),
      (_, { name }) => `“${name}” is forgotten; what lies there stays. Ctrl Z brings it back.`,
    ),
    carry: useChange((body: Order) => unwrap(client.POST("/api/exchange/carryings", { body }))),
  };
}
