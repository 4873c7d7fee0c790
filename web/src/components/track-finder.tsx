/** A dialog that finds one track of the Shelf: words, the first that have them, arrows to go among them. */
import { Box, List, ListItemButton, ListItemText, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import type { Condition, Track } from "../api/client";
import { windowQuery } from "../api/queries";
import { FormDialog } from "./form-dialog";
import { useRested } from "./use-rested";
import { intoSight, useSteps } from "./use-steps";

const MOST_SHOWN = 12;

interface Props {
  title: string;
  label: string;
  /** What the last button says of the track that it would take. */
  action: (chosen: Track | undefined) => string;
  sort: "title" | "cue_count";
  /** Where it is looked for; everywhere, if not said. */
  within?: Condition;
  words?: string;
  /** What is said where nothing is found. */
  nothing: ReactNode;
  onChoose: (trackId: number) => void;
  onClose: () => void;
}

export function TrackFinder(props: Props) {
  const [text, setText] = useState(props.words ?? "");
  const words = useRested(text, 150).trim();
  const parts: Condition[] = [
    ...(props.within ? [props.within] : []),
    ...(words ? [{ kind: "words" as const, text: words }] : []),
  ];
  const where: Condition = { kind: "all", parts };
  const query = useQuery(windowQuery({ where, sort: props.sort, descending: props.sort === "cue_count" }, 0));
  const found = query.data?.rows.slice(0, MOST_SHOWN) ?? [];
  const steps = useSteps(found.length);
  // Enter must not take what was found for the words before.
  const isSettled = text.trim() === words && !query.isPlaceholderData;
  const chosen = isSettled ? found[steps.at] : undefined;
  const choose = (id: number) => {
    props.onChoose(id);
    props.onClose();
  };
  return (
    <FormDialog
      title={props.title}
      action={props.action(chosen)}
      disabled={!chosen}
      onSubmit={() => chosen && choose(chosen.id)}
      onClose={props.onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label={props.label}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          steps.toFirst();
        }}
        onFocus={(event) => event.target.select()}
        onKeyDown={steps.onKeyDown}
      />
      <List dense sx={{ maxHeight: 320, overflow: "auto" }}>
        {found.map((track) => (
          <Found key={track.id} track={track} chosen={track === chosen} onChoose={() => choose(track.id)} />
        ))}
      </List>
      {query.isSuccess && !found.length && <Box sx={{ color: "text.secondary" }}>{props.nothing}</Box>}
    </FormDialog>
  );
}

function Found({ track, chosen, onChoose }: { track: Track; chosen: boolean; onChoose: () => void }) {
  return (
    <ListItemButton selected={chosen} onClick={onChoose} ref={chosen ? intoSight : undefined}>
      <ListItemText primary={track.title} secondary={track.artist || "no artist"} />
    </ListItemButton>
  );
}
