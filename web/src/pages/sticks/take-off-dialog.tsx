/** Taking a track off sticks, or off the Shelf too: what will happen where is said before it does. */
import { Box, FormControlLabel, Radio, RadioGroup } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useChange, useTakeOffShelf } from "../../api/changes";
import { client, only, unwrap, type Stick } from "../../api/client";
import { sticksQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { WhatGoes } from "../../components/what-goes";

interface Props {
  stick: Stick;
  trackId: number;
  title: string;
  onClose: () => void;
}

type Way = "this" | "all" | "shelf";

export function TakeOffDialog({ stick, trackId, title, onClose }: Props) {
  const sticks = useQuery(sticksQuery).data ?? [stick];
  const [way, setWay] = useState<Way>("this");
  const [aside, setAside] = useState(false);
  const chosen = way === "all" ? sticks : [stick];
  const names = chosen.map((each) => `“${each.name}”`).join(" and ");
  const leave = useLeaveOut(chosen, trackId, `“${title}” goes from ${names} at the next packing.`);
  const take = useTakeOffShelf();
  const submit = () =>
    way === "shelf"
      ? take.mutate({ ids: [trackId], aside }, { onSuccess: onClose })
      : leave.mutate(undefined, { onSuccess: onClose });
  return (
    <FormDialog
      title={`Take “${title}” off?`}
      action={way === "shelf" && aside ? "Take it off, put it aside" : "Take it off"}
      disabled={leave.isPending || take.isPending}
      width="sm"
      onSubmit={submit}
      onClose={onClose}
    >
      <Ways way={way} stick={stick} sticks={sticks.length} onPick={setWay} />
      {way === "shelf" ? (
        <WhatGoes picked={only(trackId)} aside={aside} onAside={setAside} />
      ) : (
        <Box component="ul" sx={{ pl: 2.2, mt: 0, color: "text.secondary", "& li": { mb: 0.5 } }}>
          <li>Its file goes from {names} at the next packing, and from the lists there.</li>
          <li>It stays in your lists and on the Shelf, and its file on this computer is not touched.</li>
          <li>It can be taken along again at any time.</li>
        </Box>
      )}
    </FormDialog>
  );
}

interface WaysProps {
  way: Way;
  stick: Stick;
  sticks: number;
  onPick: (way: Way) => void;
}

function Ways({ way, stick, sticks, onPick }: WaysProps) {
  const ways: [Way, string][] = [
    ["this", sticks > 1 ? `off “${stick.name}” only` : `off “${stick.name}”`],
    ...(sticks > 1
      ? [["all", `off ${sticks === 2 ? "both" : `all ${sticks}`} sticks`] satisfies [Way, string]]
      : []),
    ["shelf", "off the sticks and the Shelf"],
  ];
  return (
    <RadioGroup value={way} onChange={(_, value) => onPick(value as Way)} sx={{ mb: 1 }}>
      {ways.map(([value, words]) => (
        <FormControlLabel key={value} value={value} control={<Radio size="small" />} label={words} />
      ))}
    </RadioGroup>
  );
}

function useLeaveOut(sticks: Stick[], trackId: number, said: string) {
  const body = { track_ids: [trackId], left_out: true };
  return useChange(
    () =>
      Promise.all(
        sticks.map(({ id }) =>
          unwrap(client.PUT("/api/sticks/{stick_id}/left-out", { params: { path: { stick_id: id } }, body })),
        ),
      ),
    () => said,
  );
}
