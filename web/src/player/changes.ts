/** What is changed on the player: kept on the stick, and seen by the player from then on. */
import { PLAYERS } from "./limits";
import {
  writeLine,
  type Anchor,
  type Change,
  type StickCue,
  type StickIndex,
  type StickPlayer,
} from "./stick";

/** The player's part of an index with the changes that were made on it. Those made on an older one are past. */
export function withChanges(
  index: StickIndex,
  profile: string,
  changes: readonly Change[],
): StickPlayer | null {
  const former = PLAYERS.find(({ name }) => name === profile)?.formerly;
  const found =
    index.players.find((player) => player.profile === profile) ??
    index.players.find((player) => player.profile === former);
  if (!found) return null;
  const player = structuredClone(found);
  for (const change of changes)
    if (change.player === profile && change.on === index.written_at) apply(player, change);
  return player;
}

function apply(player: StickPlayer, change: Change): void {
  if (change.what === "list") {
    const list = player.lists.find(({ id }) => id === change.list);
    if (list && change.tracks) list.tracks = change.tracks;
    return;
  }
  const track = player.tracks.find(({ id }) => id === change.track);
  if (!track) return;
  if (change.cues) track.cues = change.cues;
  if (change.anchors) track.anchors = change.anchors;
  if (change.stars !== undefined) track.stars = change.stars;
}

type What = Pick<Change, "what" | "track" | "list" | "cues" | "before" | "anchors" | "beats_per_bar"> &
  Pick<Change, "stars" | "tracks">;

/** Writes a change on the stick, and applies it. */
export async function change(
  stick: string,
  index: StickIndex,
  player: StickPlayer,
  what: What,
): Promise<void> {
  const line: Change = {
    change: crypto.randomUUID(),
    at: new Date().toISOString(),
    on: index.written_at,
    player: player.profile,
    ...what,
  };
  await writeLine(stick, "changes", line);
  apply(player, line);
}

/** A grid moved by some seconds. */
export const nudged = (anchors: readonly Anchor[], by_s: number): Anchor[] =>
  anchors.map((anchor) => ({ ...anchor, time: anchor.time + by_s }));

/** Cues with one more, in order of time. */
export function withCue(cues: readonly StickCue[], position_s: number, length_s: number | null): StickCue[] {
  const cue: StickCue = {
    position_s,
    length_s,
    label: "",
    role: null,
    colour: "ink",
    pad: null,
    engages: false,
    id: "",
  };
  return [...cues, cue].sort((a, b) => a.position_s - b.position_s);
}
