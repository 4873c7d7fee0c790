/** Tracks of its lists that a stick goes without. */
import { Box, Button } from "@mui/material";
import type { Stick } from "../../api/client";
import { plural } from "../../components/format";
import type { StickActions } from "./use-stick-actions";

export function LeftOut({ stick, act }: { stick: Stick; act: StickActions }) {
  return (
    <Box sx={{ mt: 1.5, fontSize: "0.84rem", color: "text.secondary" }}>
      It goes without {plural(stick.left_out.length, "track")} of its lists.{" "}
      <Button onClick={() => act.leaveOut.mutate({ track_ids: stick.left_out, left_out: false })}>
        Take {stick.left_out.length === 1 ? "it" : "them"} along again
      </Button>
    </Box>
  );
}
