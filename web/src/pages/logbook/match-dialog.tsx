/** Saying which track of the Shelf a play was of. */
import { Box, List, ListItemButton, ListItemText, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { windowQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { useRested } from "../../components/use-rested";
import type { NightActions } from "./night-actions";
import type { Play } from "./play-row";

const MOST_SHOWN = 12;

interface Props {
  play: Play;
  actions: NightActions;
  onClose: () => void;
}

export function MatchDialog({ play, actions, onClose }: Props) {
  const [text, setText] = useState(play.title);
  const words = useRested(text, 150);
  const query = windowQuery({ where: { kind: "words", text: words }, sort: "title", descending: false }, 0);
  const found = useQuery({ ...query, enabled: words.trim() !== "" }).data?.rows.slice(0, MOST_SHOWN) ?? [];
  const choose = (track_id: number) => {
    actions.match.mutate({ id: play.id, track_id });
    onClose();
  };
  const [first] = found;
  return (
    <FormDialog
      title={`Which track was “${[play.artist, play.title].filter(Boolean).join(" – ")}”?`}
      action={first ? `It was ${first.title}` : "It was this"}
      disabled={!first}
      onSubmit={() => first && choose(first.id)}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Find it on the Shelf"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onFocus={(event) => event.target.select()}
      />
      <List dense sx={{ maxHeight: 280, overflow: "auto" }}>
        {found.map((track, i) => (
          <ListItemButton key={track.id} selected={i === 0} onClick={() => choose(track.id)}>
            <ListItemText primary={track.title} secondary={track.artist || "no artist"} />
          </ListItemButton>
        ))}
      </List>
      {!found.length && (
        <Box sx={{ color: "text.secondary" }}>Nothing on the Shelf has these words. It stays as text.</Box>
      )}
    </FormDialog>
  );
}
