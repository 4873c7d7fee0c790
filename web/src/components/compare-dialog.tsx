/** What another analysis would give: the present values beside the new ones, taken in track by track. */
import { Box, Checkbox, DialogContentText } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Job, type Schema } from "../api/client";
import { BeforeAfter } from "./before-after";
import { FormDialog } from "./form-dialog";

type Difference = Schema["HeardDifferenceOut"];

export function CompareDialog({ job, onClose }: { job: Job; onClose: () => void }) {
  const path = { job_id: job.id };
  const found = useQuery({
    queryKey: ["comparison", path],
    queryFn: () => unwrap(client.GET("/api/analysis/compare/{job_id}", { params: { path } })),
  });
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const take = useChange(
    (ids: number[]) =>
      unwrap(client.POST("/api/analysis/compare/{job_id}/take", { params: { path }, body: { ids } })),
    ({ queued }) => `${counted(queued, "track")} will get what was heard, before all others.`,
  );
  const tracks = grouped(found.data ?? []);
  const chosen = [...tracks.keys()].filter((id) => !left.has(id));
  const toggle = (id: number) => {
    const next = new Set(left);
    if (!next.delete(id)) next.add(id);
    setLeft(next);
  };
  return (
    <FormDialog
      title="What would be different"
      action={chosen.length ? `Take in ${counted(chosen.length, "track")}` : "Nothing to take in"}
      disabled={!chosen.length || take.isPending}
      width="md"
      onSubmit={() => take.mutate(chosen, { onSuccess: onClose })}
      onClose={onClose}
    >
      {[...tracks].map(([id, differences]) => (
        <Box key={id} sx={{ mb: 1 }}>
          <Box component="label" sx={{ display: "flex", alignItems: "center", fontWeight: 600 }}>
            <Checkbox size="small" checked={!left.has(id)} onChange={() => toggle(id)} />
            {differences[0]?.title}
          </Box>
          {differences.map((each) => (
            <BeforeAfter key={each.field} field={each.field} before={each.before} after={each.after} />
          ))}
        </Box>
      ))}
      <DialogContentText sx={{ fontSize: "0.82rem", mt: 1.5 }}>
        {found.error?.message ??
          (found.isPending
            ? "Looking…"
            : tracks.size
              ? "The present values are those of the last analysis. What is locked or was done by hand stays."
              : "Everything would be as it is.")}
      </DialogContentText>
    </FormDialog>
  );
}

function grouped(differences: Difference[]): Map<number, Difference[]> {
  const tracks = new Map<number, Difference[]>();
  for (const each of differences) tracks.set(each.track_id, [...(tracks.get(each.track_id) ?? []), each]);
  return tracks;
}
