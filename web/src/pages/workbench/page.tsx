import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef, useState } from "react";
import type { Cue } from "../../api/client";
import { engine } from "../../audio/engine";
import { drawPage, drawPagePlayhead, layOut, placeOf, timeOf, type PageContent } from "../../drawing/page";
import { usePlayhead } from "./use-engine";
import type { TrackActions } from "./use-track-actions";

interface Props {
  content: PageContent;
  onChoose: (cueId: number | null) => void;
  actions: TrackActions;
}

const FLAG = { left: 4, right: 18, tall: 15 };
const LAYER = { position: "absolute", inset: 0, width: "100%", height: "100%" } as const;

/** The whole track as lines of 16 bars. A click goes there (to the beat; with Alt exactly), a flag can be dragged. */
export function Page({ content, onChoose, actions }: Props) {
  const { inks } = useTheme();
  const page = useRef<HTMLCanvasElement>(null);
  const now = useRef<HTMLCanvasElement>(null);
  const [dragged, setDragged] = useState<{ cue: Cue; time: number } | null>(null);
  const { map, duration } = content;
  const shown = dragged ? { ...content, cues: content.cues.map((c) => (c.id === dragged.cue.id ? { ...c, position_s: dragged.time } : c)) } : content;

  useEffect(() => {
    const draw = () => page.current && drawPage(page.current, shown, inks);
    draw();
    const watch = new ResizeObserver(draw);
    if (page.current) watch.observe(page.current);
    return () => watch.disconnect();
  });
  usePlayhead((time) => {
    if (now.current) drawPagePlayhead(now.current, map, duration, time, inks);
  }, [map, duration, inks]);

  const at = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const layout = layOut(map, duration, box.width, box.height);
    return { layout, x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const flagAt = (event: React.PointerEvent): Cue | undefined => {
    const { layout, x, y } = at(event);
    return content.cues.findLast((cue) => {
      const flag = placeOf(layout, map, cue.position_s);
      return x > flag.x - FLAG.left && x < flag.x + FLAG.right && y >= flag.y && y < flag.y + FLAG.tall;
    });
  };
  const timeAt = (event: React.PointerEvent): number => {
    const { layout, x, y } = at(event);
    const time = timeOf(layout, map, duration, x, y);
    return event.altKey ? time : Math.max(0, Math.min(duration, map.snap(time)));
  };
  const press = (event: React.PointerEvent) => {
    const cue = flagAt(event);
    onChoose(cue?.id ?? null);
    engine.setLoop(null);
    if (cue) {
      event.currentTarget.setPointerCapture(event.pointerId);
      setDragged({ cue, time: cue.position_s });
      engine.seek(cue.position_s);
    } else engine.seek(timeAt(event));
  };
  const drop = (event: React.PointerEvent) => {
    if (!dragged) return;
    const time = timeAt(event);
    if (Math.abs(dragged.time - dragged.cue.position_s) > 1e-4) {
      actions.changeCue.mutate({ cueId: dragged.cue.id, change: { position_s: time, snap: event.altKey ? "off" : "beat" } }, { onSettled: () => setDragged(null) });
    } else setDragged(null);
  };
  return (
    <Box data-testid="page" sx={{ flex: 1, minHeight: 0, position: "relative", cursor: "text", touchAction: "none" }} onPointerDown={press}
      onPointerMove={(e) => dragged && setDragged({ ...dragged, time: timeAt(e) })} onPointerUp={drop}>
      <canvas ref={page} role="img" aria-label="The track as a page, a line for every 16 bars" style={LAYER} />
      <canvas ref={now} aria-hidden style={{ ...LAYER, pointerEvents: "none" }} />
    </Box>
  );
}
