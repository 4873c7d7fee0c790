/** Dragging with the mouse: tracks of a set to another place of its order, into it from the side, or into the tray. */
import { DndContext, pointerWithin, useDraggable, useDroppable } from "@dnd-kit/core";
import { useState, type ReactNode } from "react";
import { DraggedCount, useHand } from "../../components/dragging";
import type { Line } from "./side-lines";
import type { DjSet, useSetChanges } from "./use-sets";

/** What the hand holds: an entry of the set, or a track that is none yet. */
export type Held = Pick<Line, "entry" | "track_id">;
/** Where it is let go: in the tray, on an entry of the order, or behind the last (null). */
export type Spot = { tray: true } | { tray: false; on: number | null };

export const TRAY = "tray";
const END = "end";

interface Props {
  set: DjSet;
  changes: ReturnType<typeof useSetChanges>;
  children: ReactNode;
}

export function SetDragging({ set, changes, children }: Props) {
  const [holds, setHolds] = useState(false);
  return (
    <DndContext
      sensors={useHand()}
      collisionDetection={pointerWithin}
      onDragStart={() => setHolds(true)}
      onDragCancel={() => setHolds(false)}
      onDragEnd={({ active, over }) => {
        setHolds(false);
        const held = active.data.current as Held;
        const asked = over && dropped(set, held, over.data.current as Spot);
        if (asked?.move) changes.move.mutate(asked.move);
        if (asked?.add) changes.add.mutate(asked.add);
      }}
    >
      {children}
      <DraggedCount count={holds ? 1 : 0} />
    </DndContext>
  );
}

interface Dropped {
  move?: { entry_ids: number[]; placed: boolean; before: number | null };
  add?: { ids: number[]; placed: boolean; before?: number | null };
}

/** What letting go asks for: on a track it takes that one's place, behind it where it comes from above. */
export function dropped(set: Pick<DjSet, "order">, held: Held, spot: Spot): Dropped {
  const from = set.order.findIndex(({ id }) => id === held.entry);
  if (spot.tray) {
    if (from >= 0 && held.entry !== null)
      return { move: { entry_ids: [held.entry], placed: false, before: null } };
    if (held.entry === null && held.track_id !== null)
      return { add: { ids: [held.track_id], placed: false } };
    return {};
  }
  const at = set.order.findIndex(({ id }) => id === spot.on);
  const before = (from >= 0 && from < at ? set.order[at + 1]?.id : spot.on) ?? null;
  if (held.entry === null)
    return held.track_id === null ? {} : { add: { ids: [held.track_id], placed: true, before } };
  if (from >= 0 && (spot.on === held.entry || (spot.on === null && from === set.order.length - 1))) return {};
  return { move: { entry_ids: [held.entry], placed: true, before } };
}

/** For a row that can be picked up; its id is its own among all that can be. */
export function usePickedUp(id: string, held: Held) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id, data: held });
  return { setNode: setNodeRef, listeners, isDragging };
}

/** For an entry of the order, or the room behind it (null), on which can be let go. */
export function useSpot(on: number | null) {
  const id = on === null ? END : `on-${on}`;
  const { setNodeRef, isOver } = useDroppable({ id, data: { tray: false, on } satisfies Spot });
  return { setNode: setNodeRef, isOver, id };
}

export function useTraySpot() {
  const { setNodeRef, isOver } = useDroppable({ id: TRAY, data: { tray: true } satisfies Spot });
  return { setNode: setNodeRef, isOver };
}
