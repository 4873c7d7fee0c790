import { Alert, Box, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { client, unwrap, type ImportRun, type Schema } from "../../api/client";
import { FIGURES } from "../../theme";

type File = Schema["ImportedFileOut"];
type Outcome = File["outcome"];
const PAGE = 500;
const MARKS: Record<Outcome, string> = { added: "+", "already here": "=", "not audio": "–", broken: "×" };

/** What became of each file of one import. */
export function ImportReport({ run }: { run: ImportRun }) {
  const [only, setOnly] = useState<Outcome | null>(null);
  const done = run.done;
  const query = useInfiniteQuery({
    queryKey: ["imports", run.id, "files", only],
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/imports/{run_id}/files", {
          params: { path: { run_id: run.id }, query: { outcome: only, offset: pageParam, limit: PAGE } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (last.length === PAGE ? pages.length * PAGE : undefined),
  });
  const files = query.data?.pages.flat() ?? [];
  const counts: Record<Outcome, number> = {
    added: run.outcomes.added,
    "already here": run.outcomes.already_here,
    "not audio": run.outcomes.not_audio,
    broken: run.outcomes.broken,
  };
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
          {run.folder}
        </Box>
        {run.error && (
          <Alert severity="error" sx={{ mb: 1.5 }}>
            {run.error}
          </Alert>
        )}
        <ToggleButtonGroup
          size="small"
          exclusive
          value={only}
          onChange={(_e, value: Outcome | null) => setOnly(value)}
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
      </Box>
      <FileList files={files} more={query.hasNextPage} onMore={() => void query.fetchNextPage()} />
      {!files.length && !query.isPending && (
        <Box sx={{ px: 3, color: "text.secondary" }}>
          {run.state === "running" && !done
            ? "Looking at the first files…"
            : "There are no files in this folder."}
        </Box>
      )}
    </Box>
  );
}

function FileList({ files, more, onMore }: { files: File[]; more: boolean; onMore: () => void }) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: files.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 44,
    overscan: 12,
    getItemKey: (i) => files[i]?.path ?? i,
  });
  const items = rows.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && last >= files.length - 20) onMore();
  }, [more, last, files.length, onMore]);
  return (
    <Box
      ref={scroller}
      sx={{ flex: 1, overflow: "auto", borderTop: 1, borderColor: "divider" }}
      role="list"
      aria-label="Files"
    >
      <Box sx={{ height: rows.getTotalSize(), position: "relative" }}>
        {items.map((item) => {
          const file = files[item.index];
          return (
            file && (
              <Box
                key={file.path}
                role="listitem"
                ref={rows.measureElement}
                data-index={item.index}
                sx={{
                  position: "absolute",
                  top: 0,
                  left: 0,
                  right: 0,
                  transform: `translateY(${item.start}px)`,
                }}
              >
                <FileRow file={file} />
              </Box>
            )
          );
        })}
      </Box>
    </Box>
  );
}

function FileRow({ file }: { file: File }) {
  const cut = file.path.lastIndexOf("/") + 1;
  const bad = file.outcome === "broken";
  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: "120px minmax(0, 1fr) minmax(0, 1.1fr)",
        gap: 2,
        px: 3,
        py: 0.8,
        borderBottom: 1,
        borderColor: "divider",
        alignItems: "baseline",
      }}
    >
      <Box
        sx={(theme) => ({
          fontSize: "0.8rem",
          fontWeight: 600,
          color: bad ? theme.inks.now : file.outcome === "added" ? theme.inks.sure : theme.inks.faint,
        })}
      >
        <span aria-hidden>{MARKS[file.outcome]}</span> {file.outcome}
      </Box>
      <Box sx={{ minWidth: 0 }}>
        {file.track_id ? (
          <Box component={Link} to={`/workbench/${file.track_id}`} sx={{ color: "inherit", fontWeight: 500 }}>
            {file.path.slice(cut)}
          </Box>
        ) : (
          <Box sx={{ fontWeight: 500 }}>{file.path.slice(cut)}</Box>
        )}
      </Box>
      <Box sx={{ fontSize: "0.82rem", color: "text.secondary" }}>
        {file.reason || file.path.slice(0, cut)}
      </Box>
    </Box>
  );
}
