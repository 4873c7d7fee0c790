/** Changes to a whole list: its dividers, its order, its looks, and what it shares with others. */
import { useChange } from "../../api/changes";
import { client, unwrap, type Crate, type Schema } from "../../api/client";

export function useListChanges({ id, name }: Crate) {
  const params = { path: { crate_id: id } };
  return {
    addDivider: useChange((body: Schema["DividerIn"]) =>
      unwrap(client.POST("/api/crates/{crate_id}/dividers", { params, body })),
    ),
    keepDividers: useChange(() => unwrap(client.POST("/api/crates/{crate_id}/dividers/keep", { params }))),
    divideBy: useChange((by: string) =>
      unwrap(client.PUT("/api/crates/{crate_id}/divided-by", { params, body: { by } })),
    ),
    combine: useChange(
      (body: Schema["CombineIn"]) => unwrap(client.POST("/api/crates/{crate_id}/combine", { params, body })),
      ({ tracks }, { how }) => `${tracks} ${how === "merge" ? "came into" : "left"} “${name}”.`,
    ),
    arrange: useChange((body: Schema["ArrangeIn"]) =>
      unwrap(client.POST("/api/crates/{crate_id}/arrange", { params, body })),
    ),
    copy: useChange((wanted: string) =>
      unwrap(client.POST("/api/crates/{crate_id}/copy", { params, body: { name: wanted } })),
    ),
    looks: useChange((body: Schema["LooksIn"]) =>
      unwrap(client.PUT("/api/crates/{crate_id}/looks", { params, body })),
    ),
  };
}

export function useDividerChanges() {
  return {
    change: useChange(({ id, body }: { id: number; body: Schema["DividerChange"] }) =>
      unwrap(client.PATCH("/api/dividers/{divider_id}", { params: { path: { divider_id: id } }, body })),
    ),
    remove: useChange((id: number) =>
      unwrap(client.DELETE("/api/dividers/{divider_id}", { params: { path: { divider_id: id } } })),
    ),
  };
}

/** Moves a crate or folder in the tree: into a folder or out of all, before another or behind all. */
export function useMoveList() {
  return useChange(({ id, ...body }: { id: number } & Schema["IntoFolder"]) =>
    unwrap(client.PUT("/api/crates/{crate_id}/folder", { params: { path: { crate_id: id } }, body })),
  );
}
