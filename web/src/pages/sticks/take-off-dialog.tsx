/** Taking a track off sticks: what will happen where is said before it does. */
import { Box, FormControlLabel, Radio, RadioGroup } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange } from "../../api/changes";
import { client, unwrap, type Stick } from "../../api/client";
import { sticksQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";

interface Props {
  stick: Stick;
  trackId: number;
  title: string;
  onClose: () => void;
}

export function TakeOffDialog({ stick, trackId, title, onClose }: Props) {
  const sticks = useQuery(sticksQuery).data ?? [stick];
  const [all, setAll] = useState(false);
  const chosen = all ? sticks : [stick];
  const names = chosen.map((each) => `“${each.name}”`).join(" and ");
  const take = useChange(
    () =>
      Promise.all(
        chosen.map((each) =>
          unwrap(
            client.PUT("/api/sticks/{stick_id}/left-out", {
              params: { path: { stick_id: each.id } },
              body: { track_ids: [trackId], left_out: true },
            }),
          ),
        ),
      ),
    () => `“${title}” goes from ${names} at the next packing.`,
  );
  return (
    <FormDialog
      title={`Take “${title}” off?`}
      action="Take it off"
      disabled={take.isPending}
      onSubmit={() => take.mutate(undefined, { onSuccess: onClose })}
      onClose={onClose}
    >
      <RadioGroup value={all ? "all" : "this"} onChange={(_, value) => setAll(value === "all")}>
        <FormControlLabel value="this" control={<Radio size="small" />} label={`off “${stick.name}” only`} />
        {sticks.length > 1 && (
          <FormControlLabel
            value="all"
            control={<Radio size="small" />}
            label={`off all ${sticks.length} sticks`}
          />
        )}
      </RadioGroup>
      <Box component="ul" sx={{ pl: 2.2, color: "text.secondary", "& li": { mb: 0.4 } }}>
        <li>Its file goes from {names} at the next packing, and from the lists there.</li>
        <li>It stays in your lists and on the Shelf, and its file on this computer is not touched.</li>
        <li>It can be taken along again at any time.</li>
      </Box>
    </FormDialog>
  );
}
