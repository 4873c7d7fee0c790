/** Dragging rows of the Shelf opens a panel of crates to drop them on. */
import { DndContext, MeasuringStrategy, pointerWithin, type Active, type DragEndEvent } from "@dnd-kit/core";
import { useState } from "react";
import { usePutIntoCrate } from "../../api/changes";
import { only, type Picked } from "../../api/client";
import type { Selection } from "../../components/use-selection";
import { listOf, useListDrop } from "../crates/list-dragging";
import { useMakeInFolder } from "../crates/make-in-folder";
import { CRATE_TREE, CrateTree } from "./crate-tree";
import { crateOf, DraggedCount, fitOf, useHand } from "../../components/dragging";

/** The crates to drop on appear only after a drag has begun. */
const MEASURING = { droppable: { strategy: MeasuringStrategy.Always } };

/** The rows that are dragged stay where they are. */
const ONLY_THE_TREE = {
  canScroll: (element: Element) => element.id === CRATE_TREE,
};

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
  const inFolder = useMakeInFolder();
  const dropList = useListDrop();
  const drop = (event: DragEndEvent) => {
    if (dropList(event)) return;
    const crate = crateOf(event.over);
    if (dragged && crate?.is_folder) inFolder.ask(crate, dragged);
    else if (crate && dragged) put.mutate({ crate, chosen: dragged.chosen });
    setDragged(null);
  };
  return (
    <DndContext
      sensors={sensors}
      autoScroll={ONLY_THE_TREE}
      collisionDetection={pointerWithin}
      measuring={MEASURING}
      onDragEnd={drop}
      onDragCancel={() => setDragged(null)}
      onDragStart={({ active }) => setDragged(draggedBy(active, selection))}
    >
      {children}
      {dragged && !shown && <CrateTree />}
      <DraggedCount count={dragged?.count ?? 0} />
      {inFolder.dialog}
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
