"""Import runs and what became of each file."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from vinyl.library.database import Database, now
from vinyl.library.errors import NotFoundError

Outcome = Literal["added", "already here", "not audio", "broken"]
OUTCOMES: tuple[Outcome, ...] = ("added", "already here", "not audio", "broken")
AWAY_BATCH = 500


@dataclass(frozen=True, slots=True)
class ImportRun:
    """A run with how many files had which outcome. ``total`` is None until the folder has been counted."""

    id: int
    folder: str
    state: str
    total: int | None
    error: str | None
    started_at: str
    finished_at: str | None
    outcomes: dict[str, int]


@dataclass(frozen=True, slots=True)
class ImportedFile:
    path: str
    outcome: str
    reason: str
    track_id: int | None


def begin(connection: sqlite3.Connection, folder: str) -> int:
    """Note that an import begins, or find the one of this folder that is going on."""
    row = connection.execute(
        "SELECT id FROM import_run WHERE folder = ? AND state = 'running'", (folder,)
    ).fetchone()
    if row:
        return int(row["id"])
    cursor = connection.execute(
        "INSERT INTO import_run (folder, state, started_at) VALUES (?, 'running', ?)", (folder, now())
    )
    return int(cursor.lastrowid or 0)


def finish(connection: sqlite3.Connection, run_id: int, state: str, error: str | None = None) -> None:
    """Note how a run ended, unless it had ended before."""
    connection.execute(
        "UPDATE import_run SET state = ?, error = ?, finished_at = ? WHERE id = ? AND state = 'running'",
        (state, error, now(), run_id),
    )


def set_total(connection: sqlite3.Connection, run_id: int, total: int) -> None:
    connection.execute("UPDATE import_run SET total = ? WHERE id = ?", (total, run_id))


def next_running(connection: sqlite3.Connection) -> ImportRun | None:
    """The oldest run that is not finished."""
    row = connection.execute(
        "SELECT * FROM import_run WHERE state = 'running' ORDER BY id LIMIT 1"
    ).fetchone()
    return _run(connection, row) if row else None


def list_runs(connection: sqlite3.Connection, limit: int = 20) -> list[ImportRun]:
    """The newest runs."""
    rows = connection.execute("SELECT * FROM import_run ORDER BY id DESC LIMIT ?", (limit,)).fetchall()
    return [_run(connection, row) for row in rows]


def get_run(connection: sqlite3.Connection, run_id: int) -> ImportRun:
    """One run.

    Raises:
        NotFoundError: if there is none of this id.
    """
    row = connection.execute("SELECT * FROM import_run WHERE id = ?", (run_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no import {run_id}.")
    return _run(connection, row)


def list_files(
    connection: sqlite3.Connection, run_id: int, outcome: str | None, offset: int, limit: int
) -> list[ImportedFile]:
    """What became of a run's files; those that need attention first."""
    rows = connection.execute(
        """SELECT path, outcome, reason, track_id FROM import_file WHERE run_id = ? AND (?2 IS NULL OR outcome = ?2)
           ORDER BY CASE outcome WHEN 'broken' THEN 0 WHEN 'not audio' THEN 1 WHEN 'already here' THEN 2 ELSE 3 END, path
           LIMIT ?3 OFFSET ?4""",
        (run_id, outcome, limit, offset),
    )
    return [ImportedFile(**dict(row)) for row in rows]


def note_file(
    connection: sqlite3.Connection, run_id: int, path: str, outcome: str, reason: str, track_id: int | None
) -> None:
    connection.execute(
        "INSERT OR REPLACE INTO import_file VALUES (?, ?, ?, ?, ?)", (run_id, path, outcome, reason, track_id)
    )


def done_paths(connection: sqlite3.Connection, run_id: int) -> set[str]:
    """Files that a run had settled before it was interrupted."""
    return {row[0] for row in connection.execute("SELECT path FROM import_file WHERE run_id = ?", (run_id,))}


def known_files(connection: sqlite3.Connection, run_id: int) -> dict[str, tuple[int, int]]:
    """Size and time of change of every file below a run's folder that the library knows."""
    prefix = (
        connection.execute("SELECT folder FROM import_run WHERE id = ?", (run_id,))
        .fetchone()["folder"]
        .rstrip("/")
        + "/"
    )
    rows = connection.execute(
        """SELECT path, size_bytes, modified_ns FROM track WHERE substr(path, 1, ?1) = ?2
           UNION ALL SELECT path, size_bytes, modified_ns FROM track_copy WHERE substr(path, 1, ?1) = ?2""",
        (len(prefix), prefix),
    )
    return {row["path"]: (row["size_bytes"], row["modified_ns"]) for row in rows}


def refresh(
    connection: sqlite3.Connection, track_id: int, path: str, size_bytes: int, modified_ns: int
) -> None:
    """Note where a track's file lies now, and that it is there."""
    connection.execute("DELETE FROM track_copy WHERE path = ?", (path,))
    connection.execute(
        "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ?, away = 0 WHERE id = ?",
        (path, size_bytes, modified_ns, track_id),
    )


def note_copy(
    connection: sqlite3.Connection, track_id: int, path: str, size_bytes: int, modified_ns: int
) -> None:
    """Remember that a track's sound also lies somewhere else."""
    connection.execute(
        "INSERT OR REPLACE INTO track_copy (path, track_id, size_bytes, modified_ns, found_at) VALUES (?, ?, ?, ?, ?)",
        (path, track_id, size_bytes, modified_ns, now()),
    )


def list_copies(connection: sqlite3.Connection, track_id: int) -> list[str]:
    """Other places where a track's very sound lies."""
    return [
        row[0]
        for row in connection.execute(
            "SELECT path FROM track_copy WHERE track_id = ? ORDER BY path", (track_id,)
        )
    ]


def mark_away(database: Database) -> None:
    """Look which files are there, a few at a time, and note the tracks whose file is not."""
    rows = database.read().execute("SELECT id, path, away FROM track ORDER BY id").fetchall()
    changes = [
        (not there, row["id"]) for row in rows if (there := Path(row["path"]).exists()) == bool(row["away"])
    ]
    for start in range(0, len(changes), AWAY_BATCH):
        with database.write() as connection:
            connection.executemany(
                "UPDATE track SET away = ? WHERE id = ?", changes[start : start + AWAY_BATCH]
            )


def _run(connection: sqlite3.Connection, row: sqlite3.Row) -> ImportRun:
    counts = dict(
        connection.execute(
            "SELECT outcome, count(*) FROM import_file WHERE run_id = ? GROUP BY outcome", (row["id"],)
        ).fetchall()
    )
    return ImportRun(**dict(row), outcomes={outcome: counts.get(outcome, 0) for outcome in OUTCOMES})
