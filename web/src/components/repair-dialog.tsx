/** Texts that were read in a wrong encoding: what they were meant to be is shown before it is kept. */
import { Box, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Schema } from "../api/client";
import { FormDialog } from "./form-dialog";

type Repair = Schema["RepairOut"];

export function RepairDialog({ ids, onClose }: { ids: number[]; onClose: () => void }) {
  const found = useQuery({
    queryKey: ["tracks", "repairs", ids],
    queryFn: () => unwrap(client.POST("/api/tracks/repairs", { body: { ids } })),
  });
  const keep = useChange(
    () => unwrap(client.POST("/api/tracks/repairs/apply", { body: { ids } })),
    ({ total }) => `${counted(total, "text")} repaired. The files are as they were.`,
  );
  const { repairs = [], total = 0 } = found.data ?? {};
  return (
    <FormDialog
      title={`Texts in a wrong encoding, ${counted(ids.length, "track")}`}
      action={total ? `Repair ${counted(total, "text")}` : "Nothing to repair"}
      disabled={!total || keep.isPending}
      width="md"
      onSubmit={() => keep.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      {repairs.map((repair) => (
        <Line key={`${repair.track_id} ${repair.field}`} repair={repair} />
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

function Line({ repair }: { repair: Repair }) {
  return (
    <Box
      sx={{
        ...{ display: "grid", gridTemplateColumns: "90px 1fr 1fr 120px", gap: 1.5, alignItems: "baseline" },
        ...{
          borderBottom: 1,
          borderColor: "divider",
          py: 0.5,
          fontSize: "0.88rem",
          overflowWrap: "anywhere",
        },
      }}
    >
      <Box sx={{ color: "text.secondary" }}>{repair.field === "genre" ? "style" : repair.field}</Box>
      <Box sx={{ color: "text.secondary" }}>{repair.before}</Box>
      <Box sx={{ fontWeight: 600 }}>{repair.after}</Box>
      <Box sx={{ color: "text.secondary", fontSize: "0.78rem" }}>{repair.encoding}</Box>
    </Box>
  );
}
