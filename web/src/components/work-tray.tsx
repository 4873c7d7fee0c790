/** All long work in one place: how far, how long still, how to hold it, and what could not be done. */
import { Box, Button, LinearProgress, Popover } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Job } from "../api/client";
import { isOpen, shareOf } from "../api/jobs";
import { jobsQuery } from "../api/queries";
import { ago, timeLeft } from "./format";
import { JobLine, nameOf, progressOf } from "./job-line";

const FINISHED_SHOWN = 6;

export function WorkTray() {
  const jobs = useQuery(jobsQuery).data ?? [];
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!jobs.length) return null;
  const open = jobs.filter(isOpen);
  const ended = jobs.filter((job) => !isOpen(job)).slice(0, FINISHED_SHOWN);
  return (
    <>
      <TrayButton jobs={open} latest={ended[0]} onOpen={setAnchor} />
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Box
          sx={{
            p: 2,
            width: 380,
            maxHeight: "80vh",
            overflow: "auto",
            display: "flex",
            flexDirection: "column",
            gap: 2,
          }}
        >
          {open.map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
          {ended.map((job) => (
            <JobLine key={job.id} job={job} />
          ))}
        </Box>
      </Popover>
    </>
  );
}

interface ButtonProps {
  jobs: Job[];
  latest: Job | undefined;
  onOpen: (anchor: HTMLElement) => void;
}

/** What goes on now in a line; when nothing does, the last that has ended, if something of it went wrong. */
function TrayButton({ jobs, latest, onOpen }: ButtonProps) {
  const job = jobs.find((each) => each.state === "running") ?? jobs[0];
  const wrong = latest && (latest.failures > 0 || latest.state === "failed");
  if (!job)
    return (
      <Button
        onClick={(e) => onOpen(e.currentTarget)}
        aria-label="Work in the background"
        color={wrong ? "error" : "primary"}
        title={latest ? `${nameOf(latest)}, ${ago(latest.finished_at ?? latest.made_at)}` : undefined}
      >
        {wrong ? "! Work" : "Work"}
      </Button>
    );
  const more = jobs.length > 1 ? ` +${jobs.length - 1}` : "";
  const share = shareOf(job);
  return (
    <Button
      onClick={(e) => onOpen(e.currentTarget)}
      title="Work in the background"
      sx={{ display: "block", width: 216, py: 0.3, textAlign: "left", overflow: "hidden" }}
    >
      <Box sx={{ fontSize: "0.72rem", lineHeight: 1.3, overflow: "hidden", textOverflow: "ellipsis" }}>
        {nameOf(job)}
        {more}, {job.state === "paused" ? "paused" : timeLeft(job.seconds_left) || progressOf(job)}
      </Box>
      <LinearProgress
        aria-label="How far the work is"
        variant={share === null && job.state === "running" ? "indeterminate" : "determinate"}
        value={(share ?? 0) * 100}
        color="info"
        sx={{ height: 3 }}
      />
    </Button>
  );
}
