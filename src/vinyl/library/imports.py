"""What became of each file of an import, and which files the library knows."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from vinyl.library import flat
from vinyl.library.clock import now
from vinyl.library.errors import NotFoundError

Outcome = Literal["added", "changed", "already here", "moved", "wanted", "not audio", "broken"]
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)


@dataclass(frozen=True, slots=True)
class ImportedFile:
    path: str
    outcome: str
    reason: str
    track_id: int | None


@dataclass(frozen=True, slots=True)
class KnownFile:
    """A track's file as the library knows it, and whether it was away when last looked at."""

    track_id: int
    path: str
    size_bytes: int
    modified_ns: int
    away: bool


def outcomes_of(connection: sqlite3.Connection, job_id: int) -> dict[Outcome, int]:
    """How many files of an import had which outcome."""
    rows = connection.execute(
        "SELECT outcome, count(*) FROM import_file WHERE job_id = ? GROUP BY outcome", (job_id,)
    )
    found = dict(rows.fetchall())
    return {outcome: found.get(outcome, 0) for outcome in OUTCOMES}


def list_files(
    connection: sqlite3.Connection, job_id: int, outcome: str | None, offset: int, limit: int
) -> list[ImportedFile]:
    """What became of an import's files; those that need attention first."""
    rows = connection.execute(
        """SELECT path, outcome, reason,
          track_id FROM import_file WHERE job_id = ?1 AND (?2 IS NULL OR outcome = ?2)
           ORDER BY CASE outcome WHEN 'broken' THEN 0 WHEN 'not audio' THEN 1 WHEN 'wanted' THEN 2
             WHEN 'changed' THEN 3 WHEN 'moved' THEN 4 WHEN 'already here' THEN 5 ELSE 6 END, path
           LIMIT ?3 OFFSET ?4""",
        (job_id, outcome, limit, offset),
    )
    return [ImportedFile(**dict(row)) for row in rows]


def paths_of(
    connection: sqlite3.Connection, job_id: int, outcome: str | None, paths: Sequence[str]
) -> list[str]:
    """Files of an import with an outcome, or those of the given ones that it had."""
    if outcome is not None:
        rows = connection.execute(
            "SELECT path FROM import_file WHERE job_id = ? AND outcome = ? ORDER BY path", (job_id, outcome)
        )
    else:
        rows = connection.execute(
            "SELECT path FROM import_file WHERE job_id = ? AND path IN (SELECT value FROM json_each(?))",
            (job_id, json.dumps(list(paths))),
        )
    return [row[0] for row in rows]


def note_file(connection: sqlite3.Connection, job_id: int, file: ImportedFile) -> None:
    """Keep what became of a file."""
    note_files(connection, job_id, [file])


def note_files(connection: sqlite3.Connection, job_id: int, files: Iterable[ImportedFile]) -> None:
    """Keep what became of files."""
    connection.executemany(
        "INSERT OR REPLACE INTO import_file (job_id, path, outcome, reason, track_id) VALUES (?, ?, ?, ?, ?)",
        ((job_id, file.path, file.outcome, file.reason, file.track_id) for file in files),
    )


def folders_of_tracks(connection: sqlite3.Connection) -> list[str]:
    """The folders in which files of tracks lie, those with most of them first."""
    rows = connection.execute(
        """SELECT rtrim(path, replace(path, '/', '')) AS folder FROM track
           GROUP BY folder ORDER BY count(*) DESC, folder"""
    )
    return [row[0].rstrip("/") or "/" for row in rows]


def at_paths(connection: sqlite3.Connection, paths: Sequence[str]) -> dict[str, int]:
    """The tracks whose files lie at some paths."""
    rows = connection.execute(
        "SELECT path, id FROM track WHERE path IN (SELECT value FROM json_each(?))",
        (json.dumps(list(paths)),),
    )
    return {row["path"]: row["id"] for row in rows}


def done_paths(connection: sqlite3.Connection, job_id: int) -> set[str]:
    """Files that an import had settled before it was interrupted."""
    return {row[0] for row in connection.execute("SELECT path FROM import_file WHERE job_id = ?", (job_id,))}


def known_at(connection: sqlite3.Connection, paths: Sequence[str]) -> dict[str, tuple[int, int]]:
    """Size and time of change of every file of the Shelf at or below some paths."""
    known: dict[str, tuple[int, int]] = {}
    for path in paths:
        prefix = path.rstrip("/") + "/"
        for table, track in (("track", "id"), ("track_copy", "track_id")):
            rows = connection.execute(
                f"SELECT path, size_bytes, modified_ns FROM {table} "
                f"WHERE (path = ? OR substr(path, 1, ?) = ?) "
                f"AND {track} NOT IN (SELECT track_id FROM off_shelf)",
                (path, len(prefix), prefix),
            )
            known |= {row["path"]: (row["size_bytes"], row["modified_ns"]) for row in rows}
    return known


def refused_at(connection: sqlite3.Connection) -> dict[str, float]:
    """When each file that could not be imported was last looked at, in seconds since 1970."""
    rows = connection.execute(
        """SELECT f.path, max(unixepoch(j.made_at)) FROM import_file f JOIN job j ON j.id = f.job_id
           WHERE f.outcome IN ('broken', 'not audio') GROUP BY f.path"""
    )
    return {row[0]: float(row[1]) for row in rows}


def known_tracks(connection: sqlite3.Connection) -> list[KnownFile]:
    """The file of every track on the Shelf."""
    rows = connection.execute(
        "SELECT t.id, path, size_bytes, modified_ns, t.away FROM track t JOIN shelf s ON s.id = t.id "
        "ORDER BY t.id"
    )
    return [KnownFile(row[0], row[1], row[2], row[3], bool(row[4])) for row in rows]


def note_place(
    connection: sqlite3.Connection, track_id: int, path: str, size_bytes: int, modified_ns: int
) -> None:
    """Note where a track's file lies now, and that it is there."""
    connection.execute("DELETE FROM track_copy WHERE path = ?", (path,))
    connection.execute(
        "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ?, away = 0 WHERE id = ?",
        (path, size_bytes, modified_ns, track_id),
    )
    flat.settle(connection, [track_id], ["facts"])


def note_copy(
    connection: sqlite3.Connection, track_id: int, path: str, size_bytes: int, modified_ns: int
) -> None:
    """Remember that a track's sound also lies somewhere else."""
    connection.execute(
        "INSERT OR REPLACE INTO track_copy (path, track_id, size_bytes, modified_ns, found_at) "
        "VALUES (?, ?, ?, ?, ?)",
        (path, track_id, size_bytes, modified_ns, now()),
    )


def use_copy(connection: sqlite3.Connection, track_id: int, path: str) -> None:
    """Have a noted copy be a track's file; the file it had becomes the copy.

    Raises:
        NotFoundError: if the track has no such copy.
    """
    copy = connection.execute(
        """SELECT size_bytes, modified_ns FROM track_copy c WHERE track_id = ?1 AND path = ?2
           AND NOT EXISTS (SELECT 1 FROM copy_off o WHERE o.track_id = ?1 AND o.path = ?2)""",
        (track_id, path),
    ).fetchone()
    if copy is None:
        raise NotFoundError("This file is no copy of the track any more.")
    had = connection.execute(
        "SELECT path, size_bytes, modified_ns FROM track WHERE id = ?", (track_id,)
    ).fetchone()
    note_place(connection, track_id, path, *copy)
    note_copy(connection, track_id, *had)


def list_copies(connection: sqlite3.Connection, track_id: int) -> list[str]:
    """Other places where a track's very sound lies; those that are put aside are not told."""
    rows = connection.execute(
        """SELECT path FROM track_copy c WHERE track_id = ? AND NOT EXISTS (
             SELECT 1 FROM copy_off o WHERE o.track_id = c.track_id AND o.path = c.path) ORDER BY path""",
        (track_id,),
    )
    return [row[0] for row in rows]


def mark_away(connection: sqlite3.Connection, track_ids: list[int], away: bool) -> None:
    """Note of tracks whether their file is not there."""
    connection.executemany("UPDATE track SET away = ? WHERE id = ?", [(away, i) for i in track_ids])
    flat.settle(connection, track_ids, ["facts"])
