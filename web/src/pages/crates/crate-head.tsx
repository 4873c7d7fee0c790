/** Above an open crate: its name, how much it holds, and what can be done with it. */
import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { Confirm } from "../../components/confirm";
import { playingTime } from "../../components/format";
import { NameDialog } from "../../components/name-dialog";
import { ListMenu } from "./list-menu";
import { Note } from "./note";
import { MoveDialog } from "./move-dialog";
import type { OpenCrateState } from "./use-open-crate";

interface Props {
  crate: Crate;
  open: OpenCrateState;
  onDivider: () => void;
}

export function CrateHead({ crate, open, onDivider }: Props) {
  const navigate = useNavigate();
  const [asking, setAsking] = useState<"rename" | "move" | "delete" | null>(null);
  const { actions, byHand, selection } = open;
  const drop = () => actions.drop.mutate(undefined, { onSuccess: () => void navigate("/crates") });
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, px: 2, pt: 1.6, pb: 1.2 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="h1" noWrap>
          {crate.name}
        </Typography>
        <Typography variant="overline">
          {counted(crate.tracks, "track")}, {playingTime(crate.duration_s)}
          {byHand ? ", in your order" : ""}
        </Typography>
        <Note crate={crate} />
      </Box>
      {!byHand && <Button onClick={() => open.setSorts([])}>Back to my order</Button>}
      <Button disabled={!selection.count} onClick={open.remove}>
        Take out
      </Button>
      <Button onClick={() => setAsking("rename")}>Rename</Button>
      <Button onClick={() => setAsking("move")}>Move…</Button>
      <Button onClick={() => setAsking("delete")}>Delete</Button>
      <ListMenu
        crate={crate}
        sorts={open.sorts}
        onOwnOrder={() => open.setSorts([])}
        onDivider={byHand ? onDivider : undefined}
      />
      {asking === "move" && <MoveDialog crate={crate} onClose={() => setAsking(null)} />}
      {asking === "rename" && (
        <NameDialog
          title={`Rename “${crate.name}”`}
          label="Name"
          action="Rename"
          initial={crate.name}
          onClose={() => setAsking(null)}
          onDone={(name) => actions.rename.mutate(name)}
        />
      )}
      <Confirm
        open={asking === "delete"}
        title={`Delete “${crate.name}”?`}
        action="Delete the crate"
        onClose={() => setAsking(null)}
        onConfirm={drop}
      >
        The list goes, with the order of its {counted(crate.tracks, "track")}. The tracks stay on the Shelf,
        and Undo brings the crate back, on the sticks that carry it too.
      </Confirm>
    </Box>
  );
}
