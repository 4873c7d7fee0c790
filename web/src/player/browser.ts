/** The left side of the player: sticks, lists, tracks, searched and sorted. */
import { rowsOf, type Sorted } from "./browse";
import { button, element } from "./dom";
import { canPlay, type Limits } from "./limits";
import type { Slot, StickList, StickPlayer, StickTrack } from "./stick";
import { say } from "./words";

const SORTS: Record<Sorted, string> = { list: "as it is", tempo: "by tempo", key: "by key" };

interface Handlers {
  onStick: (name: string) => void;
  onTrack: (track: StickTrack) => void;
  onRaise: (list: StickList, trackId: string) => void;
}

/** Draws itself anew from what it is shown. */
export class Browser {
  readonly slots = element("ul", { className: "slots" });
  readonly lists = element("div", { className: "crates" });
  readonly tracks = element("ol", { className: "tracks" });
  readonly find = element("input", { type: "search", ariaLabel: "Find" });
  readonly sorts = element("div", { className: "sorts" });
  list = 0;
  private sorted: Sorted = "list";
  private player: StickPlayer | null = null;
  private limits: Limits | null = null;

  constructor(private readonly on: Handlers) {
    this.find.oninput = () => this.draw();
  }

  showSlots(found: readonly Slot[]): void {
    this.slots.replaceChildren(...found.map((slot) => this.slot(slot)));
    if (!found.length)
      this.slots.replaceChildren(
        element("li", {
          className: "small",
          textContent: "No stick is in the player. Pack one in Vinyl and eject it.",
        }),
      );
  }

  private slot({ name, problem }: Slot): HTMLElement {
    const put = button(name, "Put this stick in", () => this.on.onStick(name), { stick: name });
    put.disabled = problem !== null;
    return element("li", {}, put, element("span", { className: "small", textContent: problem ?? "" }));
  }

  show(player: StickPlayer | null, limits: Limits): void {
    this.player = player;
    this.limits = limits;
    this.list = Math.min(this.list, Math.max(0, (player?.lists.length ?? 1) - 1));
    this.draw();
  }

  draw(): void {
    const { player, limits } = this;
    this.find.placeholder = say("Find", player?.settings["language"]);
    this.sorts.replaceChildren(
      ...(player ? (Object.keys(SORTS) as Sorted[]).map((each) => this.sort(each)) : []),
    );
    this.lists.replaceChildren(...(player?.lists ?? []).map((each, i) => this.listButton(each.name, i)));
    const list = player?.lists[this.list];
    const rows = player && list ? rowsOf(player, list, this.find.value, this.sorted) : [];
    this.tracks.replaceChildren(
      ...rows.map((row) =>
        "divider" in row
          ? element("li", { className: "divider", textContent: row.divider })
          : this.track(row.track, limits),
      ),
    );
  }

  private sort(sorted: Sorted): HTMLElement {
    const made = button(SORTS[sorted], `The tracks ${SORTS[sorted]}`, () => {
      this.sorted = sorted;
      this.draw();
    });
    made.ariaPressed = String(sorted === this.sorted);
    return made;
  }

  private listButton(name: string, i: number): HTMLElement {
    const made = button(
      name,
      "Show this list",
      () => {
        this.list = i;
        this.draw();
      },
      { crate: name },
    );
    made.ariaPressed = String(i === this.list);
    return made;
  }

  private track(track: StickTrack, limits: Limits | null): HTMLElement {
    const plays = limits !== null && canPlay(limits, track.file);
    const made = element(
      "button",
      {
        type: "button",
        disabled: !plays,
        title: plays ? "Load it" : "This player cannot play such a file",
        data: { track: track.title },
        onclick: () => this.on.onTrack(track),
      },
      element("b", { textContent: track.title }),
      element("span", { textContent: track.artist }),
      element("i", { textContent: `${track.bpm?.toFixed(1) ?? ""}  ${track.key ?? ""}` }),
    );
    return element("li", {}, made, ...this.raise(track));
  }

  /** In a list's own order, on a player that writes back, tracks can be put higher. */
  private raise(track: StickTrack): HTMLElement[] {
    const list = this.player?.lists[this.list];
    if (!list || !this.limits?.writesBack || this.sorted !== "list" || this.find.value) return [];
    const title = `Put “${track.title}” a place higher`;
    return [button("▴", title, () => this.on.onRaise(list, track.id), { raise: track.title })];
  }
}
