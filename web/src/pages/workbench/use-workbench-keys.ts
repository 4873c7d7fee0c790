import { engine } from "../../audio/engine";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import { benchActions } from "./bench-actions";
import type { Bench } from "./workbench-page";

/** Every action of the Workbench by key. */
export function useWorkbenchKeys(bench: Bench): void {
  const act = benchActions(bench);
  const { listen, grid, cues } = KEYS;
  useKeys(listen.play.key, () => engine.toggle());
  useKeys(listen.back.key, () => act.step(-bench.step));
  useKeys(listen.forth.key, () => act.step(bench.step));
  useKeys(listen.shorter.key, () => act.changeStep(-1));
  useKeys(listen.longer.key, () => act.changeStep(1));
  useKeys(listen.click.key, () => engine.setClick(!bench.state.click));
  useKeys(listen.again.key, act.backAndListen);
  useKeys(listen.next.key, () => bench.goTo(1));
  useKeys(listen.previous.key, () => bench.goTo(-1));
  useKeys(listen.closer.key, () => act.zoom(0.7));
  useKeys(listen.wider.key, () => act.zoom(1 / 0.7));

  useKeys(grid.bar.key, act.barStartsHere);
  useKeys(grid.first.key, act.firstBarHere);
  useKeys(grid.align.key, act.alignHere);
  useKeys(`${grid.earlier.key}, shift+${grid.earlier.key}`, (e) => act.nudge(e.shiftKey ? -10 : -1));
  useKeys(`${grid.later.key}, shift+${grid.later.key}`, (e) => act.nudge(e.shiftKey ? 10 : 1));
  useKeys(grid.halve.key, () => bench.actions.grid.mutate({ edit: "halve" }));
  useKeys(grid.double.key, () => bench.actions.grid.mutate({ edit: "double" }));
  useKeys(grid.tempo.key, () => bench.ask("tempo"));
  useKeys(grid.reset.key, () => bench.data.grid?.by_hand && bench.actions.resetGrid.mutate(undefined));

  useKeys(cues.cue.key, () => act.setCue({}));
  useKeys(cues.in.key, () => act.setRole("in", "In"));
  useKeys(cues.main.key, () => act.setRole("main", "Main"));
  useKeys(cues.out.key, () => act.setRole("out", "Out"));
  useKeys(cues.loop.key, act.loop);
  useKeys(cues.pads.key, (e) => act.pad(Number(e.key)));
  useKeys("up", () => act.chooseNeighbour(-1));
  useKeys("down", () => act.chooseNeighbour(1));
  useKeys(cues.name.key, () => document.getElementById("cue-name")?.focus());
  useKeys(cues.colour.key, act.nextColour);
  useKeys(cues.toHere.key, act.moveChosenHere);
  useKeys(cues.beatBack.key, () => act.moveChosenBy(-1));
  useKeys(cues.beatForth.key, () => act.moveChosenBy(1));
  useKeys(cues.remove.key, act.deleteChosen);
  useKeys(cues.crate.key, () => bench.ask("crate"));
}
