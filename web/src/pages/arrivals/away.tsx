/** How many tracks are away, and looking for their files where they may lie now. */
import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../../api/changes";
import { client, unwrap } from "../../api/client";
import { awayQuery } from "../../api/queries";
import { FolderChooser } from "./folder-chooser";

export function Away() {
  const away = useQuery(awayQuery).data?.tracks ?? 0;
  const [choosing, setChoosing] = useState(false);
  const find = useChange((folder: string) => unwrap(client.POST("/api/away/find", { body: { folder } })));
  if (!away) return null;
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Away
      </Typography>
      <Box sx={{ fontSize: "0.86rem", mb: 0.6 }}>
        The files of {counted(away, "track")} are not there. They come back by themselves with their drive; if
        they were moved or renamed, Vinyl can look for them.
      </Box>
      <Button onClick={() => setChoosing(true)}>Look for them in a folder…</Button>
      {choosing && (
        <FolderChooser
          title="Where may they lie now?"
          action="Look here"
          onChoose={([folder]) => folder && find.mutate(folder)}
          onClose={() => setChoosing(false)}
        />
      )}
    </Box>
  );
}
