/** Texts that were read in a wrong encoding: what they were meant to be is shown before it is kept. */
import { Box, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked } from "../api/client";
import { BeforeAfter } from "./before-after";
import { FormDialog } from "./form-dialog";

export function RepairDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const found = useQuery({
    queryKey: ["tracks", "repairs", picked.chosen],
    queryFn: () => unwrap(client.POST("/api/tracks/repairs", { body: picked.chosen })),
  });
  const keep = useChange(
    () => unwrap(client.POST("/api/tracks/repairs/apply", { body: picked.chosen })),
    ({ total }) => `${counted(total, "text")} repaired. The files are as they were.`,
  );
  const { repairs = [], total = 0 } = found.data ?? {};
  return (
    <FormDialog
      title={`Texts in a wrong encoding, ${counted(picked.count, "track")}`}
      action={total ? `Repair ${counted(total, "text")}` : "Nothing to repair"}
      disabled={!total || keep.isPending}
      width="md"
      onSubmit={() => keep.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      {repairs.map((repair) => (
        <BeforeAfter
          key={`${repair.track_id} ${repair.field}`}
          {...repair}
          title={picked.count > 1 ? repair.title : undefined}
          note={repair.encoding}
        />
      ))}
      {total > repairs.length && <Box sx={{ py: 0.6 }}>and {total - repairs.length} more</Box>}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        {found.error?.message ??
          (total || found.isPending
            ? "What the files say is kept beside it, and Undo takes it back. Locked tags stay as they are."
            : "All texts of these tracks read as they were meant, were set by hand, or are locked.")}
      </DialogContentText>
    </FormDialog>
  );
}
