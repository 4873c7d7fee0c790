/** What became of each file of one import. */
import { Alert, Box, Button, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type ImportRun, type Schema } from "../../api/client";
import { FIGURES } from "../../theme";
import { FileList, MARKS } from "./file-list";

type Outcome = Schema["ImportedFileOut"]["outcome"];
const PAGE = 500;

interface Props {
  run: ImportRun;
  /** Another import has been begun. */
  onAgain: (id: number) => void;
}

export function ImportReport({ run, onAgain }: Props) {
  const [only, setOnly] = useState<Outcome | null>(null);
  const again = useAgain(run, onAgain);
  const copy = useCopy(run, only);
  const query = useFiles(run, only);
  const files = query.data?.pages.flat() ?? [];
  return (
    <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0, minWidth: 0 }}>
      <Box sx={{ px: 3, pt: 2, pb: 1.5 }}>
        <Typography variant="h1">{run.folder.split("/").pop() || "/"}</Typography>
        <Box
          sx={{
            fontFamily: FIGURES,
            fontSize: "0.78rem",
            color: "text.secondary",
            mb: 1.5,
            overflowWrap: "anywhere",
          }}
        >
          {run.folder.includes("/") && run.folder}
        </Box>
        {run.error && (
          <Alert severity="error" sx={{ mb: 1.5 }}>
            {run.error}
          </Alert>
        )}
        <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
          <OutcomeChoice run={run} only={only} onChange={setOnly} />
          <Box sx={{ flex: 1 }} />
          <Button disabled={!run.done || copy.isPending} onClick={() => copy.mutate(undefined)}>
            Copy the list
          </Button>
          {run.outcomes.broken > 0 && (
            <Button disabled={again.isPending} onClick={() => again.mutate({ outcome: "broken" })}>
              Try broken ones again
            </Button>
          )}
        </Box>
      </Box>
      {!files.length && !query.isPending && (
        <Box sx={{ px: 3, color: "text.secondary" }}>
          {!run.finished_at && !run.done
            ? "Looking at the first files…"
            : "No file came to this. The figures above show the others."}
        </Box>
      )}
      <FileList
        files={files}
        more={query.hasNextPage}
        onMore={() => void query.fetchNextPage()}
        onAgain={(path) => again.mutate({ paths: [path] })}
      />
    </Box>
  );
}

function useAgain(run: ImportRun, onAgain: Props["onAgain"]) {
  const change = useChange((body: Schema["AgainIn"]) =>
    unwrap(client.POST("/api/imports/{job_id}/again", { params: { path: { job_id: run.id } }, body })),
  );
  const mutate = (body: Schema["AgainIn"]) => change.mutate(body, { onSuccess: (made) => onAgain(made.id) });
  return { isPending: change.isPending, mutate };
}

/** The list as text, a line a file, onto the clipboard. */
function useCopy(run: ImportRun, outcome: Outcome | null) {
  return useChange(
    async () => {
      const text = await unwrap(
        client.GET("/api/imports/{job_id}/report", {
          params: { path: { job_id: run.id }, query: { outcome } },
          parseAs: "text",
        }),
      );
      await navigator.clipboard.writeText(text);
      return text.split("\n").length - 1;
    },
    (lines) => `${counted(lines, "line")} copied.`,
  );
}

function useFiles(run: ImportRun, only: Outcome | null) {
  return useInfiniteQuery({
    queryKey: ["imports", run.id, "files", only],
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/imports/{job_id}/files", {
          params: {
            path: { job_id: run.id },
            query: { outcome: only, offset: pageParam, limit: PAGE },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (last.length === PAGE ? pages.length * PAGE : undefined),
  });
}

interface ChoiceProps {
  run: ImportRun;
  only: Outcome | null;
  onChange: (only: Outcome | null) => void;
}

/** How many files had which outcome; a click shows only those. */
function OutcomeChoice({ run, only, onChange }: ChoiceProps) {
  const counts: Record<Outcome, number> = {
    added: run.outcomes.added,
    changed: run.outcomes.changed,
    "already here": run.outcomes.already_here,
    moved: run.outcomes.moved,
    wanted: run.outcomes.wanted,
    "not audio": run.outcomes.not_audio,
    broken: run.outcomes.broken,
  };
  return (
    <ToggleButtonGroup
      size="small"
      exclusive
      value={only}
      onChange={(_e, value: Outcome | null) => onChange(value)}
      aria-label="Show only"
    >
      {(Object.keys(counts) as Outcome[]).map((outcome) => (
        <ToggleButton
          key={outcome}
          value={outcome}
          disabled={!counts[outcome]}
          sx={{ textTransform: "none", gap: 1, px: 1.5 }}
        >
          <span aria-hidden>{MARKS[outcome]}</span> {outcome}
          <Box component="span" sx={{ fontFamily: FIGURES }}>
            {counts[outcome]}
          </Box>
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}
