/** Small signs beside a track: locks, routes, away. */
import type { Track } from "../api/client";
import "./table.css";

const LETTERS: Record<Track["locks"][number], string> = { grid: "G", cues: "C", key: "K", tags: "T" };

/** Small signs beside a track's name: which parts are locked, and that it has a route. */
export function Marks({ track }: { track: Pick<Track, "locks" | "routes"> }) {
  if (!track.locks.length && !track.routes) return null;
  const locked = `Locked: ${track.locks.join(", ")}`;
  const routes = `${track.routes} route${track.routes === 1 ? "" : "s"}`;
  return (
    <span className="marks">
      {track.locks.length > 0 && (
        <span title={locked} aria-label={locked}>
          ▪{track.locks.map((part) => LETTERS[part]).join("")}
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
