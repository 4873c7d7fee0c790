/** Changes to one crate. */
import { useChange } from "../../api/changes";
import { client, unwrap, type Crate } from "../../api/client";

export function useCrateActions(crate: Crate) {
  const params = { path: { crate_id: crate.id } };
  const rename = useChange((name: string) =>
    unwrap(client.PATCH("/api/crates/{crate_id}", { params, body: { name } })),
  );
  const drop = useChange(
    () => unwrap(client.DELETE("/api/crates/{crate_id}", { params })),
    () => `“${crate.name}” was deleted. Undo brings it back.`,
  );
  const remove = useChange((ids: number[]) =>
    unwrap(client.POST("/api/crates/{crate_id}/tracks/remove", { params, body: { ids } })),
  );
  const move = useChange(({ ids, to, behind }: { ids: number[]; to: number; behind: boolean }) =>
    unwrap(client.POST("/api/crates/{crate_id}/tracks/move", { params, body: { ids, at: to, behind } })),
  );
  return { rename, drop, remove, move };
}
