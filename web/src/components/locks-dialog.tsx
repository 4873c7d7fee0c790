/** Locks of the chosen tracks: how many have each, and one step to lock or unlock a part of all. */
import { Box, Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, useLock } from "../api/changes";
import type { Part, Picked } from "../api/client";
import { lockCountsQuery } from "../api/queries";
import { ChoiceList } from "./choice-list";
import { FormDialog } from "./form-dialog";

const PARTS: readonly Part[] = ["grid", "cues", "key", "tags"];

export function LocksDialog({ picked, onClose }: { picked: Picked; onClose: () => void }) {
  const { data: counts, error } = useQuery(lockCountsQuery(picked));
  const [part, setPart] = useState<Part>("grid");
  const lock = useLock();
  const there = counts?.[part] ?? 0;
  const all = there === picked.count;
  const send = (locked: boolean) => lock.mutate({ ...picked.chosen, part, locked }, { onSuccess: onClose });
  return (
    <FormDialog
      title={`Locks of ${counted(picked.count, "track")}`}
      action={`${all ? "Unlock" : "Lock"} the ${part}`}
      disabled={!counts || lock.isPending}
      others={
        there > 0 &&
        !all && (
          <Button onClick={() => send(false)} disabled={lock.isPending}>
            Unlock the {part}
          </Button>
        )
      }
      onSubmit={() => send(!all)}
      onClose={onClose}
    >
      {counts && (
        <ChoiceList
          label="Parts"
          choices={PARTS.map((each) => ({
            id: each,
            primary: each.charAt(0).toUpperCase() + each.slice(1),
            secondary: said(counts[each] ?? 0, picked.count),
          }))}
          chosen={part}
          onChoose={setPart}
        />
      )}
      <Box role={error ? "alert" : undefined} sx={{ fontSize: "0.84rem", color: "text.secondary" }}>
        {error ? error.message : "What is locked stays as it is: edits, analysis and imports leave it alone."}
      </Box>
    </FormDialog>
  );
}

function said(locked: number, count: number): string {
  if (!locked) return "open";
  return locked === count
    ? "locked"
    : `locked on ${locked.toLocaleString("en")} of ${count.toLocaleString("en")}`;
}
