/** What dragging tracks has in common, wherever they are dropped. */
import { DragOverlay, PointerSensor, useSensor, useSensors, type Active, type Over } from "@dnd-kit/core";
import { Box } from "@mui/material";
import { counted } from "../api/changes";
import type { Crate } from "../api/client";

/** A press becomes a drag once the hand has moved a little. */
export function useHand() {
  return useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
}

/** The track of a line of what fits, if that is dragged. */
export function fitOf(active: Active): number | null {
  return (active.data.current?.["fit"] as number | undefined) ?? null;
}

/** The crate that something was dropped on. */
export function crateOf(over: Over | null): Crate | null {
  return (over?.data.current?.["crate"] as Crate | undefined) ?? null;
}

/** How many tracks the hand holds, beside the pointer. */
export function DraggedCount({ count }: { count: number }) {
  return (
    <DragOverlay dropAnimation={null}>
      {count > 0 && (
        <Box
          sx={{
            display: "inline-block",
            bgcolor: "secondary.main",
            color: "secondary.contrastText",
            px: 1.5,
            py: 0.6,
            borderRadius: "4px",
            fontWeight: 600,
            boxShadow: 3,
          }}
        >
          {counted(count, "track")}
        </Box>
      )}
    </DragOverlay>
  );
}
