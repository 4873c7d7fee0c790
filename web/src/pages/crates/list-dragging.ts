/** Dragging crates and folders in their tree: onto a folder into it, onto a crate before it. */
import { useDraggable, useDroppable, type DragEndEvent } from "@dnd-kit/core";
import type { Crate } from "../../api/client";
import { crateOf } from "../../components/dragging";
import { useMoveList } from "./list-changes";

const nameOf = (crate: Crate) => `list-${crate.id}`;

/** The crate or folder that is being dragged. */
export function listOf(active: { data: { current?: object | undefined } } | null): Crate | null {
  return (active?.data.current as { list?: Crate } | undefined)?.list ?? null;
}

/** A card that is dragged, and that tracks or other cards are dropped on. */
export function useCard(crate: Crate) {
  const drag = useDraggable({ id: nameOf(crate), data: { list: crate } });
  const { setNodeRef, isOver, active } = useDroppable({ id: `card-${crate.id}`, data: { crate } });
  const takesTracks = !crate.fills_itself;
  const list = listOf(active);
  return {
    ref: (element: HTMLElement | null) => {
      drag.setNodeRef(element);
      setNodeRef(element);
    },
    handle: drag.listeners,
    dragging: drag.isDragging,
    /** Something else is held over it. */
    hovered: isOver && list?.id !== crate.id,
    over: isOver && (list ? list.id !== crate.id : takesTracks),
  };
}

/** What becomes of a list that is let go; false for anything else that was dragged. */
export function useListDrop(): (event: DragEndEvent) => boolean {
  const move = useMoveList();
  return ({ active, over }) => {
    const list = listOf(active);
    if (!list) return false;
    const target = crateOf(over);
    if (target && target.id !== list.id) {
      if (target.is_folder) move.mutate({ id: list.id, folder_id: target.id, before_id: null });
      else move.mutate({ id: list.id, folder_id: target.folder_id, before_id: target.id });
    }
    return true;
  };
}
