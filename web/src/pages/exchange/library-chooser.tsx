/** Finding another library's file among the folders of this computer. */
import { Box, Button, DialogActions, DialogContent, DialogTitle, List, ListItemButton } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { FIGURES } from "../../theme";
import { KeepingDialog } from "../../components/keeping-dialog";

interface Props {
  onChoose: (path: string) => void;
  onClose: () => void;
}

export function LibraryChooser({ onChoose, onClose }: Props) {
  const [path, setPath] = useState<string | null>(null);
  const listing = useQuery({
    queryKey: ["exchange-places", path],
    queryFn: () => unwrap(client.GET("/api/exchange/places", { params: { query: { path } } })),
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
  const choose = (found: string) => {
    onChoose(found);
    onClose();
  };
  return (
    <KeepingDialog onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Which library?</DialogTitle>
      <DialogContent>
        <Box sx={{ fontFamily: FIGURES, fontSize: "0.8rem", overflowWrap: "anywhere" }}>{listing?.path}</Box>
        <Box>
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
        <List dense sx={{ height: 320, overflow: "auto", border: 1, borderColor: "divider" }}>
          {listing?.parent && (
            <ListItemButton onClick={() => setPath(listing.parent)}>↑ one folder up</ListItemButton>
          )}
          {listing?.libraries.map((library) => (
            <ListItemButton key={library.path} onClick={() => choose(library.path)} sx={{ fontWeight: 700 }}>
              {library.name}
              <Box component="span" sx={{ ml: "auto", color: "text.secondary", fontWeight: 400 }}>
                {library.label}
              </Box>
            </ListItemButton>
          ))}
          {listing?.folders.map((folder) => (
            <ListItemButton key={folder.path} onClick={() => setPath(folder.path)}>
              {folder.name}
            </ListItemButton>
          ))}
          {listing && !listing.folders.length && !listing.libraries.length && (
            <Box sx={{ px: 2, py: 1, color: "text.secondary" }}>Neither libraries nor folders in here.</Box>
          )}
        </List>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
      </DialogActions>
    </KeepingDialog>
  );
}
