/** One job: what it is, how far, what holds it, and what it could not do with the reasons. */
import { Box, Button, LinearProgress, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { counted } from "../api/changes";
import type { Job } from "../api/client";
import { isOpen, shareOf, useJobActions } from "../api/jobs";
import { failuresQuery } from "../api/queries";
import { CompareDialog } from "./compare-dialog";
import { FoundDialog } from "./found-dialog";
import { ago, size, timeLeft } from "./format";

const VERBS: Record<Job["kind"], string> = {
  import: "Import",
  analysis: "Analysis",
  pack: "Packing",
  check: "Checking",
  rescan: "Rescan",
  route: "Hearing a route",
  "route export": "Writing a route",
  template: "Using a",
  tags: "Reading the tags of",
  write: "Writing into",
  "put back": "Putting the tags back into",
  compare: "Hearing again:",
  "find again": "Looking for missing files in",
  "put aside": "Moving",
  ledger: "Counting",
  carry: "Writing",
  look: "Looking at",
  take: "Taking in from",
  document: "Writing",
  restore: "Restoring",
  demo: "Making the",
  edit: "",
  twins: "Looking for",
  "settle twins": "",
};
/** Work whose name does not stand well after "Cancel". */
const PLAIN: readonly Job["kind"][] = [
  ...(["template", "tags", "write", "put back", "compare", "find again", "put aside"] as const),
  ...(["ledger", "carry", "look", "take", "document", "restore", "demo", "edit", "twins"] as const),
  "settle twins",
];

export function nameOf(job: Job): string {
  if (job.kind === "analysis") return VERBS.analysis;
  if (job.kind === "edit" || job.kind === "settle twins") return job.subject;
  const subject = job.kind === "import" ? (job.subject.split("/").pop() ?? job.subject) : job.subject;
  const within = ["template", "demo", "twins"].includes(job.kind);
  return `${VERBS[job.kind]} ${within ? subject.charAt(0).toLowerCase() + subject.slice(1) : subject}`;
}

/** How far, in the job's own unit. */
export function progressOf(job: Job): string {
  const [done, total] = [job.done, job.total];
  if (job.unit === "byte") return total === null ? "" : `${size(done)} of ${size(total)}${rateOf(job)}`;
  return total === null ? "beginning…" : `${done.toLocaleString("en")} of ${counted(total, job.unit)}`;
}

/** Bytes a second, from what is left and how long that takes. */
function rateOf({ done, total, seconds_left }: Job): string {
  return total && seconds_left && done < total ? ` at ${size((total - done) / seconds_left)} a second` : "";
}

function stateOf(job: Job): string {
  if (job.state === "running")
    return [progressOf(job), timeLeft(job.seconds_left)].filter(Boolean).join(", ");
  if (job.state === "waiting") return "waits for its turn";
  if (job.state === "paused") return `paused, ${progressOf(job)}`;
  const when = ago(job.finished_at ?? job.made_at);
  if (job.state === "done") return `done${leftLocked(job)}, ${progressOf(job)}, ${when}`;
  return `${job.result?.undone ? "ended, because it was undone" : job.state}, ${when}`;
}

/** How many tracks an edit has left as they were. */
function leftLocked({ result }: Job): string {
  const locked = result?.locked;
  return typeof locked === "number" && locked
    ? ` but for ${locked.toLocaleString("en")} that are locked`
    : "";
}

export function JobLine({ job }: { job: Job }) {
  const act = useJobActions();
  const share = shareOf(job);
  return (
    <Box data-job={job.kind}>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", gap: 1 }}>
        <Typography variant="h2" noWrap sx={{ fontSize: "0.95rem" }} title={job.subject}>
          {nameOf(job)}
        </Typography>
        <Box sx={{ display: "flex", gap: 0.5, flex: "none" }}>
          {job.can_pause && job.state === "running" && (
            <Button onClick={() => act.pause.mutate(job)}>Pause</Button>
          )}
          {job.state === "paused" && <Button onClick={() => act.resume.mutate(job)}>Go on</Button>}
          {isOpen(job) && (
            <Button onClick={() => act.cancel.mutate(job)} aria-label={`Cancel ${nameOf(job)}`}>
              Cancel {!PLAIN.includes(job.kind) && VERBS[job.kind].toLowerCase()}
            </Button>
          )}
          {!isOpen(job) && <Outcome job={job} />}
          {job.can_put_back && (
            <Button onClick={() => act.putBack.mutate(job)} title="Give these files the tags they had before">
              Put the old tags back
            </Button>
          )}
          {job.can_retry && <Button onClick={() => act.retry.mutate(job)}>Try again</Button>}
        </Box>
      </Box>
      {isOpen(job) && (
        <LinearProgress
          variant={share === null && job.state === "running" ? "indeterminate" : "determinate"}
          value={(share ?? 0) * 100}
          color="info"
          sx={{ my: 0.7 }}
        />
      )}
      <Typography variant="overline" sx={{ display: "block", overflowWrap: "anywhere" }}>
        {stateOf(job)}
        {job.state === "running" && job.current && `: ${job.current}`}
      </Typography>
      {job.error && (
        <Box role="alert" sx={{ color: "error.main", fontSize: "0.8rem" }}>
          {job.error}
        </Box>
      )}
      {job.failures > 0 && <Failures job={job} />}
    </Box>
  );
}

/** What waits to be looked at once a job has ended. */
const OUTCOMES: Partial<Record<Job["kind"], { words: string; what: typeof CompareDialog }>> = {
  compare: { words: "See what is different", what: CompareDialog },
  "find again": { words: "See what was found", what: FoundDialog },
};

function Outcome({ job }: { job: Job }) {
  const [open, setOpen] = useState(false);
  const outcome = OUTCOMES[job.kind];
  if (!outcome) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>{outcome.words}</Button>
      {open && <outcome.what job={job} onClose={() => setOpen(false)} />}
    </>
  );
}

/** What could not be done: a count that opens the reasons. */
function Failures({ job }: { job: Job }) {
  const [open, setOpen] = useState(false);
  const failures = useQuery({ ...failuresQuery(job.id), enabled: open }).data ?? [];
  return (
    <Box>
      <Button color="error" onClick={() => setOpen(!open)} aria-expanded={open} sx={{ px: 0.8, py: 0 }}>
        {counted(job.failures, job.unit === "byte" ? "file" : job.unit)} could not be done
      </Button>
      {open && (
        <Box component="ul" sx={{ m: 0, pl: 2, fontSize: "0.8rem" }}>
          {failures.map((failure) => (
            <li key={failure.item}>
              {failure.track_id === null ? (
                failure.item
              ) : (
                <Box component={Link} to={`/workbench/${failure.track_id}`} sx={{ color: "inherit" }}>
                  {failure.item}
                </Box>
              )}
              : {failure.reason}
            </li>
          ))}
        </Box>
      )}
    </Box>
  );
}
