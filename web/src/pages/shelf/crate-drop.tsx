/** Dragging rows of the Shelf opens a panel of crates to drop them on. */
import {
  DndContext,
  MeasuringStrategy,
  pointerWithin,
  useDroppable,
  type Active,
  type DragEndEvent,
} from "@dnd-kit/core";
import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { counted, usePutIntoCrate } from "../../api/changes";
import { only, type Crate, type Picked } from "../../api/client";
import { byHandQuery } from "../../api/queries";
import type { Selection } from "../../components/use-selection";
import { listOf, useListDrop } from "../crates/list-dragging";
import { crateOf, DraggedCount, fitOf, useHand } from "../../components/dragging";

/** The crates to drop on appear only after a drag has begun. */
const MEASURING = { droppable: { strategy: MeasuringStrategy.Always } };

interface Props {
  selection: Selection;
  /** Crates are to be seen anyway: no panel of them comes up. */
  shown?: boolean;
  children: React.ReactNode;
}

export function ShelfDragging({ selection, shown = false, children }: Props) {
  const sensors = useHand();
  const put = usePutIntoCrate();
  const [dragged, setDragged] = useState<Picked | null>(null);
  const dropList = useListDrop();
  const drop = (event: DragEndEvent) => {
    if (dropList(event)) return;
    const crate = crateOf(event.over);
    if (crate && dragged) put.mutate({ crate, chosen: dragged.chosen });
    setDragged(null);
  };
  return (
    <DndContext
      sensors={sensors}
      autoScroll={false}
      collisionDetection={pointerWithin}
      measuring={MEASURING}
      onDragEnd={drop}
      onDragCancel={() => setDragged(null)}
      onDragStart={({ active }) => setDragged(draggedBy(active, selection))}
    >
      {children}
      {dragged && !shown && <CrateDrop />}
      <DraggedCount count={dragged?.count ?? 0} />
    </DndContext>
  );
}

function draggedBy(active: Active, selection: Selection): Picked | null {
  const fit = fitOf(active);
  if (fit !== null) return only(fit);
  return listOf(active) ? null : selection.pickedWith(pressedOf(active));
}

/** The track that was pressed: rows are dragged as one thing, sleeves each. */
function pressedOf(active: Active): number {
  const { pressed } = (active.data.current ?? {}) as { pressed?: { current: number | null } };
  return pressed?.current ?? Number(active.id);
}

function CrateDrop() {
  const crates = useQuery(byHandQuery).data ?? [];
  return (
    <Box
      data-testid="crate-drop"
      sx={(theme) => ({
        position: "fixed",
        right: 0,
        top: 50,
        bottom: 0,
        width: 260,
        zIndex: 1200,
        bgcolor: theme.inks.panel,
        borderLeft: `2px solid ${theme.inks.ink}`,
        p: 2,
        overflow: "auto",
      })}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>
        Drop into a crate
      </Typography>
      {crates.map((crate) => (
        <Target key={crate.id} crate={crate} />
      ))}
      {!crates.length && (
        <Box sx={{ color: "text.secondary" }}>There is no crate yet. Let go, and press P to make one.</Box>
      )}
    </Box>
  );
}

function Target({ crate }: { crate: Crate }) {
  const { setNodeRef, isOver } = useDroppable({ id: `crate-${crate.id}`, data: { crate } });
  return (
    <Box
      ref={setNodeRef}
      data-crate={crate.name}
      data-drop={`crate-${crate.id}`}
      sx={(theme) => ({
        mb: 1,
        p: 1.2,
        border: `1px solid ${isOver ? theme.inks.chosen : theme.inks.rule}`,
        borderRadius: "4px",
        bgcolor: isOver ? theme.inks.chosenWash : "background.paper",
      })}
    >
      <Box sx={{ fontWeight: 600 }}>{crate.name}</Box>
      <Typography variant="overline">{counted(crate.tracks, "track")}</Typography>
    </Box>
  );
}
