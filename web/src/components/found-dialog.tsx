/** Files that may be those of tracks that are away: what speaks for each, and taking the ones that are right. */
import { Box, Checkbox, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Job, type Schema } from "../api/client";
import { FIGURES } from "../theme";
import { FormDialog } from "./form-dialog";

type Found = Schema["FoundOut"];
/** Below this, one should look twice: it is not ticked. */
const SURE = 0.75;

export function FoundDialog({ job, onClose }: { job: Job; onClose: () => void }) {
  const path = { job_id: job.id };
  const query = useQuery({
    queryKey: ["found again", path],
    queryFn: () => unwrap(client.GET("/api/away/found/{job_id}", { params: { path } })),
  });
  const [turned, setTurned] = useState<ReadonlySet<number>>(new Set());
  const take = useChange(
    (ids: number[]) =>
      unwrap(client.POST("/api/away/found/{job_id}/take", { params: { path }, body: { ids } })),
    ({ taken }) =>
      `${counted(taken, "track")} found again; whether the sound is the same is being looked at.`,
  );
  const found = query.data ?? [];
  const isChosen = (each: Found) => each.confidence >= SURE !== turned.has(each.track_id);
  const chosen = found.filter(isChosen).map((each) => each.track_id);
  const toggle = (id: number) => {
    const next = new Set(turned);
    if (!next.delete(id)) next.add(id);
    setTurned(next);
  };
  return (
    <FormDialog
      title="Files that were found"
      action={chosen.length ? `These are the files of ${counted(chosen.length, "track")}` : "Nothing to take"}
      disabled={!chosen.length || take.isPending}
      width="md"
      onSubmit={() => take.mutate(chosen, { onSuccess: onClose })}
      onClose={onClose}
    >
      {found.map((each) => (
        <FoundLine
          key={each.track_id}
          found={each}
          chosen={isChosen(each)}
          onToggle={() => toggle(each.track_id)}
        />
      ))}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        {query.error?.message ??
          (query.isPending
            ? "Looking…"
            : found.length
              ? "Cues, grids and places in crates stay with the tracks. Nothing on the disk is changed."
              : "No file in this folder is like one that is away. Plug in the drive that they lay on, or look in a folder further up.")}
      </DialogContentText>
    </FormDialog>
  );
}

function FoundLine({ found, chosen, onToggle }: { found: Found; chosen: boolean; onToggle: () => void }) {
  const path = { fontFamily: FIGURES, fontSize: "0.74rem", overflowWrap: "anywhere" };
  return (
    <Box
      component="label"
      sx={{
        display: "grid",
        gridTemplateColumns: "auto 1fr auto",
        gap: 1,
        py: 0.6,
        borderBottom: 1,
        borderColor: "divider",
      }}
    >
      <Checkbox size="small" checked={chosen} onChange={onToggle} />
      <Box sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 600 }}>{found.title}</Box>
        <Box sx={{ ...path, color: "text.secondary" }}>{found.before}</Box>
        <Box sx={path}>→ {found.after}</Box>
      </Box>
      <Box sx={{ textAlign: "right", fontSize: "0.82rem" }}>
        <Box sx={{ fontFamily: FIGURES }}>{Math.round(100 * found.confidence)} %</Box>
        <Box sx={{ color: "text.secondary" }}>{found.evidence.join(", ")}</Box>
      </Box>
    </Box>
  );
}
