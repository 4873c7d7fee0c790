/** The keys of a night. */
import { useNavigate } from "react-router";
import { KEYS } from "../../components/keys";
import { useKeys } from "../../components/use-keys";
import type { NightActions } from "./night-actions";
import type { NightData } from "./night-view";
import type { Play } from "./play-row";
import type { Choosing } from "./use-choosing";
import type { Logbook } from "./use-logbook";

interface Props {
  logbook: Logbook;
  night: NightData;
  choosing: Choosing;
  actions: NightActions;
  onRemark: () => void;
}

export function NightKeys({ logbook, night, choosing, actions, onRemark }: Props) {
  const { chosen, focus } = choosing;
  const navigate = useNavigate();
  const plays = night.plays.filter((play) => chosen.includes(play.id));
  useMarkKeys(plays, actions);
  useMoving(night, choosing, actions);
  useKeys(KEYS.logbook.remark, () => chosen.length > 0 && onRemark());
  useKeys(KEYS.logbook.cut, () => {
    const at = night.plays[focus];
    const open = (made: NightData) => logbook.go({ night: made.gig.id });
    if (at && focus > 0) actions.split.mutate({ id: night.gig.id, play_id: at.id }, { onSuccess: open });
  });
  useKeys(KEYS.lists.remove, () => chosen.length > 0 && actions.remove.mutate(chosen));
  useKeys(KEYS.lists.open, () => {
    const track = night.plays[focus]?.track_id;
    if (track) void navigate(`/workbench/${track}`);
  });
  useKeys(KEYS.lists.all, choosing.all);
  useKeys(KEYS.lists.none, () => (chosen.length ? choosing.none() : logbook.go({ beside: null })));
  return null;
}

function useMarkKeys(plays: readonly Play[], { mark }: NightActions): void {
  const ids = plays.map((play) => play.id);
  const toggle = (has: (play: Play) => boolean, given: object, taken: object) => () => {
    if (ids.length) mark.mutate({ ids, ...(plays.every(has) ? taken : given) });
  };
  const keys = KEYS.logbook;
  useKeys(
    keys.well,
    toggle((play) => play.went === "well", { went: "well" }, { went: "" }),
  );
  useKeys(
    keys.flat,
    toggle((play) => play.went === "flat", { went: "flat" }, { went: "" }),
  );
  useKeys(
    keys.asked,
    toggle((play) => play.asked, { asked: true }, { asked: false }),
  );
  useKeys(
    keys.here,
    toggle((play) => play.never === "here", { never: "here" }, { never: "" }),
  );
  useKeys(
    keys.anywhere,
    toggle((play) => play.never === "everywhere", { never: "everywhere" }, { never: "" }),
  );
}

function useMoving(night: NightData, choosing: Choosing, { move }: NightActions): void {
  const { chosen, focus } = choosing;
  const shift = (by: -1 | 1) => () => {
    const places = night.plays.flatMap((play, place) => (chosen.includes(play.id) ? [place] : []));
    const [first, last] = [places[0], places.at(-1)];
    if (first === undefined || last === undefined || (by < 0 ? first === 0 : last === night.plays.length - 1))
      return;
    const before = night.plays[by < 0 ? first - 1 : last + 2]?.id ?? null;
    move.mutate({ ids: chosen, before });
    choosing.step(by, false);
  };
  useKeys(KEYS.lists.move, (event) => choosing.step(focus < 0 ? 1 : -1, event.shiftKey));
  useKeys(KEYS.lists.down, (event) => choosing.step(1, event.shiftKey));
  useKeys(KEYS.lists.reorder, shift(-1));
  useKeys(KEYS.lists.reorderDown, shift(1));
}
