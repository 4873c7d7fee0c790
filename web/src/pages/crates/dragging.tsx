/** Dragging rows of a crate: among themselves, or onto another crate's card. */
import {
  closestCenter,
  DndContext,
  pointerWithin,
  type CollisionDetection,
  type DragEndEvent,
} from "@dnd-kit/core";
import { useState } from "react";
import { usePutIntoCrate } from "../../api/changes";
import { only } from "../../api/client";
import { listOf, useListDrop } from "./list-dragging";
import { useMakeInFolder } from "./make-in-folder";
import type { OpenCrateState } from "./use-open-crate";
import { crateOf, DraggedCount, fitOf, useHand } from "../../components/dragging";

/** Over a crate's card the card counts, else the nearest row. */
const collide: CollisionDetection = (args) => {
  const cards = args.droppableContainers.filter((container) => String(container.id).startsWith("card-"));
  const over = pointerWithin({ ...args, droppableContainers: cards });
  if (over.length || listOf(args.active)) return over;
  const rows = args.droppableContainers.filter((container) => !cards.includes(container));
  return closestCenter({ ...args, droppableContainers: rows });
};

interface Props {
  open: OpenCrateState;
  children: React.ReactNode;
}

export function CrateDragging({ open, children }: Props) {
  const { ids, source, selection, byHand, reorder } = open;
  const sensors = useHand();
  const put = usePutIntoCrate();
  const [dragged, setDragged] = useState<number[]>([]);
  const dropList = useListDrop();
  const inFolder = useMakeInFolder();
  const drop = (event: DragEndEvent) => {
    const { active, over } = event;
    const crate = crateOf(over);
    if (dropList(event)) return;
    const fit = fitOf(active);
    const tracks = fit === null ? [...new Set(dragged.map(source.trackIdOf))] : [fit];
    setDragged([]);
    if (crate?.is_folder) inFolder.ask(crate, only(...tracks));
    else if (crate) put.mutate({ crate, chosen: { ids: tracks } });
    else if (fit !== null) {
      const at = ids.indexOf(Number(over?.id));
      if (at >= 0 && byHand) put.mutate({ crate: open.crate, chosen: { ids: tracks }, at });
    } else if (over && byHand && active.id !== over.id) {
      const target = ids.indexOf(Number(over.id));
      const after = ids.indexOf(Number(active.id)) < target ? 1 : 0;
      const before = ids.slice(0, target + after).filter((id) => !dragged.includes(id));
      reorder(dragged, before.length, after === 1);
    }
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={collide}
      onDragEnd={drop}
      onDragCancel={() => setDragged([])}
      onDragStart={({ active }) => {
        if (listOf(active) || fitOf(active) !== null) setDragged([]);
        else setDragged(selection.has(Number(active.id)) ? open.chosen() : [Number(active.id)]);
      }}
    >
      {children}
      <DraggedCount count={dragged.length} />
      {inFolder.dialog}
    </DndContext>
  );
}
