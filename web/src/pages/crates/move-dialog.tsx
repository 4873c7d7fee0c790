/** Moving a crate or a folder into a folder, or out of all. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Crate } from "../../api/client";
import { cratesQuery } from "../../api/queries";
import { ChoiceList } from "../../components/choice-list";
import { FormDialog } from "../../components/form-dialog";
import { allWithin, inTree } from "./folders";

export function MoveDialog({ crate, onClose }: { crate: Crate; onClose: () => void }) {
  const crates = useQuery(cratesQuery).data ?? [];
  const [into, setInto] = useState<number | null>(crate.folder_id);
  const params = { path: { crate_id: crate.id } };
  const move = useChange((folder_id: number | null) =>
    unwrap(client.PUT("/api/crates/{crate_id}/folder", { params, body: { folder_id } })),
  );
  const own = new Set([crate.id, ...allWithin(crates, crate.id).map(({ id }) => id)]);
  const folders = inTree(crates).filter((node) => node.crate.is_folder && !own.has(node.crate.id));
  return (
    <FormDialog
      title={`Move “${crate.name}”`}
      action="Move"
      disabled={into === crate.folder_id}
      onSubmit={() => move.mutate(into, { onSuccess: onClose })}
      onClose={onClose}
    >
      <ChoiceList
        label="Folders"
        choices={[
          { id: null, primary: "In no folder" },
          ...folders.map(({ crate: { id, name }, depth }) => ({ id, primary: name, depth })),
        ]}
        chosen={into}
        onChoose={setInto}
      />
    </FormDialog>
  );
}
