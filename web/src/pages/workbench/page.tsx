/** The whole track as lines of 16 bars, and what hands do to it. */
import { Box } from "@mui/material";
import { useTheme } from "@mui/material/styles";
import { useRef, useState } from "react";
import type { Cue, Proposal } from "../../api/client";
import { engine } from "../../audio/engine";
import { drawPage, drawPagePlayhead, layOut, placeOf, timeOf, type PageContent } from "../../drawing/page";
import type { Bench } from "./bench";
import { cueActions } from "./cue-actions";
import { routeActions } from "./route-actions";
import { usePlayhead } from "../../audio/use-engine";
import { useRedraw } from "./use-redraw";

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

/** A click goes there (to the beat; with Alt exactly), flags can be dragged, Shift and drag marks a stretch. */
export function Page({ content, bench }: Props) {
  const { inks } = useTheme();
  const page = useRef<HTMLCanvasElement>(null);
  const now = useRef<HTMLCanvasElement>(null);
  const [hold, setHold] = useState<Hold | null>(null);
  const { map, duration } = content;
  const drawing = bench.settings.panel === "routes";
  useRedraw(page, (canvas) => drawPage(canvas, withHold(content, hold), inks));
  usePlayhead(
    (time) => {
      if (now.current) drawPagePlayhead(now.current, map, duration, time, inks);
    },
    [map, duration, inks],
  );
  const press = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    setHold(takenBy(event, content, drawing));
    pressOn(event, content, bench);
  };
  const drop = (event: React.PointerEvent) => {
    if (hold) dropHold(hold, bench, event.altKey, () => setHold(null));
  };
  return (
    <Box
      data-testid="page"
      title={drawing ? ROUTE_HELP : HELP}
      sx={{
        ...{ flex: 1, minHeight: 0, position: "relative", touchAction: "none" },
        cursor: drawing ? "crosshair" : "text",
      }}
      onPointerDown={press}
      onPointerMove={(e) => hold && setHold({ ...hold, time: timeUnder(e, content) })}
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

const ROUTE_HELP = "Drag from where the route leaves to where it comes in again.";
const HELP =
  "Click: go there, to the beat; with Alt exactly. Drag a flag to move a cue. ⇧ and drag: mark a stretch. " +
  "Dashed flags are proposals: click to accept, drag to move.";

function placeUnder(event: React.PointerEvent, { map, duration }: PageContent) {
  const box = event.currentTarget.getBoundingClientRect();
  const layout = layOut(map, duration, box.width, box.height);
  return { layout, x: event.clientX - box.left, y: event.clientY - box.top };
}

function timeUnder(event: React.PointerEvent, content: PageContent): number {
  const { layout, x, y } = placeUnder(event, content);
  const time = timeOf(layout, content.map, content.duration, x, y);
  return event.altKey ? time : Math.max(0, Math.min(content.duration, content.map.snap(time)));
}

/** The cue or proposal whose flag is under the pointer. */
function flagUnder(event: React.PointerEvent, content: PageContent) {
  const { layout, x, y } = placeUnder(event, content);
  const isOn = ({ position_s }: { position_s: number }) => {
    const flag = placeOf(layout, content.map, position_s);
    return x > flag.x - FLAG.left && x < flag.x + FLAG.right && y >= flag.y && y < flag.y + FLAG.tall;
  };
  return { cue: content.cues.findLast(isOn), ghost: content.proposals.findLast(isOn) };
}

function takenBy(event: React.PointerEvent, content: PageContent, drawing: boolean): Hold | null {
  const time = timeUnder(event, content);
  const { cue, ghost } = flagUnder(event, content);
  if (event.shiftKey) return { kind: "mark", from: time, time };
  if (cue) return { kind: "cue", cue, time: cue.position_s };
  if (ghost) return { kind: "ghost", ghost, from: ghost.position_s, time: ghost.position_s };
  return drawing ? { kind: "jump", from: time, time } : null;
}

function pressOn(event: React.PointerEvent, content: PageContent, bench: Bench): void {
  const { cue, ghost } = flagUnder(event, content);
  bench.chosen.setCue(cue?.id ?? null);
  engine.setLoop(null);
  if (!event.shiftKey) engine.seek(cue?.position_s ?? ghost?.position_s ?? timeUnder(event, content));
}

/** What was held is put where it was let go; `free` once it is drawn there anyway. */
function dropHold(hold: Hold, bench: Bench, exact: boolean, free: () => void): void {
  const from = hold.kind === "cue" ? hold.cue.position_s : hold.from;
  const moved = Math.abs(hold.time - from) > 1e-4;
  if (hold.kind === "cue" && moved) {
    const change = { position_s: hold.time, snap: exact ? "off" : "beat" } as const;
    bench.track.actions.changeCue.mutate({ cueId: hold.cue.id, change }, { onSettled: free });
    return;
  }
  free();
  if (hold.kind === "ghost" && moved) bench.track.moveProposal(hold.ghost, hold.time);
  else if (hold.kind === "ghost") cueActions(bench).accept(hold.ghost);
  else if (hold.kind === "mark")
    bench.chosen.setMark(moved ? { from: Math.min(from, hold.time), to: Math.max(from, hold.time) } : null);
  else if (hold.kind === "jump" && moved) routeActions(bench).addJump(from, hold.time);
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
