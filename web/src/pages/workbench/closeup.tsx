import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { drawCloseup, HANDLES, NOW_SHARE, type CloseupContent } from "../../drawing/closeup";
import { TempoMap } from "../../drawing/tempo-map";
import type { Bench } from "./bench";
import { clampSpan } from "./listen-actions";
import { usePlayhead } from "./use-engine";

type Hold =
  | { kind: "scrub"; x: number; time: number; moved: boolean }
  | { kind: "grid"; x: number; by: number }
  | { kind: "anchor"; x: number; time: number; by: number };

const NEAR_PIXELS = 7;

/** The stretch around the present: drag it to move through the track with sound, turn the wheel to come nearer. With Alt the grid is dragged; an anchor by its pin. */
export function Closeup({ bench, content }: { bench: Bench; content: CloseupContent }) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const hold = useRef<Hold | null>(null);
  const shown = useRef(content.map);
  const { span, setSpan } = bench.settings;
  const { data, map, actions } = bench.track;
  const duration = data.track.duration_s;

  const draw = (time: number) => {
    if (!canvas.current) return;
    canvas.current.setAttribute("aria-valuenow", time.toFixed(4));
    drawCloseup(
      canvas.current,
      { ...content, map: hold.current ? shown.current : content.map },
      time,
      span,
      inks,
    );
    canvas.current.setAttribute(
      "aria-valuetext",
      `${clock(time, true)}, bar ${content.map?.barAndBeat(time) ?? "?"}`,
    );
  };
  usePlayhead(draw, [content, span, inks]);

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
  }, [span, setSpan, duration]);

  const secondsPerPixel = () => span / (canvas.current?.clientWidth || 1);
  const timeAt = (event: React.PointerEvent | React.MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return engine.position() + (event.clientX - box.left - NOW_SHARE * box.width) * secondsPerPixel();
  };
  const take = (event: React.PointerEvent): Hold => {
    const box = event.currentTarget.getBoundingClientRect();
    const time = timeAt(event);
    const anchor =
      event.clientY > box.bottom - HANDLES - 2
        ? map?.anchors.find((each) => Math.abs(each.time - time) < NEAR_PIXELS * secondsPerPixel())
        : undefined;
    if (anchor) return { kind: "anchor", x: event.clientX, time: anchor.time, by: 0 };
    return event.altKey && map
      ? { kind: "grid", x: event.clientX, by: 0 }
      : { kind: "scrub", x: event.clientX, time: engine.position(), moved: false };
  };
  const move = (event: React.PointerEvent) => {
    const held = hold.current;
    if (!held) return;
    if (held.kind === "scrub") {
      const by = held.x - event.clientX;
      if (Math.abs(by) > 3) held.moved = true;
      if (held.moved) void engine.scrub(held.time + by * secondsPerPixel());
      return;
    }
    held.by = (event.clientX - held.x) * secondsPerPixel();
    if (data.grid)
      shown.current = new TempoMap(
        {
          ...data.grid,
          anchors: data.grid.anchors.map((a) =>
            held.kind === "grid" || a.time === held.time ? { ...a, time: a.time + held.by } : a,
          ),
        },
        data.heard.phrase_s,
      );
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
      else engine.seek(timeAt(event));
      done();
    } else if (Math.abs(held.by) < 2e-4) done();
    else if (held.kind === "grid") actions.grid.mutate({ edit: "shift", by_s: held.by }, { onSettled: done });
    else
      actions.grid.mutate(
        { edit: "move anchor", time_s: held.time, to_s: held.time + held.by },
        { onSettled: done },
      );
  };
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
        title="Drag: move with sound. Wheel: nearer, wider. Alt and drag: move the grid. A pin below is an anchor: drag it. Double click: set an anchor."
        style={{ width: "100%", height: "100%", display: "block", cursor: "grab", touchAction: "none" }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          shown.current = content.map;
          hold.current = take(e);
        }}
        onPointerMove={move}
        onPointerUp={release}
        onPointerCancel={release}
        onDoubleClick={(e) => map && actions.grid.mutate({ edit: "add anchor", time_s: timeAt(e) })}
      />
    </Box>
  );
}
