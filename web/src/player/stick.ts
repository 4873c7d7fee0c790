/** The stick's index, after docs/formats/stick.md. The player knows this page and nothing else of Vinyl. */
export interface StickCue {
  position_s: number;
  length_s: number | null;
  label: string;
  role: string | null;
  colour: string;
  pad: number | null;
  engages: boolean;
  id: string;
}

export interface Anchor {
  time: number;
  beat: number;
  bpm: number;
}

export interface StickTrack {
  id: string;
  file: string;
  title: string;
  artist: string;
  duration_s: number;
  bpm: number | null;
  key: string | null;
  stars: number;
  beats_per_bar: number | null;
  anchors: Anchor[];
  cues: StickCue[];
  routes: { name: string; jumps: [number, number][] }[];
  picture: string | null;
  waveform?: string | null;
}

export interface StickFile {
  file: string;
  padding_samples: number;
  rate_hz: number;
  gain_db?: number | null;
}

export interface StickList {
  id: string;
  name: string;
  within: string[];
  tracks: string[];
  divided: [number, string][];
}

export interface StickPlayer {
  profile: string;
  settings: Record<string, string>;
  tracks: StickTrack[];
  lists: StickList[];
}

export interface StickIndex {
  name: string;
  written_at: string;
  files: StickFile[];
  players: StickPlayer[];
}

export interface Slot {
  name: string;
  problem: string | null;
}

/** A change as it stands on the stick; what it holds depends on what it is of. */
export interface Change {
  change: string;
  at: string;
  on: string;
  player: string;
  what: "cues" | "grid" | "stars" | "list";
  track?: string;
  list?: string;
  cues?: StickCue[];
  before?: StickCue[];
  anchors?: Anchor[];
  beats_per_bar?: number;
  stars?: number;
  tracks?: string[];
}

const at = (stick: string, path: string) => `/player/sticks/${encodeURIComponent(stick)}/${path}`;

async function get(path: string): Promise<unknown> {
  const response = await fetch(path);
  if (response.ok) return response.json();
  const body = (await response.json().catch(() => null)) as { detail?: string } | null;
  throw new Error(body?.detail ?? `The stick cannot be read (${response.status}).`);
}

export const readSlots = async (): Promise<Slot[]> => (await get("/player/sticks")) as Slot[];
export const readIndex = async (stick: string): Promise<StickIndex> =>
  (await get(at(stick, "index"))) as StickIndex;
export const readChanges = async (stick: string): Promise<Change[]> =>
  (await get(at(stick, "changes"))) as Change[];
const inParts = (file: string): string => file.split("/").map(encodeURIComponent).join("/");
export const fileUrl = (stick: string, file: string): string => at(stick, `files/${inParts(file)}`);
export const readFile = async (stick: string, file: string): Promise<ArrayBuffer> => {
  const response = await fetch(fileUrl(stick, file));
  if (!response.ok) throw new Error(`${file} is not on the stick.`);
  return response.arrayBuffer();
};

/** The sound of a file that the page cannot decode by itself. */
export const readSound = async (stick: string, file: string): Promise<ArrayBuffer> => {
  const response = await fetch(at(stick, `sound/${inParts(file)}`));
  if (!response.ok) throw new Error(`${file} cannot be played: it is damaged.`);
  return response.arrayBuffer();
};

/** A line more in one of the stick's own papers. */
export async function writeLine(stick: string, paper: "plays" | "changes", line: object): Promise<void> {
  const response = await fetch(at(stick, paper), {
    method: "POST",
    keepalive: true,
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(line),
  });
  if (!response.ok) throw new Error("The stick did not take it: is it still in the player?");
}

/** Beat times in seconds between 0 and the track's end, with the number of each beat. */
export function beatsOf(track: StickTrack): { time: number; beat: number }[] {
  const { anchors } = track;
  const found: { time: number; beat: number }[] = [];
  anchors.forEach((anchor, i) => {
    const next = anchors[i + 1];
    const seconds = next ? (next.time - anchor.time) / (next.beat - anchor.beat) : 60 / anchor.bpm;
    const from = i === 0 ? anchor.beat - Math.floor((anchor.time + 1e-6) / seconds) : Math.ceil(anchor.beat);
    const to = next ? next.beat : anchor.beat + (track.duration_s - anchor.time) / seconds;
    for (let beat = Math.ceil(from); beat < to; beat++)
      found.push({ beat, time: anchor.time + (beat - anchor.beat) * seconds });
  });
  return found;
}
