/** The crates as cards to choose; tracks can be dropped on them. */
import { useDroppable } from "@dnd-kit/core";
import { Button } from "@mui/material";
import { counted } from "../../api/changes";
import type { Crate } from "../../api/client";
import { playingTime } from "../../components/format";
import { ColumnCard, CardColumn } from "../../components/card-column";

interface Props {
  crates: Crate[];
  open: number;
  onShow: (crate: Crate) => void;
  onMake: () => void;
}

export function CrateCards({ crates, open, onShow, onMake }: Props) {
  return (
    <CardColumn
      label="Crates"
      heading={counted(crates.length, "crate")}
      action={<Button onClick={onMake}>Make a crate</Button>}
    >
      {crates.map((crate) => (
        <Card key={crate.id} crate={crate} open={crate.id === open} onShow={() => onShow(crate)} />
      ))}
    </CardColumn>
  );
}

function Card({ crate, open, onShow }: { crate: Crate; open: boolean; onShow: () => void }) {
  const { setNodeRef, isOver } = useDroppable({ id: `card-${crate.id}`, data: { crate } });
  return (
    <ColumnCard
      ref={setNodeRef}
      name={crate.name}
      says={`${counted(crate.tracks, "track")}, ${playingTime(crate.duration_s)}${crate.wanted ? `, ${crate.wanted} wanted` : ""}`}
      open={open}
      over={isOver}
      corners="7px 7px 2px 2px"
      onShow={onShow}
    />
  );
}
