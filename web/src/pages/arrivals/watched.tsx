/** Folders that are watched: what is put into them is imported by itself, once it is whole. */
import { Alert, Box, Button, IconButton, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap } from "../../api/client";
import { watchedQuery } from "../../api/queries";
import { FIGURES } from "../../theme";
import { FolderChooser } from "./folder-chooser";

export function Watched() {
  const watched = useQuery(watchedQuery).data;
  const [choosing, setChoosing] = useState(false);
  const set = useChange((folders: string[]) => unwrap(client.PUT("/api/watched", { body: { folders } })));
  const paths = watched?.folders.map(({ path }) => path) ?? [];
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Watched folders
      </Typography>
      {watched?.folders.map(({ path, there }) => (
        <Box
          key={path}
          data-watched={path}
          sx={{
            display: "flex",
            alignItems: "center",
            gap: 1,
            borderTop: 1,
            borderColor: "divider",
            py: 0.4,
          }}
        >
          <Box sx={{ flex: 1, fontFamily: FIGURES, fontSize: "0.72rem", overflowWrap: "anywhere" }}>
            {path}
            {!there && <Box sx={{ color: "warning.main" }}>away; looked for now and then</Box>}
          </Box>
          <IconButton
            size="small"
            aria-label={`Watch ${path} no more`}
            title="Watch it no more; its tracks stay"
            onClick={() => set.mutate(paths.filter((each) => each !== path))}
          >
            ×
          </IconButton>
        </Box>
      ))}
      {!paths.length && (
        <Box sx={{ fontSize: "0.82rem", color: "text.secondary", mb: 1 }}>
          What is put into a watched folder comes in by itself, once it is whole.
        </Box>
      )}
      {watched?.problem && <Alert severity="warning">{watched.problem}</Alert>}
      <Button onClick={() => setChoosing(true)} sx={{ mt: 0.5 }}>
        Watch a folder…
      </Button>
      {choosing && (
        <FolderChooser
          action="Watch this folder"
          onChoose={(folders) => set.mutate([...paths, ...folders])}
          onClose={() => setChoosing(false)}
        />
      )}
    </Box>
  );
}
