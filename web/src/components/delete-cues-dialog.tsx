/** All cues of a kind deleted from the chosen tracks, after saying how many there are; Undo brings them back. */
import { Box } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { cueKindsQuery } from "../api/queries";
import { ChoiceList } from "./choice-list";
import { FormDialog } from "./form-dialog";

type Kind = Schema["CueKindOut"]["kind"];

export function DeleteCuesDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const { data: kinds, error } = useQuery(cueKindsQuery(picked));
  const [chosen, setChosen] = useState<Kind>("all");
  const remove = useChange(
    (kind: Kind) => unwrap(client.POST("/api/tracks/cues/delete", { body: { ...picked.chosen, kind } })),
    ({ cues, tracks, locked }) =>
      `${counted(cues, "cue")} of ${counted(tracks, "track")} deleted; Ctrl Z brings them back.` +
      (locked ? ` ${counted(locked, "track")} kept theirs: they are locked.` : ""),
  );
  const count = kinds?.find(({ kind }) => kind === chosen)?.cues ?? 0;
  return (
    <FormDialog
      title={`Delete cues of ${counted(picked.count, "track")}`}
      action={count ? `Delete ${counted(count, "cue")}` : "Nothing to delete"}
      disabled={!count || remove.isPending}
      onSubmit={() => remove.mutate(chosen, { onSuccess: onClose })}
      onClose={onClose}
    >
      {kinds && (
        <ChoiceList
          label="Which cues"
          choices={kinds.map(({ kind, name, cues }) => ({
            id: kind,
            primary: name.charAt(0).toUpperCase() + name.slice(1),
            secondary: cues ? counted(cues, kind === "loops" ? "loop" : "cue") : "none",
          }))}
          chosen={chosen}
          onChoose={setChosen}
        />
      )}
      <Box role={error ? "alert" : undefined} sx={{ fontSize: "0.84rem", color: "text.secondary" }}>
        {error
          ? error.message
          : "Locked cues stay. To delete what a cue template has set, open the template on these tracks."}
      </Box>
    </FormDialog>
  );
}
