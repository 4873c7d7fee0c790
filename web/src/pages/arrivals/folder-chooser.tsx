/** The folders of the machine that Vinyl runs on, below those it may read, and the files in them. */
import {
  Alert,
  Box,
  Button,
  DialogActions,
  DialogContent,
  DialogTitle,
  List,
  ListItemButton,
  TextField,
} from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted } from "../../api/changes";
import { client, unwrap, type Schema } from "../../api/client";
import { NO_WINDOW, TempoWindow, windowOf, type Window } from "../../components/tempo-window";
import { FIGURES } from "../../theme";
import { KeepingDialog } from "../../components/keeping-dialog";

type Listing = Schema["FolderListing"];

interface Props {
  title?: string;
  action: string;
  onChoose: (paths: string[], window: Window | null) => void;
  /** Where files can be chosen too: what a playlist is for. */
  onPlaylist?: (path: string) => void;
  onClose: () => void;
}

export function FolderChooser({ title = "Choose a folder", action, onChoose, onPlaylist, onClose }: Props) {
  const [path, setPath] = useState<string | null>(null);
  const [files, setFiles] = useState<ReadonlySet<string>>(new Set());
  const [range, setRange] = useState(NO_WINDOW);
  const query = useFolder(path);
  const first = useFolder(null).data;
  const listing = query.isError ? first : query.data;
  const go = (to: string) => {
    setPath(to);
    setFiles(new Set());
  };
  const choose = () => {
    if (listing) onChoose(files.size ? [...files] : [listing.path], windowOf(range) ?? null);
    onClose();
  };
  const pick = (file: Schema["FileOut"]) => {
    if (file.kind === "playlist") onPlaylist?.(file.path);
    else
      setFiles(
        new Set(files.has(file.path) ? [...files].filter((p) => p !== file.path) : [...files, file.path]),
      );
  };
  return (
    <KeepingDialog onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>{title}</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <PathLine
          there={(query.isError ? path : listing?.path) ?? ""}
          onGo={go}
          onEnter={() => path !== null && !query.isError && windowOf(range) !== undefined && choose()}
        />
        <Roots roots={listing?.roots ?? []} onGo={go} />
        {query.error && <Alert severity="error">{query.error.message}</Alert>}
        {onPlaylist && (
          <Box sx={{ fontSize: "0.86rem" }}>
            Count the beat of new tracks from{" "}
            <TempoWindow label="Tempo of this import" value={range} onChange={setRange} /> bpm (empty: by
            style)
          </Box>
        )}
        <Folders listing={listing} chosen={files} onGo={go} onPick={onPlaylist && pick} />
      </DialogContent>
      <DialogActions>
        <Box sx={{ flex: 1, pl: 2, color: "text.secondary", fontSize: "0.82rem" }}>
          {listing && `${counted(listing.audio_files, "audio file")} here, and what lies in its folders`}
        </Box>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          color="error"
          disabled={!listing || query.isError || windowOf(range) === undefined}
          onClick={choose}
        >
          {files.size ? `Add ${counted(files.size, "file")}` : action}
        </Button>
      </DialogActions>
    </KeepingDialog>
  );
}

function useFolder(path: string | null) {
  return useQuery({
    queryKey: ["folders", path],
    queryFn: () => unwrap(client.GET("/api/folders", { params: { query: { path } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

function Roots({ roots, onGo }: { roots: string[]; onGo: (path: string) => void }) {
  return (
    <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", minHeight: 32 }}>
      {roots.map((root) => (
        <Button key={root} onClick={() => onGo(root)} sx={{ fontFamily: FIGURES, fontSize: "0.75rem" }}>
          {root}
        </Button>
      ))}
    </Box>
  );
}

interface PathProps {
  there: string;
  onGo: (path: string) => void;
  /** Enter, once one has gone where one wanted. */
  onEnter: () => void;
}

/** Where one is; another path can be typed, and stays as typed while it leads nowhere. */
function PathLine({ there, onGo, onEnter }: PathProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (typed) onGo(typed);
    else if (typed === null) onEnter();
    setTyped(null);
  };
  return (
    <Box component="form" onSubmit={submit} sx={{ display: "flex", gap: 1, pt: 1 }}>
      <TextField
        autoFocus
        size="small"
        fullWidth
        label="Folder"
        value={typed ?? there}
        onChange={(e) => setTyped(e.target.value)}
        onFocus={(e) => e.target.select()}
        slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
      />
      <Button type="submit" disabled={typed === null}>
        Go there
      </Button>
    </Box>
  );
}

interface FoldersProps {
  listing: Listing | undefined;
  chosen: ReadonlySet<string>;
  onGo: (path: string) => void;
  onPick: ((file: Schema["FileOut"]) => void) | undefined;
}

const SIGNS = { playlist: "≡", audio: "♪" };

function Folders({ listing, chosen, onGo, onPick }: FoldersProps) {
  const parent = listing?.parent;
  const files = onPick ? (listing?.files ?? []) : [];
  return (
    <List dense sx={{ height: 300, overflow: "auto", border: 1, borderColor: "divider" }}>
      {parent && <ListItemButton onClick={() => onGo(parent)}>↑ one folder up</ListItemButton>}
      {listing?.folders.map((folder) => (
        <ListItemButton key={folder.path} onClick={() => onGo(folder.path)}>
          {folder.name}
        </ListItemButton>
      ))}
      {listing && !listing.folders.length && (
        <Box sx={{ px: 2, py: 1, color: "text.secondary" }}>No folders in here: add this one, or go up.</Box>
      )}
      {files.map((file) => (
        <ListItemButton
          key={file.path}
          aria-label={file.name}
          selected={chosen.has(file.path)}
          aria-pressed={file.kind === "audio" ? chosen.has(file.path) : undefined}
          onClick={() => onPick?.(file)}
        >
          <Box component="span" aria-hidden sx={{ width: 22, color: "text.secondary" }}>
            {chosen.has(file.path) ? "✓" : SIGNS[file.kind]}
          </Box>
          {file.name}
          {file.kind === "playlist" && (
            <Box component="span" sx={{ ml: "auto", color: "text.secondary", fontSize: "0.78rem" }}>
              playlist
            </Box>
          )}
        </ListItemButton>
      ))}
    </List>
  );
}
