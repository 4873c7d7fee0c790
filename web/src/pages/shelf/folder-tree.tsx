/** Where files lie: the folders of the disk beside the Shelf, and what in them is not in Vinyl yet. */
import { Alert, Box, Button, Typography } from "@mui/material";
import { SimpleTreeView } from "@mui/x-tree-view/SimpleTreeView";
import { TreeItem } from "@mui/x-tree-view/TreeItem";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { diskFolderQuery, topFoldersQuery } from "../../api/queries";
import { useRemembered } from "../../settings";

interface Props {
  /** The path of the folder whose tracks the Shelf shows. */
  chosen: string | undefined;
  onChoose: (path: string | null) => void;
  /** It was opened by key: what is pressed next is for the tree. */
  takesFocus?: boolean;
}

export function FolderTree({ chosen, onChoose, takesFocus = false }: Props) {
  const tops = useQuery(topFoldersQuery).data;
  const tree = useRef<HTMLUListElement>(null);
  const ready = takesFocus && tops !== undefined && tops.length > 0;
  useEffect(() => {
    if (ready) tree.current?.querySelector<HTMLElement>("[role=treeitem]")?.focus();
  }, [ready]);
  const [open, setOpen] = useRemembered<string[]>("shelf.folders open", []);
  return (
    <Box
      component="aside"
      aria-label="Where files lie"
      sx={(theme) => ({
        ...{ minHeight: 0, display: "flex", flexDirection: "column", p: 1.5, pr: 1, gap: 1 },
        ...{ bgcolor: theme.inks.panel, borderRight: 1, borderColor: "divider" },
      })}
    >
      <Box sx={{ display: "flex", alignItems: "center", minHeight: "2rem" }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          Where files lie
        </Typography>
        {chosen && <Button onClick={() => onChoose(null)}>All folders</Button>}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: "auto" }} onKeyDown={keepKeys}>
        {tops?.length === 0 && (
          <Box sx={{ color: "text.secondary" }}>Nothing is in Vinyl yet: choose a folder in Arrivals.</Box>
        )}
        <SimpleTreeView
          ref={tree}
          aria-label="Folders"
          expandedItems={open}
          onExpandedItemsChange={(_, paths) => setOpen(paths)}
          selectedItems={chosen ?? null}
          onSelectedItemsChange={(_, path) => path && onChoose(path)}
        >
          {tops?.map((top) => (
            <Folder key={top.path} folder={top} open={open} onChoose={onChoose} isTop />
          ))}
        </SimpleTreeView>
      </Box>
      {chosen && <NotYet key={chosen} path={chosen} />}
    </Box>
  );
}

/** Arrows, letters, Enter and Space are the tree's while it has the focus, not the list's beside it. */
function keepKeys(event: React.KeyboardEvent) {
  if (!event.ctrlKey && !event.metaKey && !event.altKey && event.key !== "Escape") event.stopPropagation();
}

interface FolderProps {
  folder: Schema["DiskFolder"];
  /** The paths of the folders that are open. */
  open: readonly string[];
  onChoose: (path: string) => void;
  isTop?: boolean;
}

function Folder({ folder, open, onChoose, isTop = false }: FolderProps) {
  const { data } = useQuery({ ...diskFolderQuery(folder.path), enabled: open.includes(folder.path) });
  /** Enter shows what is in a folder, as Space does; → opens it. */
  const choose = (event: React.KeyboardEvent & { defaultMuiPrevented?: boolean }) => {
    if (event.key !== "Enter" || event.target !== event.currentTarget) return;
    event.defaultMuiPrevented = true;
    onChoose(folder.path);
  };
  return (
    <TreeItem
      itemId={folder.path}
      label={<FolderName folder={folder} isTop={isTop} />}
      onKeyDown={choose}
      slotProps={{ content: { style: { padding: "2px 4px" } } }}
    >
      {data ? (
        data.folders.map((each) => <Folder key={each.path} folder={each} open={open} onChoose={onChoose} />)
      ) : (
        <TreeItem itemId={`${folder.path}//`} label="…" disabled />
      )}
    </TreeItem>
  );
}

interface NameProps {
  folder: Schema["DiskFolder"];
  /** It is told too in which folder it lies. */
  isTop: boolean;
}

function FolderName({ folder: { name, path, tracks, there }, isTop }: NameProps) {
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "baseline" }} title={there ? path : `${path} is away`}>
      <Box sx={{ flex: 1, overflowWrap: "anywhere" }}>
        {name}
        {!there && (
          <Box component="span" sx={{ color: "warning.main" }}>
            {" "}
            away
          </Box>
        )}
        {isTop && <Box sx={{ fontSize: "0.76rem", lineHeight: 1.2 }}>{path.slice(0, -name.length)}</Box>}
      </Box>
      <Box component="span" className="figure faint" sx={{ fontSize: "0.8rem" }}>
        {tracks ? tracks.toLocaleString("en") : ""}
      </Box>
    </Box>
  );
}

const MOST_NAMED = 6;

/** The audio files of a folder that are not in Vinyl yet, and the way in. */
function NotYet({ path }: { path: string }) {
  const { data, error } = useQuery(diskFolderQuery(path));
  const [all, setAll] = useState(false);
  const bringIn = useChange(
    (names: string[]) =>
      unwrap(client.POST("/api/imports", { body: { paths: names.map((name) => `${path}/${name}`) } })),
    (_, names) => `${counted(names.length, "file")} on the way in: Arrivals shows how far.`,
  );
  const problem = error?.message ?? data?.problem;
  if (problem)
    return (
      <Alert severity="warning" sx={{ flex: "none" }}>
        {problem}
      </Alert>
    );
  if (!data?.new_count) return null;
  const shown = all ? data.new : data.new.slice(0, MOST_NAMED);
  return (
    <Box
      role="region"
      aria-label="Not in Vinyl yet"
      sx={{ flex: "none", borderTop: 1, borderColor: "divider", pt: 1, maxHeight: "45%", overflow: "auto" }}
    >
      <Box sx={{ fontWeight: 600, fontSize: "0.9rem" }}>
        {counted(data.new_count, "file")} here not in Vinyl yet
      </Box>
      <Box component="ul" sx={{ m: 0, my: 0.6, pl: 2, fontSize: "0.82rem", overflowWrap: "anywhere" }}>
        {shown.map((name) => (
          <li key={name}>{name}</li>
        ))}
      </Box>
      <Button
        variant="contained"
        color="error"
        disabled={bringIn.isPending || bringIn.isSuccess}
        onClick={() => bringIn.mutate(data.new)}
      >
        Bring in {counted(data.new.length, "file")}
      </Button>
      {data.new.length > MOST_NAMED && (
        <Button onClick={() => setAll(!all)} sx={{ ml: 0.5 }}>
          {all ? "Fewer" : "All names"}
        </Button>
      )}
    </Box>
  );
}
