/** Going along the lists of a stick: searched, sorted, with their dividers. */
import type { StickList, StickPlayer, StickTrack } from "./stick";

export type Sorted = "list" | "tempo" | "key";
export type Row = { divider: string } | { track: StickTrack };

const plain = (text: string) => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

/** The rows of a list. Dividers stand only in its own order, and where nothing is searched. */
export function rowsOf(player: StickPlayer, list: StickList, words: string, sorted: Sorted): Row[] {
  const byId = new Map(player.tracks.map((track) => [track.id, track]));
  const wanted = plain(words).split(/\s+/).filter(Boolean);
  const tracks = list.tracks.flatMap((id) => byId.get(id) ?? []);
  const found = tracks.filter((track) =>
    wanted.every((word) => plain(`${track.title} ${track.artist}`).includes(word)),
  );
  if (sorted === "tempo") found.sort((a, b) => (a.bpm ?? 0) - (b.bpm ?? 0));
  if (sorted === "key")
    found.sort((a, b) => (a.key ?? "").localeCompare(b.key ?? "", "en", { numeric: true }));
  if (sorted !== "list" || wanted.length) return found.map((track) => ({ track }));
  return found.flatMap((track, i) => [
    ...list.divided.filter(([at]) => at === i).map(([, divider]) => ({ divider })),
    { track },
  ]);
}
