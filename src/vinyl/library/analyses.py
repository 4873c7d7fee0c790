"""Results of analysis, and the queue of tracks that wait for it."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from vinyl.core.analysis import VERSION, Analysis
from vinyl.core.rhythm.grid import GridEstimate
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.library.database import now
from vinyl.library.locks import locks_of

MOST_ATTEMPTS = 3
# Columns that a lock holds. Sections and proposals lie on the grid's bars, so they stay with it.
HELD_BY = {
    "grid": (
        "bpm",
        "anchors",
        "beats_per_bar",
        "grid_doubt",
        "grid_reasons",
        "phrase_s",
        "sections",
        "cue_proposals",
    ),
    "key": ("key", "key_confidence", "second_key", "second_from_s", "runner_up_key", "tuning_cents"),
}


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
    return next(
        (Waiting(row["track_id"], row["path"]) for row in rows if row["track_id"] not in but_not), None
    )


def counts(connection: sqlite3.Connection) -> QueueCounts:
    """How many tracks wait, are paused, and have failed."""
    rows = dict(connection.execute("SELECT state, count(*) FROM analysis_queue GROUP BY state").fetchall())
    return QueueCounts(rows.get("waiting", 0), rows.get("paused", 0), rows.get("failed", 0))


def pause_all(connection: sqlite3.Connection) -> None:
    """Take all waiting tracks out of turn."""
    connection.execute("UPDATE analysis_queue SET state = 'paused' WHERE state = 'waiting'")


def resume_all(connection: sqlite3.Connection) -> None:
    """Put paused tracks back, and give failed ones another try."""
    connection.execute(
        "UPDATE analysis_queue SET state = 'waiting', attempts = 0, error = NULL WHERE state IN ('paused', 'failed')"
    )


def store(connection: sqlite3.Connection, track_id: int, result: Analysis) -> None:
    """Keep a track's results and take it out of the queue. Grid and key stay as they were where they are locked."""
    held = _locked_values(connection, track_id)
    grid, key, loudness = result.grid, result.key, result.loudness
    connection.execute(
        """INSERT OR REPLACE INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, grid_doubt, grid_reasons,
             key, key_confidence, second_key, second_from_s, runner_up_key, tuning_cents, lufs, range_lu, true_peak_db,
             energy, energy_reason, phrase_s, sections, cue_proposals, analysed_at)
           SELECT id, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ? FROM track WHERE id = ?""",
        (
            VERSION,
            *_grid_values(grid),
            key.key and str(key.key),
            key.confidence,
            key.second and str(key.second),
            key.second_from_s,
            key.runner_up and str(key.runner_up),
            key.tuning_cents,
            loudness.integrated_lufs,
            loudness.range_lu,
            result.true_peak_db,
            result.energy.value,
            result.energy.reason,
            result.structure.phrase_s,
            json.dumps(_sections(result)),
            json.dumps([{"time": c.time_s, "role": c.role, "label": c.label} for c in result.cues]),
            now(),
            track_id,
        ),
    )
    for column, value in held.items():
        connection.execute(f"UPDATE track_analysis SET {column} = ? WHERE track_id = ?", (value, track_id))
    connection.execute(
        "INSERT OR REPLACE INTO track_likeness (track_id, descriptor, fingerprint) SELECT id, ?, ? FROM track WHERE id = ?",
        (result.descriptor.astype("<f4").tobytes(), result.fingerprint.astype("<u4").tobytes(), track_id),
    )
    connection.execute("UPDATE track SET duration_s = ? WHERE id = ?", (result.duration_s, track_id))
    connection.execute("DELETE FROM analysis_queue WHERE track_id = ?", (track_id,))


def _locked_values(connection: sqlite3.Connection, track_id: int) -> dict[str, object]:
    """The stored values of locked parts, by column."""
    row = connection.execute("SELECT * FROM track_analysis WHERE track_id = ?", (track_id,)).fetchone()
    if row is None:
        return {}
    return {
        column: row[column] for part in locks_of(connection, track_id) for column in HELD_BY.get(part, ())
    }


def _grid_values(grid: GridEstimate | None) -> tuple[object, ...]:
    if grid is None:
        return None, None, None, 1.0, json.dumps(["no beat was found"])
    tempo_map = grid.tempo_map
    return (
        tempo_map.bpm,
        json.dumps(anchors_to(tempo_map)),
        tempo_map.beats_per_bar,
        grid.doubt,
        json.dumps(grid.reasons),
    )


def _sections(result: Analysis) -> list[dict[str, object]]:
    return [{"start_s": s.start_s, "end_s": s.end_s, "label": s.label} for s in result.structure.sections]


def fail(connection: sqlite3.Connection, track_id: int, error: str, final: bool) -> None:
    """Note a failed try; after MOST_ATTEMPTS, or when it is final, the track waits no longer."""
    connection.execute(
        """UPDATE analysis_queue SET attempts = attempts + 1, error = ?,
             state = CASE WHEN ? OR attempts + 1 >= ? THEN 'failed' ELSE state END WHERE track_id = ?""",
        (error, final, MOST_ATTEMPTS, track_id),
    )
