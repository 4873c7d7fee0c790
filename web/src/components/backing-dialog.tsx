/** Tracks over one instrumental: what seems to belong to the chosen one is proposed, and put together under a name. */
import { Box, Button, Checkbox, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useChange } from "../api/changes";
import { client, unwrap, type Picked, type Schema } from "../api/client";
import { backingOfQuery, backingsQuery, rowsQuery } from "../api/queries";
import { FormDialog } from "./form-dialog";

type Likely = Schema["LikelyOut"];

const HOW: Record<Likely["relation"], string> = {
  same: "the same recording",
  edit: "another edit",
  "same backing": "another voice over it",
  different: "different",
};

export function BackingDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const first = picked.chosen.ids?.[0];
  const likely = useQuery({
    ...backingOfQuery(first ?? 0),
    enabled: picked.count === 1 && first !== undefined,
  });
  const chosen = useQuery(rowsQuery(picked.count === 1 && first !== undefined ? [first] : [])).data?.[0];
  const backings = useQuery(backingsQuery).data ?? [];
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [typed, setTyped] = useState<string | null>(null);
  const name = typed ?? chosen?.backing?.name ?? chosen?.title ?? "";
  const others = (likely.data ?? []).filter(({ track }) => !left.has(track.id));
  const there = backings.find((each) => each.name.toLowerCase() === name.trim().toLowerCase());
  const put = useChange(
    (body: Schema["TogetherIn"]) => unwrap(client.PUT("/api/backings", { body })),
    () => `Put together over “${name.trim()}”.`,
  );
  const apart = useChange(
    () => unwrap(client.POST("/api/backings/apart", { body: picked.chosen })),
    () => "Taken out of the group.",
  );
  const tracks =
    picked.count === 1 && first !== undefined
      ? { ids: [first, ...others.map((each) => each.track.id)] }
      : picked.chosen;
  const many = picked.count === 1 ? others.length + 1 : picked.count;
  return (
    <FormDialog
      title="Shared backing"
      action={`Put ${counted(many, "track")} together`}
      disabled={!name.trim() || many < 2 || put.isPending}
      width="sm"
      apart={
        chosen?.backing && (
          <Button onClick={() => apart.mutate(undefined, { onSuccess: onClose })} sx={{ mr: "auto" }}>
            Take it out of “{chosen.backing.name}”
          </Button>
        )
      }
      onSubmit={() =>
        put.mutate({ ...tracks, name: name.trim(), backing_id: there?.id ?? null }, { onSuccess: onClose })
      }
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Name of the instrumental"
        value={name}
        onChange={(event) => setTyped(event.target.value)}
        helperText={there ? `“${there.name}” has ${counted(there.tracks, "track")}: these join it.` : " "}
      />
      {picked.count === 1 && (
        <Proposed likely={likely.data} problem={likely.error?.message} left={left} onTick={setLeft} />
      )}
    </FormDialog>
  );
}

interface ProposedProps {
  likely: Likely[] | undefined;
  problem: string | undefined;
  left: ReadonlySet<number>;
  onTick: (left: ReadonlySet<number>) => void;
}

function Proposed({ likely, problem, left, onTick }: ProposedProps) {
  if (problem) return <Box>{problem}</Box>;
  if (!likely) return <Box>Comparing…</Box>;
  if (!likely.length)
    return (
      <Box sx={{ color: "text.secondary" }}>
        No other track seems to lie over the same instrumental. Choose several tracks to put them together by
        hand.
      </Box>
    );
  const toggle = (id: number) => {
    const next = new Set(left);
    if (!next.delete(id)) next.add(id);
    onTick(next);
  };
  return likely.map(({ track, relation, covered }) => (
    <Box key={track.id} sx={{ display: "flex", alignItems: "center", gap: 1 }}>
      <Checkbox
        size="small"
        checked={!left.has(track.id)}
        onChange={() => toggle(track.id)}
        slotProps={{ input: { "aria-label": track.title } }}
      />
      <Box sx={{ flex: 1 }}>
        <b>{track.title}</b> <span style={{ opacity: 0.75 }}>{track.artist}</span>
      </Box>
      <Box sx={{ fontSize: "0.8rem", color: "text.secondary" }}>
        {HOW[relation]}, {Math.round(100 * covered)} % found
      </Box>
    </Box>
  ));
}
