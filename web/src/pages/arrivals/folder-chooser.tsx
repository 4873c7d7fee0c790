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
import { client, unwrap } from "../../api/client";
import { counted } from "../../api/queries";
import { FIGURES } from "../../theme";

/** The folders of the machine that Vinyl runs on, below those it may read. */
export function FolderChooser({
  onChoose,
  onClose,
}: {
  onChoose: (folder: string) => void;
  onClose: () => void;
}) {
  const [path, setPath] = useState<string | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const query = useQuery({
    queryKey: ["folders", path],
    queryFn: () => unwrap(client.GET("/api/folders", { params: { query: { path } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const first = useQuery({
    queryKey: ["folders", null],
    queryFn: () => unwrap(client.GET("/api/folders", { params: { query: {} } })),
  });
  const listing = query.isError ? first.data : query.data;
  const go = (to: string) => {
    setTyped(null);
    setPath(to);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Choose a folder</DialogTitle>
      <DialogContent sx={{ display: "flex", flexDirection: "column", gap: 1 }}>
        <Box
          component="form"
          onSubmit={(e) => {
            e.preventDefault();
            if (typed) go(typed);
          }}
          sx={{ display: "flex", gap: 1, pt: 1 }}
        >
          <TextField
            size="small"
            fullWidth
            label="Folder"
            value={typed ?? (query.isError ? path : listing?.path) ?? ""}
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { style: { fontFamily: FIGURES } } }}
          />
          <Button type="submit" disabled={typed === null}>
            Go there
          </Button>
        </Box>
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          {listing?.roots.map((root) => (
            <Button key={root} onClick={() => go(root)} sx={{ fontFamily: FIGURES, fontSize: "0.75rem" }}>
              {root}
            </Button>
          ))}
        </Box>
        {query.error && <Alert severity="error">{query.error.message}</Alert>}
        <List dense sx={{ height: 300, overflow: "auto", border: 1, borderColor: "divider" }}>
          {listing?.parent && (
            <ListItemButton onClick={() => go(listing.parent ?? "/")}>↑ one folder up</ListItemButton>
          )}
          {listing?.folders.map((folder) => (
            <ListItemButton key={folder.path} onClick={() => go(folder.path)}>
              {folder.name}
            </ListItemButton>
          ))}
          {listing && !listing.folders.length && (
            <Box sx={{ px: 2, py: 1, color: "text.secondary" }}>No folders in here.</Box>
          )}
        </List>
      </DialogContent>
      <DialogActions>
        <Box sx={{ flex: 1, pl: 2, color: "text.secondary", fontSize: "0.82rem" }}>
          {listing && `${counted(listing.audio_files, "audio file")} here, and what lies in its folders`}
        </Box>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          color="error"
          disabled={!listing || query.isError}
          onClick={() => {
            if (listing) onChoose(listing.path);
            onClose();
          }}
        >
          Add this folder
        </Button>
      </DialogActions>
    </Dialog>
  );
}
