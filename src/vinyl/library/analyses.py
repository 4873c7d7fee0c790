"""Results of analysis, and the queue of tracks that wait for it."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from vinyl.core.analysis import VERSION, Analysis
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.library.database import now

MOST_ATTEMPTS = 3


@dataclass(frozen=True, slots=True)
class Waiting:
    """A track in the queue."""

    track_id: int
    path: str


@dataclass(frozen=True, slots=True)
class QueueCounts:
    waiting: int
    paused: int
    failed: int


def enqueue(connection: sqlite3.Connection, track_id: int) -> None:
    """Put a track into the queue, or back into it if it had failed."""
    connection.execute(
        """INSERT INTO analysis_queue (track_id, state) VALUES (?, 'waiting')
           ON CONFLICT (track_id) DO UPDATE SET state = 'waiting', attempts = 0, error = NULL""",
        (track_id,),
    )


def next_waiting(connection: sqlite3.Connection, but_not: set[int]) -> Waiting | None:
    """The newest waiting track that is not in hand already."""
    rows = connection.execute(
        """SELECT q.track_id, t.path FROM analysis_queue q JOIN track t ON t.id = q.track_id
           WHERE q.state = 'waiting' AND NOT t.away ORDER BY t.added_at DESC, q.track_id DESC LIMIT ?""",
        (len(but_not) + 1,),
    )
    return next((Waiting(row["track_id"], row["path"]) for row in rows if row["track_id"] not in but_not), None)


def counts(connection: sqlite3.Connection) -> QueueCounts:
    """How many tracks wait, are paused, and have failed."""
    rows = dict(connection.execute("SELECT state, count(*) FROM analysis_queue GROUP BY state").fetchall())
    return QueueCounts(rows.get("waiting", 0), rows.get("paused", 0), rows.get("failed", 0))


def pause_all(connection: sqlite3.Connection) -> None:
    """Take all waiting tracks out of turn."""
    connection.execute("UPDATE analysis_queue SET state = 'paused' WHERE state = 'waiting'")


def resume_all(connection: sqlite3.Connection) -> None:
    """Put paused tracks back, and give failed ones another try."""
    connection.execute("UPDATE analysis_queue SET state = 'waiting', attempts = 0, error = NULL WHERE state IN ('paused', 'failed')")


def store(connection: sqlite3.Connection, track_id: int, result: Analysis) -> None:
    """Keep a track's results and take it out of the queue."""
    grid, key = result.grid, result.key
    connection.execute(
        """INSERT OR REPLACE INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, key, key_confidence, second_key,
             tuning_cents, lufs, peak_db, grid_doubt, grid_reasons, analysed_at)
           SELECT id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ? FROM track WHERE id = ?""",
        (VERSION, grid and grid.tempo_map.bpm, grid and json.dumps(anchors_to(grid.tempo_map)), grid and grid.tempo_map.beats_per_bar,
         key.key and str(key.key), key.confidence, key.second and str(key.second), key.tuning_cents, result.lufs, result.peak_db,
         grid.doubt if grid else 1.0, json.dumps(grid.reasons if grid else ["no beat was found"]), now(), track_id),
    )  # fmt: skip
    connection.execute("UPDATE track SET duration_s = ? WHERE id = ?", (result.duration_s, track_id))
    connection.execute("DELETE FROM analysis_queue WHERE track_id = ?", (track_id,))


def fail(connection: sqlite3.Connection, track_id: int, error: str, final: bool) -> None:
    """Note a failed try; after MOST_ATTEMPTS, or when it is final, the track waits no longer."""
    connection.execute(
        """UPDATE analysis_queue SET attempts = attempts + 1, error = ?,
             state = CASE WHEN ? OR attempts + 1 >= ? THEN 'failed' ELSE state END WHERE track_id = ?""",
        (error, final, MOST_ATTEMPTS, track_id),
    )
