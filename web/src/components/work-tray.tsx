import { Box, Button, LinearProgress, Popover, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schema } from "../api/client";
import { counted, useChange, workQuery } from "../api/queries";
import { size, timeLeft } from "./format";

type Work = Schema["Work"];

/** All long work in one place: how far, how long still, and how to stop it. */
export function WorkTray() {
  const work = useQuery(workQuery).data;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!work) return null;
  const summary = summarise(work);
  if (!summary) return null;
  return (
    <>
      <Button
        onClick={(e) => setAnchor(e.currentTarget)}
        aria-label="Work in the background"
        sx={{ display: "block", width: 216, py: 0.3, textAlign: "left", overflow: "hidden" }}
      >
        <Box sx={{ fontSize: "0.72rem", lineHeight: 1.3, overflow: "hidden", textOverflow: "ellipsis" }}>
          {summary.text}
        </Box>
        <LinearProgress
          variant={summary.share === null ? "indeterminate" : "determinate"}
          value={(summary.share ?? 0) * 100}
          color="info"
          sx={{ height: 3 }}
        />
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "right" }}
        transformOrigin={{ vertical: "top", horizontal: "right" }}
      >
        <Box sx={{ p: 2, width: 360, display: "flex", flexDirection: "column", gap: 2 }}>
          {work.imports.map((run) => (
            <ImportLine key={run.id} run={run} />
          ))}
          <AnalysisLine work={work.analysis} />
          {work.packing.map((pack) => (
            <PackLine key={pack.stick_id} pack={pack} />
          ))}
        </Box>
      </Popover>
    </>
  );
}

function summarise(work: Work): { text: string; share: number | null } | null {
  const pack = work.packing[0];
  if (pack)
    return {
      text: `Packing ${pack.stick}, ${timeLeft(pack.seconds_left)}`,
      share: pack.total_bytes ? pack.done_bytes / pack.total_bytes : null,
    };
  const run = work.imports[0];
  if (run)
    return {
      text: `Importing, ${run.done} of ${run.total ?? "…"}`,
      share: run.total ? run.done / run.total : null,
    };
  const { waiting, paused, done, in_hand, seconds_left } = work.analysis;
  if (waiting || in_hand)
    return {
      text: `Analysing, ${waiting} left, ${timeLeft(seconds_left)}`,
      share: done / Math.max(done + waiting, 1),
    };
  if (paused) return { text: `Analysis paused, ${paused} left`, share: 0 };
  return null;
}

function Line({
  title,
  text,
  share,
  children,
}: {
  title: string;
  text: string;
  share: number | null;
  children: React.ReactNode;
}) {
  return (
    <Box>
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", gap: 1 }}>
        <Typography variant="h2" sx={{ fontSize: "0.95rem" }}>
          {title}
        </Typography>
        {children}
      </Box>
      <LinearProgress
        variant={share === null ? "indeterminate" : "determinate"}
        value={(share ?? 0) * 100}
        color="info"
        sx={{ my: 0.7 }}
      />
      <Typography variant="overline" sx={{ overflowWrap: "anywhere" }}>
        {text}
      </Typography>
    </Box>
  );
}

export function ImportLine({ run }: { run: Schema["ImportOut"] }) {
  const cancel = useChange(
    () => unwrap(client.POST("/api/imports/{run_id}/cancel", { params: { path: { run_id: run.id } } })),
    ["imports", "work"],
  );
  return (
    <Line
      title="Import"
      text={`${run.done} of ${run.total ?? "…"} files of ${run.folder}. ${timeLeft(run.seconds_left)}`}
      share={run.total ? run.done / run.total : null}
    >
      <Button onClick={() => cancel.mutate(undefined)}>Cancel import</Button>
    </Line>
  );
}

export function AnalysisLine({ work }: { work: Schema["AnalysisWork"] }) {
  const pause = useChange(() => unwrap(client.POST("/api/analysis/pause")), ["work", "rows"]);
  const resume = useChange(() => unwrap(client.POST("/api/analysis/resume")), ["work", "rows"]);
  const busy = work.waiting + work.in_hand > 0;
  if (!busy && !work.paused && !work.failed) return null;
  const parts = [
    busy && `${work.done} done, ${work.waiting} left. ${timeLeft(work.seconds_left)}`,
    work.paused > 0 && `${counted(work.paused, "track")} paused`,
    work.failed > 0 && `${counted(work.failed, "track")} could not be analysed`,
  ];
  return (
    <Line
      title="Analysis"
      text={parts.filter(Boolean).join("; ")}
      share={work.done / Math.max(work.done + work.waiting + work.paused, 1)}
    >
      {busy && work.waiting > 0 && <Button onClick={() => pause.mutate(undefined)}>Pause</Button>}
      {!busy && (
        <Button onClick={() => resume.mutate(undefined)}>{work.paused ? "Go on" : "Try again"}</Button>
      )}
    </Line>
  );
}

export function PackLine({ pack }: { pack: Schema["PackWork"] }) {
  const cancel = useChange(
    () =>
      unwrap(client.POST("/api/sticks/{stick_id}/cancel", { params: { path: { stick_id: pack.stick_id } } })),
    ["work", "sticks"],
  );
  const text = `${pack.done_files} of ${counted(pack.total_files, "file")}, ${size(pack.done_bytes)} of ${size(pack.total_bytes)}. ${timeLeft(pack.seconds_left)} ${pack.current}`;
  return (
    <Line
      title={`Packing ${pack.stick}`}
      text={text}
      share={pack.total_bytes ? pack.done_bytes / pack.total_bytes : null}
    >
      <Button onClick={() => cancel.mutate(undefined)}>Cancel packing</Button>
    </Line>
  );
}
