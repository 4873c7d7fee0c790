/** One stick: what it carries and for whom, what came home on it, the plan, packing and checking. */
import { Alert, Box, Button, Link, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted } from "../../api/changes";
import type { Stick } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { jobsQuery, planQuery } from "../../api/queries";
import { Confirm } from "../../components/confirm";
import { ago, plural, size } from "../../components/format";
import { JobLine } from "../../components/job-line";
import { CameHome } from "./came-home";
import { CrateChoice } from "./crate-choice";
import { FaultLine } from "./fault-line";
import { LeftOut } from "./left-out";
import { LeftOutLines } from "./left-out-lines";
import { PlanView } from "./plan-view";
import { PlayersLine } from "./players-line";
import { useStickActions, type StickActions } from "./use-stick-actions";

export function StickView({ stick }: { stick: Stick }) {
  const jobs = useQuery(jobsQuery).data ?? [];
  const working = jobs.find(
    (job) =>
      (job.kind === "pack" || job.kind === "check") && isOpen(job) && job.payload["stick_id"] === stick.id,
  );
  const busy = working !== undefined;
  const plan = useQuery({ ...planQuery(stick), enabled: stick.is_in && !busy });
  const act = useStickActions(stick);
  return (
    <Box
      sx={{
        ...{ minHeight: 0, overflow: "auto", px: 3, py: 2 },
        ...{ display: "flex", flexDirection: "column", gap: 2 },
      }}
    >
      <StickHead stick={stick} busy={busy} act={act} />
      {stick.left_out_lines.length > 0 && <LeftOutLines lines={stick.left_out_lines} />}
      {stick.is_in && !busy && stick.came_home > 0 && <CameHome stick={stick} act={act} />}
      {stick.is_in ? (
        <Box
          sx={{
            ...{ display: "grid", gridTemplateColumns: "minmax(220px, 300px) minmax(0, 1fr)" },
            ...{ gap: 4, alignItems: "start" },
          }}
        >
          <Box>
            <CrateChoice stick={stick} disabled={busy} onChoose={(ids) => act.choose.mutate(ids)} />
            {stick.left_out.length > 0 && <LeftOut stick={stick} act={act} />}
          </Box>
          <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", gap: 1.6 }}>
            <PlayersLine stick={stick} busy={busy} act={act} />
            {working ? <JobLine job={working} /> : <LastRun stick={stick} />}
            {!working && <LastCheck stick={stick} act={act} />}
            {plan.error && <Alert severity="error">{plan.error.message}</Alert>}
            {plan.data && !busy && <PlanView plan={plan.data} stick={stick} act={act} />}
            {stick.kind === "stand-in" && <FaultLine stick={stick} act={act} />}
          </Box>
        </Box>
      ) : (
        <Outside stick={stick} />
      )}
    </Box>
  );
}

function StickHead({ stick, busy, act }: { stick: Stick; busy: boolean; act: StickActions }) {
  const [forgetting, setForgetting] = useState(false);
  return (
    <Box sx={{ display: "flex", alignItems: "flex-start", gap: 1 }}>
      <Box sx={{ flex: 1 }}>
        <Typography variant="h1">{stick.name}</Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.84rem", overflowWrap: "anywhere" }}>
          {saysOf(stick)}
        </Box>
      </Box>
      {stick.is_in && (
        <Button
          disabled={busy || !stick.packed_at}
          title="Read everything back and compare it with what was written"
          onClick={() => act.check.mutate(false)}
        >
          Check
        </Button>
      )}
      <Inside stick={stick} busy={busy} act={act} />
      <Button disabled={busy} onClick={() => setForgetting(true)}>
        Forget…
      </Button>
      <Confirm
        open={forgetting}
        title={`Forget “${stick.name}”?`}
        action="Forget it"
        onConfirm={() => act.forget.mutate(undefined)}
        onClose={() => setForgetting(false)}
      >
        Vinyl does not know it any more. What is on it stays, and so do your lists and files here.
      </Confirm>
    </Box>
  );
}

/** Taking it out, and putting it in. */
function Inside({ stick, busy, act }: { stick: Stick; busy: boolean; act: StickActions }) {
  if (stick.kind === "drive")
    return (
      <>
        <Button disabled={!stick.is_in} onClick={() => act.takePlays.mutate(undefined)}>
          Take in plays
        </Button>
        <Button disabled={busy || !stick.is_in} onClick={() => act.eject.mutate(undefined)}>
          Eject
        </Button>
      </>
    );
  if (!stick.is_in)
    return (
      <Button variant="contained" onClick={() => act.insert.mutate(undefined)}>
        Put it into the computer
      </Button>
    );
  return (
    <>
      <Button disabled={busy} onClick={() => act.eject.mutate(undefined)}>
        Eject
      </Button>
      <Button
        onClick={() => act.pull.mutate(undefined)}
        title="The stand-in for pulling it out without ejecting, even while it is written"
      >
        Pull out
      </Button>
    </>
  );
}

function saysOf(stick: Stick): string {
  const parts = [
    stick.kind === "stand-in" ? "a stand-in" : [stick.folder, stick.file_system].filter(Boolean).join(", "),
    stick.packed_at ? `packed ${ago(stick.packed_at)}` : "never packed",
    stick.checked_at ? `checked ${ago(stick.checked_at)}` : "",
    stick.rate ? `takes ${size(stick.rate)} a second` : "",
  ];
  return parts.filter(Boolean).join(" · ");
}

function Outside({ stick }: { stick: Stick }) {
  const player = `/player/?as=${encodeURIComponent(stick.players[0]?.profile ?? "")}`;
  return (
    <>
      <LastRun stick={stick} />
      <Box sx={{ maxWidth: 520, color: "text.secondary" }}>
        It is out of the computer. You can take it to the gig:{" "}
        <Link href={player} target="_blank" rel="noreferrer" color="info.main">
          open the stand-in player
        </Link>{" "}
        to hear it.
      </Box>
    </>
  );
}

/** How the stick was packed last; files that could not go are told with their reasons. */
function LastRun({ stick }: { stick: Stick }) {
  const run = stick.last_run;
  const jobs = useQuery(jobsQuery).data ?? [];
  if (!run || ["running", "waiting", "paused"].includes(run.state)) return null;
  const job = jobs.find((each) => each.id === run.job_id);
  const failed = run.failures > 0 && job ? <JobLine job={job} /> : null;
  if (run.state === "done")
    return (
      <>
        <Alert severity="success" variant="outlined">
          {run.unchanged
            ? `Nothing to write: ${counted(run.tracks ?? 0, "track")} on the stick, all as they should be.`
            : `Packed and verified: ${counted(run.tracks ?? 0, "track")} on the stick, ${run.written} written${
                run.removed ? `, ${run.removed} removed` : ""
              }.`}
        </Alert>
        {failed}
      </>
    );
  return (
    <Alert severity={run.state === "failed" ? "error" : "info"} variant="outlined">
      {run.error ?? "Packing was cancelled. What is finished stays on the stick; pack again to go on."}
    </Alert>
  );
}

/** What the last check found, if nothing was packed since. */
function LastCheck({ stick, act }: { stick: Stick; act: StickActions }) {
  const check = stick.last_check;
  const older = (check?.finished_at ?? "") < (stick.last_run?.finished_at ?? "");
  if (check?.state !== "done" || older) return null;
  if (!check.damaged)
    return (
      <Alert severity="success" variant="outlined">
        Checked: {plural(check.files ?? 0, "file")}, all whole, bit for bit.
      </Alert>
    );
  return (
    <Alert
      severity="error"
      variant="outlined"
      action={<Button onClick={() => act.pack.mutate(undefined)}>Mend it</Button>}
    >
      {plural(check.damaged, "file")} of {check.files} {check.damaged === 1 ? "is" : "are"} not what was
      written. See Work for their names.
    </Alert>
  );
}
