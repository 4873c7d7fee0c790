/** The keys of the Workbench. */
import { useLock, useRate } from "../../api/changes";
import type { Part } from "../../api/client";
import { engine } from "../../audio/engine";
import { KEYS } from "../../components/keys";
import { askName, setTagging, useTagging } from "../../components/tagging";
import { useKeys } from "../../components/use-keys";
import { isLocked, type Bench } from "./bench";
import { cueActions } from "./cue-actions";
import { holdPad, useHeldPads } from "./held-pad";
import { gridActions } from "./grid-actions";
import { listenActions } from "./listen-actions";
import { routeActions } from "./route-actions";

/** Every action of the Workbench by key. */
export function useWorkbenchKeys(bench: Bench): void {
  useListenKeys(bench);
  useGridKeys(bench);
  useCueKeys(bench);
  useTrackKeys(bench);
}

function useListenKeys(bench: Bench): void {
  const act = listenActions(bench);
  const { listen } = KEYS;
  useKeys(listen.play, () => engine.toggle());
  useKeys(listen.countIn, () => void engine.play(true));
  useKeys(listen.back, () => act.step(-1));
  useKeys(listen.forth, () => act.step(1));
  useKeys(listen.home, () => act.toPoint(-1));
  useKeys(listen.end, () => act.toPoint(1));
  useKeys(listen.shorter, () => act.changeStep(-1));
  useKeys(listen.longer, () => act.changeStep(1));
  useKeys(listen.walk, act.walk);
  useKeys(listen.again, act.backAndListen);
  useKeys(listen.pace, act.nextPace);
  useKeys(listen.click, () => engine.setClick(!bench.transport.state.click));
  useKeys(listen.louder, () => act.changeClick(0.1));
  useKeys(listen.softer, () => act.changeClick(-0.1));
  useKeys(listen.closer, () => act.zoom(0.7));
  useKeys(listen.wider, () => act.zoom(1 / 0.7));
  useKeys(listen.whole, act.zoomWhole);
}

function useGridKeys(bench: Bench): void {
  const act = gridActions(bench);
  const lock = useToggleLock(bench);
  const { grid } = KEYS;
  useKeys(grid.bar, act.barStartsHere);
  useKeys(grid.first, act.firstBarHere);
  useKeys(grid.align, act.alignHere);
  useKeys(grid.snap, act.snapHere);
  useKeys(grid.earlier, () => act.nudge(-1));
  useKeys(grid.later, () => act.nudge(1));
  useKeys(grid.muchEarlier, () => act.nudge(-10));
  useKeys(grid.muchLater, () => act.nudge(10));
  useKeys(grid.barEarlier, () => act.moveBars(-1));
  useKeys(grid.barLater, () => act.moveBars(1));
  useKeys(grid.halve, act.halve);
  useKeys(grid.double, act.double);
  useKeys(grid.twoForThree, act.twoForThree);
  useKeys(grid.threeForTwo, act.threeForTwo);
  useKeys(grid.other, act.takeOther);
  useKeys(grid.tempo, () => bench.ask("tempo"));
  useKeys(grid.slower, () => act.stepTempo(-0.01));
  useKeys(grid.faster, () => act.stepTempo(0.01));
  useKeys(grid.muchSlower, () => act.stepTempo(-0.1));
  useKeys(grid.muchFaster, () => act.stepTempo(0.1));
  useKeys(grid.reach, act.nextReach);
  useKeys(grid.tap, act.tap);
  useKeys(grid.stretch, act.stretchHere);
  useKeys(grid.pin, act.pinHere);
  useKeys(grid.anchor, act.addAnchor);
  useKeys(grid.otherEnd, act.stepToOtherEnd);
  useKeys(grid.unpin, act.deleteAnchor);
  useKeys(grid.mark, act.mark);
  useKeys(grid.join, act.join);
  useKeys(grid.rescan, () => bench.ask("rescan"));
  useKeys(grid.worst, act.worst);
  useKeys(grid.reset, act.reset);
  useKeys(grid.lock, () => lock("grid"));
}

function useCueKeys(bench: Bench): void {
  const act = cueActions(bench);
  const lock = useToggleLock(bench);
  const { cues } = KEYS;
  useKeys(cues.cue, () => act.setCue({}));
  useKeys(cues.in, () => act.setRole("in", "In"));
  useKeys(cues.main, () => act.setRole("main", "Main"));
  useKeys(cues.out, () => act.setRole("out", "Out"));
  useKeys(cues.loop, act.loop);
  useKeys(cues.loopShorter, act.halveLoop);
  useKeys(cues.loopLonger, act.doubleLoop);
  useKeys(cues.loopOn, act.moveLoopOn);
  useKeys(cues.engage, act.toggleEngages);
  useHeldPads();
  useKeys(cues.pads, (e) => {
    if (e.repeat) return;
    if (act.hasPad(digit(e))) holdPad(e);
    act.pad(digit(e));
  });
  useKeys(cues.nth, (e) => act.nth(digit(e)));
  useKeys(cues.select, () => act.chooseNeighbour(-1));
  useKeys(cues.selectNext, () => act.chooseNeighbour(1));
  useKeys(cues.snap, act.nextSnap);
  useKeys(cues.name, () => {
    bench.settings.setPanel("cues");
    requestAnimationFrame(() => document.getElementById("cue-name")?.focus());
  });
  useKeys(cues.colour, act.nextColour);
  useKeys(cues.toHere, act.moveChosenHere);
  useKeys(cues.beatBack, () => act.moveChosenBy(-1));
  useKeys(cues.beatForth, () => act.moveChosenBy(1));
  useKeys(cues.msBack, () => act.moveChosenByMs(-1));
  useKeys(cues.msForth, () => act.moveChosenByMs(1));
  useKeys(cues.onPad, act.togglePad);
  useKeys(cues.number, () => bench.track.actions.numberPads.mutate(undefined));
  useKeys(cues.remove, act.deleteChosen);
  useKeys(cues.accept, () => act.accept(bench.track.proposals[0]));
  useKeys(cues.acceptAll, act.acceptAll);
  useKeys(cues.ontoGrid, () => bench.ask("onto grid"));
  useKeys(cues.template, () => bench.ask("template"));
  useKeys(cues.removeAll, () => bench.ask("delete cues"));
  useKeys(cues.lock, () => lock("cues"));
}

function useTrackKeys(bench: Bench): void {
  const lock = useToggleLock(bench);
  const rate = useRate();
  const routes = routeActions(bench);
  const grid = gridActions(bench);
  const tagging = useTagging();
  const { id, rating } = bench.track.data.track;
  const star = (by: 1 | -1) => rate.mutate({ ids: [id], stars: Math.max(0, Math.min(5, rating + by)) });
  const { track } = KEYS;
  useKeys(track.next, () => (bench.chosen.taps.length >= 3 ? grid.takeTap() : bench.transport.goTo(1)));
  useKeys(track.previous, () => bench.transport.goTo(-1));
  useKeys(track.queue, () => document.getElementById("queue-list")?.focus());
  useKeys(track.foldPanel, bench.settings.foldPanel);
  useKeys(track.starMore, () => star(1));
  useKeys(track.starLess, () => star(-1));
  useKeys(track.crate, () => bench.ask("crate"));
  useKeys(track.tags, () => {
    const listens = !tagging || bench.settings.panel !== "tags";
    if (listens) bench.settings.setPanel("tags");
    setTagging(listens);
  });
  useKeys(track.tagName, () => {
    bench.settings.setPanel("tags");
    askName();
  });
  useKeys(track.edit, () => bench.ask("edit"));
  useKeys(track.write, () => bench.ask("write"));
  useKeys(track.record, routes.record);
  useKeys(track.route, routes.play);
  useKeys(track.key, () => bench.ask("key"));
  useKeys(track.lockKey, () => lock("key"));
  useKeys(track.lockTags, () => lock("tags"));
}

function useToggleLock(bench: Bench): (part: Part) => void {
  const lock = useLock();
  return (part) => lock.mutate({ ids: [bench.track.data.track.id], part, locked: !isLocked(bench, part) });
}

function digit(event: KeyboardEvent): number {
  return Number(event.code.replace(/^(Digit|Numpad)/, ""));
}
