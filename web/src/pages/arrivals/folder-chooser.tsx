/** The folders of the machine that Vinyl runs on, below those it may read. */
import {
  Alert,
  Box,
  Button,
  Dialog,
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
import { FIGURES } from "../../theme";

type Listing = Schema["FolderListing"];

interface Props {
  action: string;
  onChoose: (folder: string) => void;
  onClose: () => void;
}

export function FolderChooser({ action, onChoose, onClose }: Props) {
  const [path, setPath] = useState<string | null>(null);
  const query = useFolder(path);
  const first = useFolder(null).data;
  const listing = query.isError ? first : query.data;
  const choose = () => {
    if (listing) onChoose(listing.path);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Choose a folder</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <PathLine there={(query.isError ? path : listing?.path) ?? ""} onGo={setPath} />
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          {listing?.roots.map((root) => (
            <Button
              key={root}
              onClick={() => setPath(root)}
              sx={{ fontFamily: FIGURES, fontSize: "0.75rem" }}
            >
              {root}
            </Button>
          ))}
        </Box>
        {query.error && <Alert severity="error">{query.error.message}</Alert>}
        <Folders listing={listing} onGo={setPath} />
      </DialogContent>
      <DialogActions>
        <Box sx={{ flex: 1, pl: 2, color: "text.secondary", fontSize: "0.82rem" }}>
          {listing && `${counted(listing.audio_files, "audio file")} here, and what lies in its folders`}
        </Box>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="error" disabled={!listing || query.isError} onClick={choose}>
          {action}
        </Button>
      </DialogActions>
    </Dialog>
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

/** Where one is; another path can be typed, and stays as typed while it leads nowhere. */
function PathLine({ there, onGo }: { there: string; onGo: (path: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (typed) onGo(typed);
    setTyped(null);
  };
  return (
    <Box component="form" onSubmit={submit} sx={{ display: "flex", gap: 1, pt: 1 }}>
      <TextField
        size="small"
        fullWidth
        label="Folder"
        value={typed ?? there}
        onChange={(e) => setTyped(e.target.value)}
        slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
      />
      <Button type="submit" disabled={typed === null}>
        Go there
      </Button>
    </Box>
  );
}

function Folders({ listing, onGo }: { listing: Listing | undefined; onGo: (path: string) => void }) {
  const parent = listing?.parent;
  return (
    <List dense sx={{ height: 300, overflow: "auto", border: 1, borderColor: "divider" }}>
      {parent && <ListItemButton onClick={() => onGo(parent)}>↑ one folder up</ListItemButton>}
      {listing?.folders.map((folder) => (
        <ListItemButton key={folder.path} onClick={() => onGo(folder.path)}>
          {folder.name}
        </ListItemButton>
      ))}
      {listing && !listing.folders.length && (
        <Box sx={{ px: 2, py: 1, color: "text.secondary" }}>No folders in here.</Box>
      )}
    </List>
  );
}
