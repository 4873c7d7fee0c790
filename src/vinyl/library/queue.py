"""The tracks that wait for analysis: in which order, within which tempo window, and what of it counts."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from vinyl.core.rhythm.windows import Window, is_window, learn_window
from vinyl.library import flat
from vinyl.library.errors import LibraryError

Part = Literal["grid", "key", "energy", "loudness"]
PARTS: tuple[Part, ...] = ("grid", "key", "energy", "loudness")
Arrival = Literal["at once", "when opened", "when asked"]
Turn = Literal["newest first", "oldest first", "shortest first"]
MOST_ATTEMPTS = 3
# No codec of music takes fewer bytes for a second; a file that says so is damaged.
LEAST_BYTES_PER_S = 500
SUSPECT = f"(q.attempts > 0 OR t.size_bytes < {LEAST_BYTES_PER_S} * t.duration_s)"
TURNS: Mapping[Turn, str] = {
    "newest first": "t.added_at DESC, q.track_id DESC",
    "oldest first": "t.added_at, q.track_id",
    "shortest first": "t.duration_s, q.track_id",
}
CHOICE = "analysis"
# Where a tempo is trusted enough to learn from.
TRUSTED = ("by hand", "locked", "another library")
SURE_DOUBT = 0.15


@dataclass(frozen=True, slots=True)
class Waiting:
    """A track in the queue, with its file as the library knows it, and what is asked of its analysis. One is
    suspect that has ended a worker before, or is far too long for its bytes.
    """

    track_id: int
    path: str
    duration_s: float
    size_bytes: int
    is_suspect: bool
    window_bpm: Window | None = None
    parts: tuple[Part, ...] = PARTS


@dataclass(frozen=True, slots=True)
class QueueCounts:
    waiting: int
    paused: int
    failed: int


@dataclass(frozen=True, slots=True)
class AnalysisChoice:
    """When new tracks are analysed, in which turn, and the user's own tempo windows by style."""

    arrival: Arrival = "at once"
    turn: Turn = "newest first"
    windows: Mapping[str, Window] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class StyleWindow:
    """The tempo window of a style: how many tracks have the style, what is learnt from ``known`` of them, and
    what the user has set.
    """

    style: str
    tracks: int
    known: int
    learnt: Window | None
    own: Window | None


def enqueue(
    connection: sqlite3.Connection,
    track_ids: Sequence[int],
    first: bool = False,
    window_bpm: Window | None = None,
    parts: Sequence[Part] = PARTS,
) -> None:
    """Put tracks into the queue, or back into it if they had failed or wait for something else."""
    low, high = window_bpm or (None, None)
    turn = _next_first(connection) if first else 0
    kept = None if set(parts) == set(PARTS) else json.dumps(list(parts))
    connection.executemany(
        """INSERT INTO analysis_queue (track_id, state, first, window_low, window_high, parts)
           VALUES (?, 'waiting', ?, ?, ?, ?)
           ON CONFLICT (track_id) DO UPDATE SET state = 'waiting', attempts = 0, error = NULL,
             first = max(first, excluded.first), window_low = excluded.window_low,
             window_high = excluded.window_high, parts = excluded.parts""",
        # Of those that are asked for together, the first in the list comes first.
        [(track_id, turn and turn - place, low, high, kept) for place, track_id in enumerate(track_ids)],
    )
    flat.settle(connection, track_ids, ["analysis"])


def arrive(
    connection: sqlite3.Connection, track_ids: Sequence[int], window_bpm: Window | None = None
) -> None:
    """Put new tracks into the queue, if they are analysed as they arrive; else keep the window for later."""
    if get_choice(connection).arrival == "at once":
        enqueue(connection, track_ids, window_bpm=window_bpm)


def without_analysis(connection: sqlite3.Connection, track_ids: Sequence[int], version: int) -> list[int]:
    """Those of some tracks that were not analysed yet as well as can be, in the same order."""
    rows = connection.execute(
        """SELECT i.value FROM json_each(?) i LEFT JOIN track_analysis a ON a.track_id = i.value
           WHERE a.version IS NULL OR a.version < ? ORDER BY i.key""",
        (json.dumps(list(track_ids)), version),
    )
    return [row[0] for row in rows]


def heard_before(connection: sqlite3.Connection, version: int) -> list[int]:
    """Tracks on the Shelf whose analysis is of an older version, but for those in the queue; newest first."""
    rows = connection.execute(
        """SELECT a.track_id FROM track_analysis a JOIN shelf s ON s.id = a.track_id
           WHERE a.version < ? AND a.track_id NOT IN (SELECT track_id FROM analysis_queue)
           ORDER BY s.added_at DESC, s.id""",
        (version,),
    )
    return [row[0] for row in rows]


def next_waiting(connection: sqlite3.Connection, but_not: set[int], suspects: bool = True) -> Waiting | None:
    """The waiting track whose turn it is and that is not in hand already.

    Args:
        suspects: whether it may be one that is suspect.
    """
    choice = get_choice(connection)
    rows = connection.execute(
        f"""SELECT q.track_id, t.path, t.duration_s, t.size_bytes, q.window_low, q.window_high, q.parts,
             s.genre, {SUSPECT} AS is_suspect
           FROM analysis_queue q JOIN track t ON t.id = q.track_id JOIN shelf s ON s.id = t.id
           WHERE q.state = 'waiting' AND NOT t.away {"" if suspects else f"AND NOT {SUSPECT}"}
           ORDER BY q.first DESC, {TURNS[choice.turn]} LIMIT ?""",
        (len(but_not) + 1,),
    )
    row = next((row for row in rows if row["track_id"] not in but_not), None)
    if row is None:
        return None
    asked = (row["window_low"], row["window_high"]) if row["window_low"] is not None else None
    parts: tuple[Part, ...] = tuple(json.loads(row["parts"])) if row["parts"] else PARTS
    window = asked or window_of(connection, row["genre"])
    return Waiting(
        track_id=row["track_id"],
        path=row["path"],
        duration_s=row["duration_s"],
        size_bytes=row["size_bytes"],
        is_suspect=bool(row["is_suspect"]),
        window_bpm=window,
        parts=parts,
    )


def counts(connection: sqlite3.Connection) -> QueueCounts:
    """How many tracks wait and can be worked on, are paused, and have failed."""
    rows = dict(
        connection.execute(
            """SELECT q.state, count(*) FROM analysis_queue q JOIN track t ON t.id = q.track_id
               WHERE NOT (q.state = 'waiting' AND t.away) GROUP BY q.state"""
        ).fetchall()
    )
    return QueueCounts(rows.get("waiting", 0), rows.get("paused", 0), rows.get("failed", 0))


def pause_all(connection: sqlite3.Connection) -> None:
    """Take all waiting tracks out of turn."""
    _change_states(connection, "state = 'paused'", "state = 'waiting'")


def resume_all(connection: sqlite3.Connection) -> None:
    """Put paused tracks back, and give failed ones another try."""
    _change_states(
        connection, "state = 'waiting', attempts = 0, error = NULL", "state IN ('paused', 'failed')"
    )


def fail(connection: sqlite3.Connection, track_id: int, error: str, final: bool) -> bool:
    """Note a failed try; after MOST_ATTEMPTS, or when it is final, the track waits no longer. Returns whether
    that is so.
    """
    connection.execute(
        """UPDATE analysis_queue SET attempts = attempts + 1, error = ?,
             state = CASE WHEN ? OR attempts + 1 >= ? THEN 'failed' ELSE state END WHERE track_id = ?""",
        (error, final, MOST_ATTEMPTS, track_id),
    )
    flat.settle(connection, [track_id], ["analysis"])
    row = connection.execute("SELECT state FROM analysis_queue WHERE track_id = ?", (track_id,)).fetchone()
    return row is not None and row["state"] == "failed"


def get_choice(connection: sqlite3.Connection) -> AnalysisChoice:
    """How the user wants tracks to be analysed."""
    row = connection.execute("SELECT value FROM choice WHERE name = ?", (CHOICE,)).fetchone()
    kept = json.loads(row[0]) if row else {}
    windows = {style: (low, high) for style, (low, high) in kept.pop("windows", {}).items()}
    return AnalysisChoice(**kept, windows=windows)


def set_choice(connection: sqlite3.Connection, choice: AnalysisChoice) -> None:
    """Change how tracks are analysed from now on.

    Raises:
        LibraryError: for a window that makes no sense.
    """
    for style, window in choice.windows.items():
        if not is_window(*window):
            raise LibraryError(f"{window[0]:g} to {window[1]:g} is no tempo window for {style}.")
    kept = {"arrival": choice.arrival, "turn": choice.turn, "windows": dict(choice.windows)}
    connection.execute(
        "INSERT INTO choice (name, value) VALUES (?, ?) "
        "ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (CHOICE, json.dumps(kept, ensure_ascii=False)),
    )


def window_of(connection: sqlite3.Connection, style: str) -> Window | None:
    """The tempo window for a style: the user's own, else what is learnt."""
    if not style:
        return None
    own = get_choice(connection).windows.get(style)
    return own or learn_window(_known_tempi(connection, style))


def style_windows(connection: sqlite3.Connection, most: int = 200) -> list[StyleWindow]:
    """The windows of all styles, the commonest first, and those set for styles that no track has."""
    own = dict(get_choice(connection).windows)
    rows = connection.execute(
        "SELECT genre, count(*) AS tracks FROM shelf WHERE genre <> '' GROUP BY genre "
        "ORDER BY tracks DESC, genre LIMIT ?",
        (most,),
    ).fetchall()
    listed = [(row["genre"], row["tracks"]) for row in rows]
    listed += [(style, 0) for style in own if style not in {name for name, _ in listed}]
    found = []
    for style, tracks in listed:
        known = _known_tempi(connection, style)
        found.append(StyleWindow(style, tracks, len(known), learn_window(known), own.get(style)))
    return found


def _known_tempi(connection: sqlite3.Connection, style: str) -> list[float]:
    """Tempi of a style's tracks that were set by hand, come from another library, or are hardly in doubt."""
    marks = ", ".join("?" * len(TRUSTED))
    rows = connection.execute(
        f"""SELECT bpm FROM shelf WHERE genre = ? AND bpm IS NOT NULL
            AND (bpm_source IN ({marks}) OR doubt < ?)""",
        (style, *TRUSTED, SURE_DOUBT),
    )
    return [row[0] for row in rows]


def _next_first(connection: sqlite3.Connection) -> int:
    """A turn before all that were asked for earlier; places in a list are counted down from it."""
    highest = connection.execute("SELECT max(first) FROM analysis_queue").fetchone()[0] or 0
    return int(highest) + 1_000_000


def _change_states(connection: sqlite3.Connection, change: str, where: str) -> None:
    ids = [row[0] for row in connection.execute(f"SELECT track_id FROM analysis_queue WHERE {where}")]
    connection.execute(f"UPDATE analysis_queue SET {change} WHERE {where}")
    flat.settle(connection, ids, ["analysis"])
