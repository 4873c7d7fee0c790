import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useEffect, useRef, useState } from "react";
import type { Cue, Proposal } from "../../api/client";
import { engine } from "../../audio/engine";
import { drawPage, drawPagePlayhead, layOut, placeOf, timeOf, type PageContent } from "../../drawing/page";
import type { Bench } from "./bench";
import { cueActions } from "./cue-actions";
import { routeActions } from "./route-actions";
import { usePlayhead } from "./use-engine";

interface Props {
  content: PageContent;
  bench: Bench;
}

type Hold =
  | { kind: "cue"; cue: Cue; time: number }
  | { kind: "ghost"; ghost: Proposal; from: number; time: number }
  | { kind: "mark" | "jump"; from: number; time: number };

const FLAG = { left: 4, right: 18, tall: 15 };
const LAYER = { position: "absolute", inset: 0, width: "100%", height: "100%" } as const;

/** The whole track as lines of 16 bars. A click goes there (to the beat; with Alt exactly), flags can be dragged, Shift and drag marks a stretch. */
export function Page({ content, bench }: Props) {
  const { inks } = useTheme();
  const page = useRef<HTMLCanvasElement>(null);
  const now = useRef<HTMLCanvasElement>(null);
  const [hold, setHold] = useState<Hold | null>(null);
  const { map, duration } = content;
  const { actions } = bench.track;
  const { setCue: setChosenCue } = bench.chosen;
  const routes = routeActions(bench);
  const drawing = bench.settings.panel === "routes";

  useEffect(() => {
    const draw = () => page.current && drawPage(page.current, withHold(content, hold), inks);
    draw();
    const watch = new ResizeObserver(draw);
    if (page.current) watch.observe(page.current);
    return () => watch.disconnect();
  });
  usePlayhead(
    (time) => {
      if (now.current) drawPagePlayhead(now.current, map, duration, time, inks);
    },
    [map, duration, inks],
  );

  const at = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    const layout = layOut(map, duration, box.width, box.height);
    return { layout, x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const isOn = (event: React.PointerEvent, time: number) => {
    const { layout, x, y } = at(event);
    const flag = placeOf(layout, map, time);
    return x > flag.x - FLAG.left && x < flag.x + FLAG.right && y >= flag.y && y < flag.y + FLAG.tall;
  };
  const timeAt = (event: React.PointerEvent): number => {
    const { layout, x, y } = at(event);
    const time = timeOf(layout, map, duration, x, y);
    return event.altKey ? time : Math.max(0, Math.min(duration, map.snap(time)));
  };
  const press = (event: React.PointerEvent) => {
    const time = timeAt(event);
    const cue = content.cues.findLast((each) => isOn(event, each.position_s));
    const ghost = content.proposals.findLast((each) => isOn(event, each.position_s));
    event.currentTarget.setPointerCapture(event.pointerId);
    if (event.shiftKey) setHold({ kind: "mark", from: time, time });
    else if (cue) setHold({ kind: "cue", cue, time: cue.position_s });
    else if (ghost) setHold({ kind: "ghost", ghost, from: ghost.position_s, time: ghost.position_s });
    else if (drawing) setHold({ kind: "jump", from: time, time });
    setChosenCue(cue?.id ?? null);
    engine.setLoop(null);
    if (!event.shiftKey) engine.seek(cue?.position_s ?? ghost?.position_s ?? time);
  };
  const drop = (event: React.PointerEvent) => {
    const free = () => setHold(null);
    if (!hold) return;
    const moved = Math.abs(hold.time - (hold.kind === "cue" ? hold.cue.position_s : hold.from)) > 1e-4;
    if (hold.kind === "cue" && moved)
      actions.changeCue.mutate(
        { cueId: hold.cue.id, change: { position_s: hold.time, snap: event.altKey ? "off" : "beat" } },
        { onSettled: free },
      );
    else free();
    if (hold.kind === "ghost") {
      if (moved) bench.track.moveProposal(hold.ghost, hold.time);
      else cueActions(bench).accept(hold.ghost);
    } else if (hold.kind === "mark")
      bench.chosen.setMark(
        moved ? { from: Math.min(hold.from, hold.time), to: Math.max(hold.from, hold.time) } : null,
      );
    else if (hold.kind === "jump" && moved) routes.addJump(hold.from, hold.time);
  };
  const title = drawing
    ? "Drag from where the route leaves to where it comes in again."
    : "Click: go there, to the beat; with Alt exactly. Drag a flag to move a cue. ⇧ and drag: mark a stretch. Dashed flags are proposals: click to accept, drag to move.";
  return (
    <Box
      data-testid="page"
      title={title}
      sx={{
        flex: 1,
        minHeight: 0,
        position: "relative",
        cursor: drawing ? "crosshair" : "text",
        touchAction: "none",
      }}
      onPointerDown={press}
      onPointerMove={(e) => hold && setHold({ ...hold, time: timeAt(e) })}
      onPointerUp={drop}
    >
      <canvas
        ref={page}
        role="img"
        aria-label="The track as a page, a line for every 16 bars"
        style={LAYER}
      />
      <canvas ref={now} aria-hidden style={{ ...LAYER, pointerEvents: "none" }} />
    </Box>
  );
}

/** The page as it would be if the hand let go now. */
function withHold(content: PageContent, hold: Hold | null): PageContent {
  switch (hold?.kind) {
    case "cue":
      return {
        ...content,
        cues: content.cues.map((cue) => (cue.id === hold.cue.id ? { ...cue, position_s: hold.time } : cue)),
      };
    case "ghost":
      return {
        ...content,
        proposals: content.proposals.map((ghost) =>
          ghost === hold.ghost ? { ...ghost, position_s: hold.time } : ghost,
        ),
      };
    case "mark":
      return {
        ...content,
        mark: { from: Math.min(hold.from, hold.time), to: Math.max(hold.from, hold.time) },
      };
    case "jump":
      return { ...content, jumps: [{ from: hold.from, to: hold.time }] };
    default:
      return content;
  }
}
