import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef } from "react";
import { engine } from "../../audio/engine";
import { clock } from "../../components/format";
import { drawCloseup, NOW_SHARE, type CloseupContent } from "../../drawing/closeup";
import { usePlayhead } from "./use-engine";

interface Props {
  content: CloseupContent;
  span: number;
  onSpan: (seconds: number) => void;
}

/** The stretch around the present: drag it to move through the track, turn the wheel to come nearer. */
export function Closeup({ content, span, onSpan }: Props) {
  const { inks } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const drag = useRef<{ x: number; time: number; moved: boolean } | null>(null);

  usePlayhead((time) => {
    if (!canvas.current) return;
    canvas.current.setAttribute("aria-valuenow", time.toFixed(4));
    drawCloseup(canvas.current, content, time, span, inks);
    canvas.current.setAttribute("aria-valuetext", `${clock(time, true)}, bar ${content.map?.barAndBeat(time) ?? "?"}`);
  }, [content, span, inks]);

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      onSpan(Math.max(0.25, Math.min(60, span * Math.exp(event.deltaY / 500))));
    };
    element.addEventListener("wheel", turn, { passive: false });
    return () => element.removeEventListener("wheel", turn);
  }, [span, onSpan]);

  const secondsPerPixel = () => span / (canvas.current?.clientWidth || 1);
  return (
    <Box sx={{ height: 118, flex: "none", mb: 1.1 }}>
      <canvas
        ref={canvas} role="slider" tabIndex={0} aria-label="Close-up" aria-valuemin={0} aria-valuemax={content.duration} aria-valuenow={0}
        style={{ width: "100%", height: "100%", display: "block", cursor: "grab", touchAction: "none" }}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { x: e.clientX, time: engine.position(), moved: false };
        }}
        onPointerMove={(e) => {
          if (!drag.current) return;
          const by = drag.current.x - e.clientX;
          if (Math.abs(by) > 3) drag.current.moved = true;
          if (drag.current.moved) engine.seek(drag.current.time + by * secondsPerPixel());
        }}
        onPointerUp={(e) => {
          if (drag.current && !drag.current.moved) {
            const box = e.currentTarget.getBoundingClientRect();
            engine.seek(drag.current.time + (e.clientX - box.left - NOW_SHARE * box.width) * secondsPerPixel());
          }
          drag.current = null;
        }}
      />
    </Box>
  );
}
