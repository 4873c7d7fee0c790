/** The stick's index, after docs/formats/stick.md. The player knows this page and nothing else of Vinyl. */
export interface StickCue {
  position_s: number;
  length_s: number | null;
  label: string;
  role: string | null;
  colour: string;
  pad: number | null;
  engages: boolean;
}

export interface StickTrack {
  id: string;
  file: string;
  title: string;
  artist: string;
  duration_s: number;
  bpm: number | null;
  key: string | null;
  padding_samples: number;
  rate_hz: number;
  beats_per_bar: number | null;
  anchors: { time: number; beat: number; bpm: number }[];
  cues: StickCue[];
  picture: string | null;
}

export interface StickIndex {
  name: string;
  tracks: StickTrack[];
  crates: { name: string; tracks: string[] }[];
}

export interface Slot {
  name: string;
  problem: string | null;
}

async function get(path: string): Promise<Response> {
  const response = await fetch(`/player/sticks${path}`);
  if (response.ok) return response;
  const body = (await response.json().catch(() => null)) as { detail?: string } | null;
  throw new Error(body?.detail ?? `The stick cannot be read (${response.status}).`);
}

export const readSlots = async (): Promise<Slot[]> => (await (await get("")).json()) as Slot[];
export const readIndex = async (stick: string): Promise<StickIndex> =>
  (await (await get(`/${encodeURIComponent(stick)}/index`)).json()) as StickIndex;
export const fileUrl = (stick: string, file: string): string =>
  `/player/sticks/${encodeURIComponent(stick)}/files/${file.split("/").map(encodeURIComponent).join("/")}`;
export const readFile = async (stick: string, file: string): Promise<ArrayBuffer> => {
  const response = await fetch(fileUrl(stick, file));
  if (!response.ok) throw new Error(`${file} is not on the stick.`);
  return response.arrayBuffer();
};

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
