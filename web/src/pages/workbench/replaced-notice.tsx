/** Said of a track whose file holds another sound than the one that was worked on. */
import { Alert, Button } from "@mui/material";
import { useChange } from "../../api/changes";
import { client, unwrap } from "../../api/client";
import type { Bench } from "./bench";

export function ReplacedNotice({ bench }: { bench: Bench }) {
  const { id } = bench.track.data.track;
  const confirm = useChange(
    () => unwrap(client.POST("/api/tracks/{track_id}/checked", { params: { path: { track_id: id } } })),
    () => "Grid and cues are taken to fit the new file.",
  );
  return (
    <Alert
      severity="warning"
      variant="outlined"
      sx={{ mb: 1, py: 0 }}
      action={<Button onClick={() => confirm.mutate(undefined)}>They fit</Button>}
    >
      The file was replaced by another sound. Cues and a grid made by hand are those of the old one: check
      them by ear.
    </Alert>
  );
}
