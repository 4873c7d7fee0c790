/** The points of the arc that is wanted: dragged, or moved by key, and told by where they stand. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { HEIGHT, MARK } from "./arc-size";
import type { ArcPoint } from "./use-sets";

/** A point that is let go this far above or below the picture is taken out. */
const OUTSIDE = 0.35;
/** What a key moves a point by, in shares of the night and in energy; with Shift. */
const STEP = { share: 0.02, energy: 5 };
const FINE = { share: 0.005, energy: 1 };
/** Points stay in their order: so much lies between two. */
const APART = 0.005;
/** A point that has rested so long, or is left, is kept: one step to undo, not one for each key. */
const REST_MS = 500;

const within = (value: number, least: number, most: number) => Math.min(most, Math.max(least, value));
const inside = ({ share, energy }: ArcPoint) => ({
  share: within(share, 0, 1),
  energy: within(energy, 0, 100),
});
const inOrder = (points: readonly ArcPoint[]) => points.toSorted((a, b) => a.share - b.share);

export const withPoint = (points: readonly ArcPoint[], point: ArcPoint): ArcPoint[] =>
  inOrder([...points, inside(point)]);

/** The points with one of them elsewhere; without it where that lies outside. */
function dragged(points: readonly ArcPoint[], place: number, to: ArcPoint): ArcPoint[] {
  const rest = points.filter((_, other) => other !== place);
  const away = to.energy > 100 * (1 + OUTSIDE) || to.energy < -100 * OUTSIDE;
  return away ? rest : withPoint(rest, to);
}

/** The points with one of them moved by key, no further than to its neighbours; null for another key. */
export function keyed(
  points: readonly ArcPoint[],
  place: number,
  key: string,
  fine: boolean,
): ArcPoint[] | null {
  const point = points[place];
  if (!point) return null;
  const step = fine ? FINE : STEP;
  const [least, most] = [points[place - 1]?.share ?? -APART, points[place + 1]?.share ?? 1 + APART];
  const to = (share: number, energy: number) =>
    points.map((each, other) =>
      other === place
        ? { share: within(share, least + APART, most - APART), energy: within(energy, 0, 100) }
        : each,
    );
  switch (key) {
    case "ArrowUp":
      return to(point.share, point.energy + step.energy);
    case "ArrowDown":
      return to(point.share, point.energy - step.energy);
    case "ArrowLeft":
      return to(point.share - step.share, point.energy);
    case "ArrowRight":
      return to(point.share + step.share, point.energy);
    case "Delete":
    case "Backspace":
      return points.filter((_, other) => other !== place);
    default:
      return null;
  }
}

/** Keeps an arc, or says that it could not be. */
export type KeepArc = (points: ArcPoint[], onFailed: () => void) => void;

interface Drawn {
  /** The arc that is changed: what was kept stands over it until there is another. */
  of: readonly ArcPoint[];
  points: ArcPoint[];
  state: "dragged" | "typed" | "kept";
  /** What was kept before, while something is typed. */
  before: ArcPoint[] | null;
}

/** The arc while it is changed, and what keeps it. */
export function useArc(arc: readonly ArcPoint[], onArc: KeepArc) {
  const [drawn, setDrawn] = useState<Drawn | null>(null);
  const open = drawn && (drawn.state !== "kept" || drawn.of === arc) ? drawn : null;
  const keep = (points: ArcPoint[]) => {
    setDrawn({ of: arc, points, state: "kept", before: null });
    onArc(points, () => setDrawn(null));
  };
  const keepTyped = useEffectEvent(() => {
    if (open?.state === "typed") keep(open.points);
  });
  useEffect(() => {
    if (drawn?.state !== "typed") return;
    const timer = setTimeout(() => keepTyped(), REST_MS);
    return () => clearTimeout(timer);
  }, [drawn]);
  useEffect(() => () => keepTyped(), []);
  return {
    points: open?.points ?? arc,
    keep,
    keepTyped: () => {
      if (open?.state === "typed") keep(open.points);
    },
    /** Takes back what was typed and is not kept yet; false if there is nothing. */
    takeBack: (): boolean => {
      if (open?.state !== "typed") return false;
      setDrawn(open.before && { of: arc, points: open.before, state: "kept", before: null });
      return true;
    },
    draw: (points: ArcPoint[], state: "dragged" | "typed") => {
      const before = open?.state === "kept" ? open.points : (open?.before ?? null);
      setDrawn({ of: arc, points, state, before });
    },
  };
}

interface Props {
  edit: ReturnType<typeof useArc>;
  /** Where a pointer is, in shares and energy. */
  at: (event: { clientX: number; clientY: number }) => ArcPoint;
  /** The clock at a share of the night. */
  clock: (share: number) => string;
  /** The point that keys go to. */
  focused: number | null;
  onLeave: () => void;
}

export function ArcPoints({ edit, at, clock, focused, onLeave }: Props) {
  const { points } = edit;
  const drag = (place: number) => (down: React.PointerEvent<HTMLElement>) => {
    const layer = down.currentTarget;
    const from = points;
    layer.setPointerCapture(down.pointerId);
    layer.onpointermove = (event) => edit.draw(dragged(from, place, at(event)), "dragged");
    layer.onpointerup = (event) => {
      layer.onpointermove = layer.onpointerup = null;
      edit.keep(dragged(from, place, at(event)));
    };
  };
  const type = (place: number) => (event: React.KeyboardEvent<HTMLElement>) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "z") {
      if (edit.takeBack()) event.stopPropagation();
      // Keys of the house are not heard from a slider.
      else document.body.dispatchEvent(new KeyboardEvent("keydown", event.nativeEvent));
    }
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.key === "Escape" || event.key === "Enter") event.currentTarget.blur();
    const next = keyed(points, place, event.key, event.shiftKey);
    if (next) edit.draw(next, "typed");
    if (!next && event.key !== "Escape" && event.key !== "Enter") return;
    // A room's own keys for arrows would move the chosen track.
    event.preventDefault();
    event.stopPropagation();
  };
  return points.map((point, place) => (
    <Handle
      key={place}
      point={point}
      clock={clock(point.share)}
      onDown={drag(place)}
      onKey={type(place)}
      takesFocus={focused === place}
      onLeave={() => {
        edit.keepTyped();
        onLeave();
      }}
    />
  ));
}

interface HandleProps {
  point: ArcPoint;
  clock: string;
  onDown: (event: React.PointerEvent<HTMLElement>) => void;
  onKey: (event: React.KeyboardEvent<HTMLElement>) => void;
  takesFocus: boolean;
  onLeave: () => void;
}

function Handle({ point: { share, energy }, clock, onDown, onKey, takesFocus, onLeave }: HandleProps) {
  const { inks } = useTheme();
  const handle = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (takesFocus) handle.current?.focus();
  }, [takesFocus]);
  const words = `energy ${Math.round(energy)} at ${clock}`;
  return (
    <Box
      ref={handle}
      role="slider"
      tabIndex={0}
      aria-label="A point of the arc you want"
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(energy)}
      aria-valuetext={words}
      data-testid="arc point"
      title={`The arc you want: ${words}. Drag it, drag it out to take it away; with the arrows, finer with Shift; Del takes it away.`}
      onPointerDown={onDown}
      // A pointer leaves the keys to the room.
      onMouseDown={(event) => event.preventDefault()}
      onKeyDown={onKey}
      onBlur={onLeave}
      sx={{
        ...{ position: "absolute", width: 14, height: 14, borderRadius: "50%", cursor: "grab" },
        ...{ touchAction: "none", bgcolor: inks.paper, border: `2px solid ${inks.chosen}` },
        ...{ left: `calc(${100 * share}% - 7px)`, backgroundClip: "content-box", p: "1px" },
        top: `calc(${((HEIGHT - MARK) / HEIGHT) * (100 - energy)}% - 7px)`,
        "&:focus-visible": { outline: `2px solid ${inks.ink}`, outlineOffset: 2 },
      }}
    />
  );
}
