import { client, unwrap, type Crate } from "../../api/client";
import { useChange } from "../../api/queries";

/** Changes to one crate. */
export function useCrateActions(crate: Crate) {
  const path = { crate_id: crate.id };
  const rename = useChange(
    (name: string) => unwrap(client.PATCH("/api/crates/{crate_id}", { params: { path }, body: { name } })),
    ["crates", "workbench"],
  );
  const drop = useChange(
    () => unwrap(client.DELETE("/api/crates/{crate_id}", { params: { path } })),
    ["crates", "workbench", "sticks"],
    () => `“${crate.name}” was deleted. Undo brings it back.`,
  );
  const remove = useChange(
    (ids: number[]) =>
      unwrap(client.POST("/api/crates/{crate_id}/tracks/remove", { params: { path }, body: { ids } })),
    ["crates", "order", "workbench"],
  );
  const move = useChange(
    ({ ids, to }: { ids: number[]; to: number }) =>
      unwrap(client.POST("/api/crates/{crate_id}/tracks/move", { params: { path }, body: { ids, at: to } })),
    ["order"],
  );
  return { rename, drop, remove, move };
}
