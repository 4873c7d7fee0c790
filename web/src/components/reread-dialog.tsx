/** Reading the tags of tracks again: what the files say now is shown before it is taken in. */
import { Box, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked } from "../api/client";
import { BeforeAfter } from "./before-after";
import { FormDialog } from "./form-dialog";

export function RereadDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const found = useQuery({
    queryKey: ["tracks", "tag differences", picked.chosen],
    queryFn: () => unwrap(client.POST("/api/tracks/tags/differences", { body: picked.chosen })),
  });
  const take = useChange(
    () => unwrap(client.POST("/api/tracks/tags/again", { body: picked.chosen })),
    () => `The tags of ${counted(picked.count, "track")} are taken in, in the background.`,
  );
  const { differences = [], more = 0 } = found.data ?? {};
  const some = differences.length > 0 || more > 0;
  return (
    <FormDialog
      title={`What the files say now, ${counted(picked.count, "track")}`}
      action={some ? "Take it in" : "Nothing is different"}
      disabled={!some || take.isPending}
      width="md"
      onSubmit={() => take.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      {differences.map((each) => (
        <BeforeAfter
          key={`${each.track_id} ${each.field} ${each.after}`}
          {...each}
          title={picked.count > 1 ? each.title : undefined}
        />
      ))}
      {more > 0 && <Box sx={{ py: 0.6 }}>and whatever is different in {counted(more, "more track")}</Box>}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        {found.error?.message ??
          (found.isPending
            ? "Reading the files…"
            : "What was set by hand or is locked goes on to win, and Undo takes it back.")}
      </DialogContentText>
    </FormDialog>
  );
}
