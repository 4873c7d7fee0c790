/** Choosing the track that is tried first. */
import { List, ListItemButton, ListItemText, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Condition } from "../../api/client";
import { windowQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { useRested } from "../../components/use-rested";

const MOST_SHOWN = 12;

interface Props {
  onChoose: (trackId: number) => void;
  onClose: () => void;
}

/** Tracks with most cues come first: they show most. */
export function TrackChooser({ onChoose, onClose }: Props) {
  const [text, setText] = useState("");
  const words = useRested(text, 150);
  const where: Condition = words.trim() ? { kind: "words", text: words } : { kind: "all", parts: [] };
  const query = windowQuery({ where, sort: "cue_count", descending: true }, 0);
  const found = useQuery(query).data?.rows.slice(0, MOST_SHOWN) ?? [];
  const [first] = found;
  const choose = (id: number) => {
    onChoose(id);
    onClose();
  };
  return (
    <FormDialog
      title="Which track first?"
      action="Try it"
      disabled={!first}
      onSubmit={() => first && choose(first.id)}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Find a track"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <List dense sx={{ maxHeight: 320, overflow: "auto" }}>
        {found.map((track, at) => (
          <ListItemButton key={track.id} selected={at === 0} onClick={() => choose(track.id)}>
            <ListItemText primary={track.title} secondary={track.artist || "no artist"} />
          </ListItemButton>
        ))}
      </List>
    </FormDialog>
  );
}
