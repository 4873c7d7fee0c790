/** Routes by key and button. */
import { engine, type Jump } from "../../audio/engine";
import type { Bench } from "./bench";

/** Recording, drawing and playing routes. */
export function routeActions(bench: Bench) {
  const { map, data, actions } = bench.track;
  const { route } = bench.chosen;
  const snapped = (time: number) => Math.max(0, Math.min(data.track.duration_s, map ? map.snap(time) : time));
  const save = (jumps: Jump[]) => {
    const whole = jumps.map(({ from, to }) => ({ from_s: snapped(from), to_s: snapped(to) }));
    const name = `Route ${data.routes.length + 1}`;
    actions.addRoute.mutate({ name, jumps: whole }, { onSuccess: (made) => bench.chosen.setRoute(made.id) });
  };
  return {
    /** Jumps by hand while playing become a route; both ends go to the nearest beat, so that it plays in time. */
    record: () => {
      bench.settings.setPanel("routes");
      if (!bench.transport.state.recording) {
        engine.record(true);
        bench.say("Recording: play, and jump where the route is to jump. ⇧ J ends it.");
        return;
      }
      engine.record(false);
      if (engine.recorded.length) save(engine.recorded);
      else
        bench.say(
          "No jump was made while playing, so there is no route. Press ⇧ J, jump by pads or cues while it plays, and press it again.",
        );
    },
    /** A jump drawn on the page: into the chosen route in its place, or the first of a new one. */
    addJump: (from: number, to: number) => {
      if (!route) {
        save([{ from, to }]);
        return;
      }
      const jumps = [...route.jumps, { from_s: snapped(from), to_s: snapped(to) }].sort(
        (a, b) => a.from_s - b.from_s,
      );
      actions.changeRoute.mutate({ id: route.id, name: route.name, jumps });
    },
    removeJump: (place: number) => {
      if (!route) return;
      const jumps = route.jumps.filter((_, i) => i !== place);
      if (jumps.length) actions.changeRoute.mutate({ id: route.id, name: route.name, jumps });
      else actions.deleteRoute.mutate(route.id, { onSuccess: () => bench.chosen.setRoute(null) });
    },
    rename: (name: string) => route && actions.changeRoute.mutate({ id: route.id, name, jumps: route.jumps }),
    remove: () =>
      route && actions.deleteRoute.mutate(route.id, { onSuccess: () => bench.chosen.setRoute(null) }),
    ...playActions(bench),
  };
}

/** Hearing a route, whole or over one of its joints. */
function playActions(bench: Bench) {
  const { map } = bench.track;
  const { route } = bench.chosen;
  return {
    play: () => {
      if (bench.transport.state.way === "route" && bench.transport.state.playing) engine.pause();
      else if (route)
        void engine.follow(
          "route",
          0,
          route.jumps.map((jump) => ({ from: jump.from_s, to: jump.to_s })),
        );
      else bench.say("Choose a route first, or record one with ⇧ J.");
    },
    /** The last two bars before a joint, and on over it. */
    playJoint: (place: number) => {
      const jump = route?.jumps[place];
      if (!route || !jump || !map) return;
      const left = route.jumps.slice(place).map((each) => ({ from: each.from_s, to: each.to_s }));
      void engine.follow(
        "route",
        Math.max(0, map.timeAt(map.beatAt(jump.from_s) - 2 * map.beatsPerBar)),
        left,
      );
    },
  };
}
