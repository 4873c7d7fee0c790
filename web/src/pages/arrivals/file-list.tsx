/** The files of an import with their outcomes and reasons; any number of them. */
import { Box, Button } from "@mui/material";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Schema } from "../../api/client";

type File = Schema["ImportedFileOut"];

export const MARKS: Record<File["outcome"], string> = {
  added: "+",
  changed: "≈",
  "already here": "=",
  moved: "→",
  wanted: "?",
  "not audio": "–",
  broken: "×",
};

interface Props {
  files: File[];
  more: boolean;
  onMore: () => void;
  onAgain: (path: string) => void;
}

export function FileList({ files, more, onMore, onAgain }: Props) {
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
                <FileRow file={file} onAgain={onAgain} />
              </Box>
            )
          );
        })}
      </Box>
    </Box>
  );
}

function FileRow({ file, onAgain }: { file: File; onAgain: (path: string) => void }) {
  const cut = file.path.lastIndexOf("/") + 1;
  const name = file.path.slice(cut);
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
        sx={({ inks }) => ({
          fontSize: "0.8rem",
          fontWeight: 600,
          color: file.outcome === "broken" ? inks.now : file.outcome === "added" ? inks.sure : inks.faint,
        })}
      >
        <span aria-hidden>{MARKS[file.outcome]}</span> {file.outcome}
      </Box>
      <Box sx={{ minWidth: 0, fontWeight: 500, overflowWrap: "anywhere" }}>
        {file.track_id ? (
          <Box component={Link} to={`/workbench/${file.track_id}`} sx={{ color: "inherit" }}>
            {name}
          </Box>
        ) : (
          name
        )}
      </Box>
      <Box sx={{ fontSize: "0.82rem", color: "text.secondary", overflowWrap: "anywhere" }}>
        {file.reason || file.path.slice(0, cut)}
        {file.twin && (
          <Box component={Link} to="/twins" sx={{ display: "block", color: "warning.main" }}>
            {file.twin.charAt(0).toUpperCase() + file.twin.slice(1)}
          </Box>
        )}
        {file.outcome === "broken" && (
          <Button
            onClick={() => onAgain(file.path)}
            aria-label={`Try ${name} again`}
            sx={{ ml: 1, py: 0, px: 0.7, fontSize: "0.72rem" }}
          >
            Try again
          </Button>
        )}
      </Box>
    </Box>
  );
}
