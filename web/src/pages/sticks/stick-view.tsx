/** One stick: which crates it shall carry, the plan, and packing. */
import { Alert, Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { counted } from "../../api/changes";
import type { Stick } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { jobsQuery, planQuery } from "../../api/queries";
import { JobLine } from "../../components/job-line";
import { CrateChoice } from "./crate-choice";
import { PlanView } from "./plan-view";
import { useStickActions, type StickActions } from "./use-stick-actions";

export function StickView({ stick }: { stick: Stick }) {
  const jobs = useQuery(jobsQuery).data ?? [];
  const packing = jobs.find(
    (job) => job.kind === "pack" && isOpen(job) && job.payload["stick_id"] === stick.id,
  );
  const busy = packing !== undefined;
  const plan = useQuery({ ...planQuery(stick), enabled: stick.is_in && !busy });
  const act = useStickActions(stick);
  return (
    <Box
      sx={{
        minHeight: 0,
        overflow: "auto",
        px: 3,
        py: 2,
        display: "flex",
        flexDirection: "column",
        gap: 2,
      }}
    >
      <StickHead stick={stick} busy={busy} act={act} />
      {stick.is_in ? (
        <Box
          sx={{
            display: "grid",
            gridTemplateColumns: "minmax(220px, 300px) minmax(0, 1fr)",
            gap: 4,
            alignItems: "start",
          }}
        >
          <CrateChoice stick={stick} disabled={busy} onChoose={(ids) => act.choose.mutate(ids)} />
          <Box sx={{ minWidth: 0, display: "flex", flexDirection: "column", gap: 1.6 }}>
            {packing ? <JobLine job={packing} /> : <LastRun stick={stick} />}
            {plan.error && <Alert severity="error">{plan.error.message}</Alert>}
            {plan.data && !busy && (
              <PlanView plan={plan.data} stick={stick} onPack={() => act.pack.mutate(undefined)} />
            )}
          </Box>
        </Box>
      ) : (
        <Outside stick={stick} />
      )}
    </Box>
  );
}

function StickHead({ stick, busy, act }: { stick: Stick; busy: boolean; act: StickActions }) {
  return (
    <Box sx={{ display: "flex", alignItems: "flex-start", gap: 1 }}>
      <Box sx={{ flex: 1 }}>
        <Typography variant="h1">{stick.name}</Typography>
        <Box sx={{ color: "text.secondary", fontSize: "0.84rem" }}>
          for {stick.profile.name}. {stick.profile.description}
        </Box>
      </Box>
      {stick.is_in ? (
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
      ) : (
        <Button variant="contained" onClick={() => act.insert.mutate(undefined)}>
          Put it into the computer
        </Button>
      )}
    </Box>
  );
}

function Outside({ stick }: { stick: Stick }) {
  return (
    <>
      <LastRun stick={stick} />
      <Box sx={{ maxWidth: 520, color: "text.secondary" }}>
        It is out of the computer. You can take it to the gig:{" "}
        <Box component="a" href="/player/" target="_blank" rel="noreferrer" sx={{ color: "info.main" }}>
          open the stand-in player
        </Box>{" "}
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
          Packed and verified: {counted(run.tracks ?? 0, "track")} on the stick, {run.written} written
          {run.removed ? `, ${run.removed} removed` : ""}.
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
