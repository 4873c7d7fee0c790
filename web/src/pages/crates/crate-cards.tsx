/** The crates as cards to choose and sort. */
import { useDroppable } from "@dnd-kit/core";
import { Box, Button, Typography } from "@mui/material";
import type { Crate } from "../../api/client";
import { counted } from "../../api/changes";
import { playingTime } from "../../components/format";
import { NAMES } from "../../theme";

interface Props {
  crates: Crate[];
  open: number;
  onShow: (crate: Crate) => void;
  onMake: () => void;
}

/** The crates as cards; tracks can be dropped on them. */
export function CrateCards({ crates, open, onShow, onMake }: Props) {
  return (
    <Box
      component="nav"
      aria-label="Crates"
      sx={(theme) => ({
        bgcolor: theme.inks.panel,
        borderRight: 1,
        borderColor: "divider",
        overflow: "auto",
        p: 1.6,
      })}
    >
      <Box sx={{ display: "flex", justifyContent: "space-between", alignItems: "center", mb: 1 }}>
        <Typography variant="overline">{counted(crates.length, "crate")}</Typography>
        <Button onClick={onMake}>Make a crate</Button>
      </Box>
      {crates.map((crate) => (
        <Card key={crate.id} crate={crate} open={crate.id === open} onShow={() => onShow(crate)} />
      ))}
    </Box>
  );
}

function Card({ crate, open, onShow }: { crate: Crate; open: boolean; onShow: () => void }) {
  const { setNodeRef, isOver } = useDroppable({ id: `card-${crate.id}`, data: { crate } });
  return (
    <Box
      ref={setNodeRef}
      component="button"
      type="button"
      aria-current={open}
      data-crate={crate.name}
      onClick={onShow}
      sx={(theme) => ({
        display: "block",
        width: "100%",
        textAlign: "left",
        font: "inherit",
        cursor: "pointer",
        mb: 0.8,
        px: 1.4,
        py: 1,
        borderRadius: "7px 7px 2px 2px",
        border: open
          ? `2px solid ${theme.inks.ink}`
          : `1px solid ${isOver ? theme.inks.chosen : theme.inks.rule}`,
        bgcolor: isOver ? theme.inks.chosenWash : open ? theme.inks.paper : theme.inks.tab,
        color: theme.inks.ink,
      })}
    >
      <Box sx={{ fontFamily: NAMES, fontWeight: 650, fontSize: "0.98rem", overflowWrap: "anywhere" }}>
        {crate.name}
      </Box>
      <Box sx={{ fontSize: "0.76rem", opacity: 0.8 }}>
        {counted(crate.tracks, "track")}, {playingTime(crate.duration_s)}
      </Box>
    </Box>
  );
}
