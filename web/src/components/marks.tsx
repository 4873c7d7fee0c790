/** Small signs beside a track: locks, routes, what is wrong with its sound. */
import type { Track } from "../api/client";
import "./table.css";

const LETTERS: Record<Track["locks"][number], string> = { grid: "G", cues: "C", key: "K", tags: "T" };

export function Marks({ track }: { track: Pick<Track, "locks" | "routes" | "findings"> }) {
  if (!track.locks.length && !track.routes && !track.findings.length) return null;
  const sound = `The sound: ${track.findings.map(({ words }) => words).join("; ")}`;
  const locked = `Locked: ${track.locks.join(", ")}`;
  const routes = `${track.routes} route${track.routes === 1 ? "" : "s"}`;
  return (
    <span className="marks">
      {track.locks.length > 0 && (
        <span title={locked} aria-label={locked}>
          ▪{track.locks.map((part) => LETTERS[part]).join("")}
        </span>
      )}
      {track.findings.length > 0 && (
        <span className="finding" title={sound} aria-label={sound}>
          !
        </span>
      )}
      {track.routes > 0 && (
        <span title={routes} aria-label={routes}>
          ⤳
        </span>
      )}
    </span>
  );
}
