/** Changes of families and tags. */
import { useChange } from "../api/changes";
import { client, unwrap, type Schema } from "../api/client";

export type TagChanges = ReturnType<typeof useTagChanges>;

const ofFamily = (id: number) => ({ params: { path: { family_id: id } } });
const ofTag = (id: number) => ({ params: { path: { tag_id: id } } });

export function useTagChanges() {
  return {
    makeFamily: useChange((name: string) =>
      unwrap(client.POST("/api/tag-families", { body: { name, colour: "blue", sign: "" } })),
    ),
    changeFamily: useChange(({ id, body }: { id: number; body: Schema["FamilyChange"] }) =>
      unwrap(client.PATCH("/api/tag-families/{family_id}", { ...ofFamily(id), body })),
    ),
    deleteFamily: useChange(
      (id: number) => unwrap(client.DELETE("/api/tag-families/{family_id}", ofFamily(id))),
      () => "The family is gone. Undo brings it back.",
    ),
    makeTag: useChange((body: Schema["TagIn"]) => unwrap(client.POST("/api/tags", { body }))),
    changeTag: useChange(({ id, body }: { id: number; body: Schema["TagChange"] }) =>
      unwrap(client.PATCH("/api/tags/{tag_id}", { ...ofTag(id), body })),
    ),
    mergeTag: useChange(
      ({ id, into }: { id: number; into: number }) =>
        unwrap(client.POST("/api/tags/{tag_id}/merge", { ...ofTag(id), body: { into } })),
      () => "Merged. Undo takes it back.",
    ),
    deleteTag: useChange(
      (id: number) => unwrap(client.DELETE("/api/tags/{tag_id}", ofTag(id))),
      () => "The tag is gone. Undo brings it back.",
    ),
  };
}
