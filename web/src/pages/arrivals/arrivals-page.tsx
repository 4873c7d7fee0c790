/** Arrivals: where new music comes in. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type ImportRun, type Schema } from "../../api/client";
import { isOpen } from "../../api/jobs";
import { importsQuery, jobsQuery, offeredQuery } from "../../api/queries";
import { Empty } from "../../components/empty";
import { FirstSteps } from "../../components/first-steps";
import { ago } from "../../components/format";
import { JobLine } from "../../components/job-line";
import type { Window } from "../../components/tempo-window";
import { FIGURES } from "../../theme";
import { AnalysisRules } from "./analysis-rules";
import { Away } from "./away";
import { DropFiles } from "./drop-files";
import { FolderChooser } from "./folder-chooser";
import { ImportReport } from "./import-report";
import { OffShelf } from "./off-shelf";
import { PlaylistDialog } from "./playlist-dialog";
import { Watched } from "./watched";

export function ArrivalsPage() {
  const imports = useQuery(importsQuery).data;
  const jobs = useQuery(jobsQuery).data ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [playlist, setPlaylist] = useState<string | null>(null);
  const start = useChange((body: Schema["ImportIn"]) => unwrap(client.POST("/api/imports", { body })));
  const add = (paths: string[], window: Window | null = null) =>
    start.mutate({ paths, window }, { onSuccess: (run) => setChosen(run.id) });
  const run = imports?.find((each) => each.id === chosen) ?? imports?.[0];
  const analysis = jobs.find((job) => job.kind === "analysis");
  const shown = jobs.filter((job) => (job.kind === "import" || job.kind === "demo") && isOpen(job));
  const search = jobs.find((job) => job.kind === "find again");
  if (search) shown.unshift(search);
  if (analysis && (isOpen(analysis) || analysis.failures)) shown.push(analysis);
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "grid", gridTemplateColumns: "340px 1fr" }}>
      <Side>
        <Offered onAdd={add} onChoose={() => setChoosing(true)} busy={start.isPending} />
        <Watched />
        <Away />
        <OffShelf />
        <AnalysisRules />
        {shown.map((job) => (
          <JobLine key={job.id} job={job} />
        ))}
        <Runs runs={imports ?? []} chosen={run?.id ?? null} onChoose={setChosen} />
      </Side>
      {run ? (
        <ImportReport key={run.id} run={run} onAgain={setChosen} />
      ) : (
        <NothingYet onChoose={() => setChoosing(true)} />
      )}
      {choosing && (
        <FolderChooser
          title="Choose a folder, files or a playlist"
          action="Add this folder"
          onChoose={add}
          onPlaylist={(path) => {
            setPlaylist(path);
            setChoosing(false);
          }}
          onClose={() => setChoosing(false)}
        />
      )}
      <DropFiles onAudio={add} onPlaylist={setPlaylist} />
      {playlist && (
        <PlaylistDialog
          path={playlist}
          onDone={({ run }) => setChosen(run.id)}
          onClose={() => setPlaylist(null)}
        />
      )}
    </Box>
  );
}

function Side({ children }: { children: React.ReactNode }) {
  return (
    <Box
      sx={(theme) => ({
        bgcolor: theme.inks.panel,
        borderRight: 1,
        borderColor: "divider",
        overflow: "auto",
        p: 2,
        display: "flex",
        flexDirection: "column",
        gap: 2.5,
      })}
    >
      {children}
    </Box>
  );
}

function NothingYet({ onChoose }: { onChoose: () => void }) {
  return (
    <Empty title="Nothing has arrived yet">
      <p>
        Choose a folder, or drop files here. Vinyl reads the files where they are; it moves and changes none
        of them.
      </p>
      <p>Each file’s fate will be listed here, and its analysis begins at once.</p>
      <Button variant="contained" color="error" onClick={onChoose}>
        Choose a folder, files or a playlist…
      </Button>
      <FirstSteps />
    </Empty>
  );
}

interface OfferedProps {
  onAdd: (paths: string[]) => void;
  onChoose: () => void;
  busy: boolean;
}

function Offered({ onAdd, onChoose, busy }: OfferedProps) {
  const offered = useQuery(offeredQuery).data ?? [];
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Bring music in
      </Typography>
      {offered.map((folder) => (
        <Box
          key={folder.path}
          sx={(theme) => ({
            border: `1px solid ${folder.imported ? theme.inks.rule : theme.inks.ink}`,
            bgcolor: "background.paper",
            borderRadius: "4px",
            p: 1.5,
            mb: 1.5,
          })}
        >
          <Box sx={{ fontWeight: 600 }}>Demo music</Box>
          <Box
            sx={{
              fontFamily: FIGURES,
              fontSize: "0.72rem",
              color: "text.secondary",
              overflowWrap: "anywhere",
              mb: 1,
            }}
          >
            {folder.path}
          </Box>
          <Button
            variant={folder.imported ? "outlined" : "contained"}
            color="error"
            disabled={busy}
            onClick={() => onAdd([folder.path])}
          >
            {folder.imported ? "Look for new files again" : "Add this folder"}
          </Button>
        </Box>
      ))}
      <Button onClick={onChoose}>Choose a folder, files or a playlist…</Button>
    </Box>
  );
}

interface RunsProps {
  runs: ImportRun[];
  chosen: number | null;
  onChoose: (id: number) => void;
}

function Runs({ runs, chosen, onChoose }: RunsProps) {
  if (!runs.length) return null;
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Imports
      </Typography>
      {runs.map((run) => (
        <Box
          key={run.id}
          component="button"
          type="button"
          onClick={() => onChoose(run.id)}
          aria-current={run.id === chosen}
          sx={(theme) => ({
            display: "block",
            width: "100%",
            textAlign: "left",
            font: "inherit",
            border: 0,
            borderTop: 1,
            borderColor: "divider",
            px: 1,
            py: 1,
            cursor: "pointer",
            color: run.id === chosen ? theme.inks.paper : theme.inks.ink,
            bgcolor: run.id === chosen ? theme.inks.ink : "transparent",
          })}
        >
          <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1, fontWeight: 600 }}>
            <span>{run.folder.split("/").pop() || "/"}</span>
            <Box
              component="span"
              sx={{ fontFamily: FIGURES, fontWeight: 400, fontSize: "0.78rem", whiteSpace: "nowrap" }}
            >
              {ago(run.started_at)}
            </Box>
          </Box>
          <Box sx={{ fontSize: "0.8rem", opacity: 0.85 }}>{summary(run)}</Box>
        </Box>
      ))}
    </Box>
  );
}

const STATES: Record<ImportRun["state"], string> = {
  waiting: "waits: ",
  running: "going on: ",
  paused: "paused: ",
  done: "",
  cancelled: "cancelled: ",
  failed: "failed: ",
};

function summary(run: ImportRun): string {
  const { added, changed, already_here, moved, wanted, not_audio, broken } = run.outcomes;
  const parts = [`${added} added`];
  if (changed) parts.push(`${changed} changed`);
  if (already_here) parts.push(`${already_here} already here`);
  if (moved) parts.push(`${moved} moved`);
  if (wanted) parts.push(`${wanted} wanted`);
  if (not_audio) parts.push(`${not_audio} not audio`);
  if (broken) parts.push(`${broken} broken`);
  return STATES[run.state] + parts.join(", ");
}
