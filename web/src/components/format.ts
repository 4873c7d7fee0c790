/** 62.4 as "1:02"; with tenths "1:02.4". */
export function clock(seconds: number, tenths = false): string {
  const sign = seconds < 0 ? "−" : "";
  const unit = tenths ? 10 : 1;
  const whole = tenths ? Math.floor(Math.abs(seconds) * unit) : Math.round(Math.abs(seconds));
  const minutes = Math.floor(whole / unit / 60);
  const rest = (whole / unit - minutes * 60).toFixed(tenths ? 1 : 0);
  return `${sign}${minutes}:${rest.padStart(tenths ? 4 : 2, "0")}`;
}

/** Seconds left, roughly, in words. */
export function timeLeft(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "";
  if (seconds < 5) return "a few seconds left";
  if (seconds < 90) return `about ${Math.round(seconds / 5) * 5} s left`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min left`;
  return `about ${Math.round(seconds / 3600)} h left`;
}

export function playingTime(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  return minutes < 60
    ? `${minutes} min`
    : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} min`;
}

export function size(bytes: number): string {
  return bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}

export function lufs(value: number | null | undefined): string {
  return value === null || value === undefined ? "–" : value.toFixed(1).replace("-", "−");
}

const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const DATE = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "2-digit" });

/** A day, or the day of a time; a day alone is that day in every zone. */
export function day(iso: string): string {
  const date = new Date(iso.length === 10 ? `${iso}T12:00` : iso);
  return date.getFullYear() === new Date().getFullYear() ? DAY.format(date) : DATE.format(date);
}

export function ago(iso: string): string {
  const seconds = (Date.now() - new Date(iso).getTime()) / 1000;
  if (seconds < 60) return "just now";
  if (seconds < 3600) return `${Math.round(seconds / 60)} min ago`;
  if (seconds < 86400) return `${Math.round(seconds / 3600)} h ago`;
  return day(iso);
}

/** Values that are called otherwise on the screen. */
const FIELD_NAMES: Record<string, string> = {
  genre: "style",
  catalogue: "catalogue number",
  isrc: "ISRC",
  plays: "play count",
  gain: "gain to the usual loudness, dB",
  chapters: "chapter marks",
};

/** Text without case and accents, for finding. */
export const foldText = (text: string): string => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

export const fieldName = (field: string): string => FIELD_NAMES[field] ?? field;

/** A count with its word. */
export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString("en")} ${count === 1 ? one : many}`;
