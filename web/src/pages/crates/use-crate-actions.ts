/** Changes to one crate. */
import { useChange } from "../../api/changes";
import { client, unwrap, type Crate, type Schema } from "../../api/client";

export function useCrateActions(crate: Crate) {
  const params = { path: { crate_id: crate.id } };
  const rename = useChange((name: string) =>
    unwrap(client.PATCH("/api/crates/{crate_id}", { params, body: { name } })),
  );
  const drop = useChange(
    () => unwrap(client.DELETE("/api/crates/{crate_id}", { params })),
    () => `“${crate.name}” was deleted. Undo brings it back.`,
  );
  const remove = useChange((places: number[]) =>
    unwrap(client.POST("/api/crates/{crate_id}/tracks/remove", { params, body: { places } })),
  );
  const move = useChange(({ places, to, behind }: { places: number[]; to: number; behind: boolean }) =>
    unwrap(client.POST("/api/crates/{crate_id}/tracks/move", { params, body: { places, at: to, behind } })),
  );
  const note = useChange((body: Schema["NoteIn"]) =>
    unwrap(client.PUT("/api/crates/{crate_id}/notes", { params, body })),
  );
  const repeat = useChange(
    (repeats: boolean) => unwrap(client.PATCH("/api/crates/{crate_id}", { params, body: { repeats } })),
    ({ repeats, name }) =>
      `A track can stand in “${name}” ${repeats ? "more than once" : "once only"} from now on.`,
  );
  return { rename, drop, remove, move, note, repeat };
}
