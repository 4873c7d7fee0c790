/** The close-up: the stretch around the present, and what hands do to it. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";
import type { Grid } from "../../api/client";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { drawCloseup, HANDLES, NOW_SHARE, type CloseupContent } from "../../drawing/closeup";
import { TempoMap } from "../../drawing/tempo-map";
import type { Bench } from "./bench";
import { clampSpan } from "./listen-actions";
import { usePlayhead } from "../../audio/use-engine";
import type { GridEdit } from "./use-track-actions";

type Hold =
  | { kind: "scrub"; x: number; time: number; moved: boolean }
  | { kind: "grid"; x: number; by: number }
  | { kind: "anchor"; x: number; time: number; by: number };

const NEAR_PIXELS = 7;
const LEAST_MOVE_S = 2e-4;

type PointAt = React.PointerEvent | React.MouseEvent;
type Canvas = React.RefObject<HTMLCanvasElement | null>;

/** Drag it to move through the track with sound, turn the wheel to come nearer. With Alt the grid is dragged; an anchor by its pin. */
export function Closeup({ bench, content }: { bench: Bench; content: CloseupContent }) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const hold = useRef<Hold | null>(null);
  const shown = useRef(content.map);
  const { span } = bench.settings;
  const { map, actions } = bench.track;
  const draw = (time: number) => {
    if (!canvas.current) return;
    const drawn = { ...content, map: hold.current ? shown.current : content.map };
    canvas.current.setAttribute("aria-valuenow", time.toFixed(4));
    drawCloseup(canvas.current, drawn, time, span, inks);
    const bar = content.map?.barAndBeat(time) ?? "?";
    canvas.current.setAttribute("aria-valuetext", `${clock(time, true)}, bar ${bar}`);
  };
  usePlayhead(draw, [content, span, inks]);
  useWheel(canvas, bench);
  const hands = useHands(bench, span, { hold, shown, draw });
  return (
    <Box sx={{ height: 128, flex: "none", mb: 0.8 }}>
      <canvas
        ref={canvas}
        role="slider"
        tabIndex={0}
        aria-label="Close-up"
        aria-valuemin={0}
        aria-valuemax={content.duration}
        aria-valuenow={0}
        title={HELP}
        style={{ width: "100%", height: "100%", display: "block", cursor: "grab", touchAction: "none" }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          shown.current = content.map;
          hold.current = hands.take(e);
        }}
        onPointerMove={hands.move}
        onPointerUp={hands.release}
        onPointerCancel={hands.release}
        onDoubleClick={(e) => map && actions.grid.mutate({ edit: "add anchor", time_s: timeUnder(e, span) })}
      />
    </Box>
  );
}

const HELP =
  "Drag: move with sound. Wheel: nearer, wider. Alt and drag: move the grid. " +
  "A pin below is an anchor: drag it. Double click: set an anchor.";

/** The wheel comes nearer or goes farther; sideways it moves through the track. */
function useWheel(canvas: Canvas, bench: Bench): void {
  const { span, setSpan } = bench.settings;
  const duration = bench.track.data.track.duration_s;
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      if (Math.abs(event.deltaX) > Math.abs(event.deltaY))
        engine.seek(engine.position() + (event.deltaX * span) / element.clientWidth);
      else setSpan(clampSpan(span * Math.exp(event.deltaY / (event.ctrlKey ? 120 : 500)), duration));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [canvas, span, setSpan, duration]);
}

function secondsPerPixel(event: PointAt, span: number): number {
  return span / (event.currentTarget.clientWidth || 1);
}

function timeUnder(event: PointAt, span: number): number {
  const box = event.currentTarget.getBoundingClientRect();
  return (
    engine.position() + (event.clientX - box.left - NOW_SHARE * box.width) * secondsPerPixel(event, span)
  );
}

interface Held {
  hold: React.RefObject<Hold | null>;
  shown: React.RefObject<TempoMap | null>;
  draw: (time: number) => void;
}

/** What a hand takes hold of, moves, and lets go. */
function useHands(bench: Bench, span: number, { hold, shown, draw }: Held) {
  const { data, map, actions } = bench.track;
  const take = (event: React.PointerEvent): Hold => {
    const low = event.clientY > event.currentTarget.getBoundingClientRect().bottom - HANDLES - 2;
    const near = NEAR_PIXELS * secondsPerPixel(event, span);
    const time = timeUnder(event, span);
    const anchor = low ? map?.anchors.find((each) => Math.abs(each.time - time) < near) : undefined;
    if (anchor) return { kind: "anchor", x: event.clientX, time: anchor.time, by: 0 };
    if (event.altKey && map) return { kind: "grid", x: event.clientX, by: 0 };
    return { kind: "scrub", x: event.clientX, time: engine.position(), moved: false };
  };
  const move = (event: React.PointerEvent) => {
    const held = hold.current;
    if (!held) return;
    const by = (event.clientX - held.x) * secondsPerPixel(event, span);
    if (held.kind === "scrub") {
      held.moved ||= Math.abs(event.clientX - held.x) > 3;
      if (held.moved) void engine.scrub(held.time - by);
      return;
    }
    held.by = by;
    if (data.grid) shown.current = movedMap(data.grid, held, data.heard.phrase_s);
    draw(engine.position());
  };
  const release = (event: React.PointerEvent) => {
    const held = hold.current;
    if (!held) return;
    const done = () => {
      hold.current = null;
      draw(engine.position());
    };
    if (held.kind === "scrub") {
      if (held.moved) void engine.scrub(null);
      else engine.seek(timeUnder(event, span));
      done();
    } else if (Math.abs(held.by) < LEAST_MOVE_S) done();
    else actions.grid.mutate(editOf(held), { onSettled: done });
  };
  return { take, move, release };
}

type GridHold = Exclude<Hold, { kind: "scrub" }>;

function editOf(held: GridHold): GridEdit {
  return held.kind === "grid"
    ? { edit: "shift", by_s: held.by }
    : { edit: "move anchor", time_s: held.time, to_s: held.time + held.by };
}

/** The grid as it would be if the hand let go now. */
function movedMap(grid: Grid, held: GridHold, phrase_s: number | null): TempoMap {
  const anchors = grid.anchors.map((anchor) =>
    held.kind === "grid" || anchor.time === held.time ? { ...anchor, time: anchor.time + held.by } : anchor,
  );
  return new TempoMap({ ...grid, anchors }, phrase_s);
}
