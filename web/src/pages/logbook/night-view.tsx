/** One night: what was played in which order, how it went, and what can be made of it. */
import { Box, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schema } from "../../api/client";
import { nightQuery } from "../../api/queries";
import { FormDialog } from "../../components/form-dialog";
import { NightCurve } from "./night-curve";
import { NightHead } from "./night-head";
import { NightKeys } from "./night-keys";
import { MatchDialog } from "./match-dialog";
import { PlayRow, type Play } from "./play-row";
import { useNightActions, type NightActions } from "./night-actions";
import { useChoosing, type Choosing } from "./use-choosing";
import type { Logbook } from "./use-logbook";

export type NightData = Schema["NightOut"];

export function NightView({ logbook, id }: { logbook: Logbook; id: number }) {
  const { data: night, error } = useQuery(nightQuery(id));
  if (error) return <Box sx={{ p: 3, color: "error.main" }}>{error.message}</Box>;
  if (!night) return null;
  return <Night key={night.gig.id} logbook={logbook} night={night} />;
}

function Night({ logbook, night }: { logbook: Logbook; night: NightData }) {
  const actions = useNightActions();
  const list = useRef<HTMLDivElement>(null);
  const choosing = useChoosing(
    night.plays.map((play) => play.id),
    list,
  );
  const [remark, setRemark] = useState(false);
  const [matching, setMatching] = useState<Play | null>(null);
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: "minmax(0, 1fr) 21rem",
        px: 2.5,
        gap: 3,
      }}
    >
      <Box sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}>
        <NightHead logbook={logbook} gig={night.gig} actions={actions} />
        <Order night={night} choosing={choosing} list={list} onMatch={setMatching} />
        <AddLine night={night} actions={actions} />
      </Box>
      <NightCurve night={night} choosing={choosing} />
      <NightKeys {...{ logbook, night, choosing, actions }} onRemark={() => setRemark(true)} />
      {matching && <MatchDialog play={matching} actions={actions} onClose={() => setMatching(null)} />}
      {remark && choosing.chosen.length > 0 && (
        <Remark night={night} choosing={choosing} actions={actions} onClose={() => setRemark(false)} />
      )}
    </Box>
  );
}

interface OrderProps {
  night: NightData;
  choosing: Choosing;
  list: React.RefObject<HTMLDivElement | null>;
  onMatch: (play: Play) => void;
}

function Order({ night, choosing, list, onMatch }: OrderProps) {
  const navigate = useNavigate();
  return (
    <Box
      ref={list}
      role="listbox"
      tabIndex={0}
      aria-label="What was played"
      aria-multiselectable
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: "auto",
        borderTop: 1,
        borderColor: "divider",
        outlineOffset: -2,
      }}
    >
      {night.plays.map((play, place) => (
        <PlayRow
          key={play.id}
          play={play}
          again={night.pairs.includes(place)}
          chosen={choosing.chosen.includes(play.id)}
          onMatch={() => onMatch(play)}
          onChoose={(event) => choosing.click(place, event)}
          onOpen={() => play.track_id !== null && void navigate(`/workbench/${play.track_id}`)}
        />
      ))}
      {!night.plays.length && (
        <Box sx={{ color: "text.secondary", py: 2 }}>
          Nothing stands here yet. Type titles below, one after the other, in the order in which they were
          played.
        </Box>
      )}
    </Box>
  );
}

/** Titles are typed one by one, or many are pasted. */
function AddLine({ night, actions }: { night: NightData; actions: NightActions }) {
  const [text, setText] = useState("");
  // The field stays as it is, so that one goes on typing; what is refused comes back.
  const add = (lines: string) => {
    if (!lines.trim()) return;
    setText("");
    actions.add.mutate({ id: night.gig.id, text: lines }, { onError: () => setText(lines) });
  };
  return (
    <TextField
      size="small"
      fullWidth
      placeholder="23:10 Artist – Title, or a title alone; ↵ puts it at the end"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === "Enter") add(text);
        if (event.key === "Escape") (event.target as HTMLElement).blur();
      }}
      onPaste={(event) => {
        const lines = event.clipboardData.getData("text");
        if (!lines.trim().includes("\n")) return;
        event.preventDefault();
        add(lines);
      }}
      slotProps={{ htmlInput: { "aria-label": "Add what was played", maxLength: 400 } }}
      sx={{ my: 1 }}
    />
  );
}

interface RemarkProps {
  night: NightData;
  choosing: Choosing;
  actions: NightActions;
  onClose: () => void;
}

function Remark({ night, choosing, actions, onClose }: RemarkProps) {
  const first = night.plays.find((play) => play.id === choosing.chosen[0]);
  const [note, setNote] = useState(first?.note ?? "");
  return (
    <FormDialog
      title="Remark"
      action={note.trim() ? "Keep" : "No remark"}
      onSubmit={() => {
        actions.mark.mutate({ ids: choosing.chosen, note: note.trim() });
        onClose();
      }}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        size="small"
        margin="dense"
        label="Remark"
        placeholder="floor emptied, needs a longer intro…"
        value={note}
        onChange={(event) => setNote(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 200 } }}
      />
    </FormDialog>
  );
}
