/** By which reasons a file is proposed to be kept, in an order that is set here. */
import { Box, Button, IconButton, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { FormDialog } from "../../components/form-dialog";
import { orderQuery, useTwinChanges } from "./use-twins";

type Order = Schema["OrderOut"];
type Reason = Order["reasons"][number];

const WORDS: Record<Reason, string> = {
  sound: "the better sound: lossless, undamaged, more bits",
  work: "the most work: locks, grid by hand, cues, routes",
  plays: "the most plays",
  lists: "the most places in lists",
  tags: "the most tags and stars",
  folder: "the folder that stands first below",
};

export function OrderDialog({ onClose }: { onClose: () => void }) {
  const order = useQuery(orderQuery).data;
  return order ? <OrderForm order={order} onClose={onClose} /> : null;
}

function OrderForm({ order, onClose }: { order: Order; onClose: () => void }) {
  const [reasons, setReasons] = useState(order.reasons);
  const [folders, setFolders] = useState(order.folders.join("\n"));
  const change = useTwinChanges().order;
  const move = (place: number, by: number) => {
    const moved = [...reasons];
    const [taken] = moved.splice(place, 1);
    if (taken) moved.splice(place + by, 0, taken);
    setReasons(moved);
  };
  const save = () => {
    const named = folders.split("\n").map((each) => each.trim().replace(/\/$/, ""));
    change.mutate({ reasons, folders: named.filter(Boolean) }, { onSuccess: onClose });
  };
  return (
    <FormDialog title="Which file is kept" action="Save" width="sm" touched onSubmit={save} onClose={onClose}>
      <Box sx={{ color: "text.secondary", fontSize: "0.88rem", mb: 1 }}>
        The first reason in which one file is better than all others decides. A file that is not there is
        never proposed.
      </Box>
      <ReasonLines reasons={reasons} onMove={move} />
      <TextField
        label="Folders, the best first, one a line"
        multiline
        minRows={2}
        fullWidth
        size="small"
        margin="normal"
        value={folders}
        onChange={(event) => setFolders(event.target.value)}
      />
      <Button
        type="button"
        size="small"
        onClick={() => setReasons(["sound", "work", "plays", "lists", "tags", "folder"])}
      >
        As it was at first
      </Button>
    </FormDialog>
  );
}

interface LinesProps {
  reasons: readonly Reason[];
  onMove: (place: number, by: number) => void;
}

function ReasonLines({ reasons, onMove }: LinesProps) {
  return (
    <>
      {reasons.map((reason, place) => (
        <Box
          key={reason}
          sx={{ display: "flex", alignItems: "center", borderBottom: 1, borderColor: "divider" }}
        >
          <Box sx={{ flex: 1 }}>
            {place + 1}. {WORDS[reason]}
          </Box>
          <IconButton
            size="small"
            aria-label={`${reason} earlier`}
            disabled={!place}
            onClick={() => onMove(place, -1)}
          >
            ↑
          </IconButton>
          <IconButton
            size="small"
            aria-label={`${reason} later`}
            disabled={place === reasons.length - 1}
            onClick={() => onMove(place, 1)}
          >
            ↓
          </IconButton>
        </Box>
      ))}
    </>
  );
}
