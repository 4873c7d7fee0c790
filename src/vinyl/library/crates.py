"""Crates: lists of tracks in an order of their own."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from vinyl.library.database import now
from vinyl.library.errors import LibraryError, NotFoundError

LONGEST_NAME = 120


@dataclass(frozen=True, slots=True)
class Crate:
    """A crate with the number and the playing time of its tracks."""

    id: int
    name: str
    tracks: int
    duration_s: float


def list_crates(connection: sqlite3.Connection) -> list[Crate]:
    """All crates in their order."""
    rows = connection.execute(
        """SELECT c.id, c.name, count(t.id) AS tracks, COALESCE(sum(t.duration_s), 0.0) AS duration_s
           FROM crate c LEFT JOIN crate_track ct ON ct.crate_id = c.id LEFT JOIN track t ON t.id = ct.track_id
           GROUP BY c.id ORDER BY c.position, c.id"""
    )
    return [Crate(**dict(row)) for row in rows]


def get_crate(connection: sqlite3.Connection, crate_id: int) -> Crate:
    """One crate.

    Raises:
        NotFoundError: if it was deleted.
    """
    for crate in list_crates(connection):
        if crate.id == crate_id:
            return crate
    raise NotFoundError("This crate is no longer there.")


def make_crate(connection: sqlite3.Connection, name: str) -> int:
    """Make an empty crate at the end; returns its id."""
    place = connection.execute("SELECT COALESCE(max(position), 0) + 1 FROM crate").fetchone()[0]
    cursor = connection.execute(
        "INSERT INTO crate (name, position, created_at) VALUES (?, ?, ?)",
        (_checked_name(connection, name), place, now()),
    )
    return int(cursor.lastrowid or 0)


def rename_crate(connection: sqlite3.Connection, crate_id: int, name: str) -> None:
    """Give a crate another name."""
    if get_crate(connection, crate_id).name != name.strip():
        connection.execute(
            "UPDATE crate SET name = ? WHERE id = ?", (_checked_name(connection, name), crate_id)
        )


def delete_crate(connection: sqlite3.Connection, crate_id: int) -> None:
    """Delete a crate. Its tracks stay in the library."""
    get_crate(connection, crate_id)
    connection.execute("DELETE FROM crate WHERE id = ?", (crate_id,))


def move_crate(connection: sqlite3.Connection, crate_id: int, to: int) -> None:
    """Move a crate to a place (0 is first) among the crates."""
    ids = [crate.id for crate in list_crates(connection) if crate.id != crate_id]
    ids.insert(max(0, min(to, len(ids))), get_crate(connection, crate_id).id)
    connection.executemany(
        "UPDATE crate SET position = ? WHERE id = ? AND position <> ?",
        [(n, i, n) for n, i in enumerate(ids, 1)],
    )


def crate_tracks(connection: sqlite3.Connection, crate_id: int) -> list[int]:
    """Ids of a crate's tracks in its order."""
    rows = connection.execute(
        "SELECT track_id FROM crate_track WHERE crate_id = ? ORDER BY position, track_id", (crate_id,)
    )
    return [row[0] for row in rows]


def add_tracks(
    connection: sqlite3.Connection, crate_id: int, track_ids: Sequence[int], at: int | None = None
) -> int:
    """Put tracks into a crate, at a place or at its end; returns how many were not yet in it."""
    get_crate(connection, crate_id)
    before = crate_tracks(connection, crate_id)
    here = set(before)
    new = [track_id for track_id in dict.fromkeys(track_ids) if track_id not in here]
    at = len(before) if at is None else max(0, min(at, len(before)))
    _rewrite(connection, crate_id, [*before[:at], *new, *before[at:]])
    return len(new)


def remove_tracks(connection: sqlite3.Connection, crate_id: int, track_ids: Sequence[int]) -> None:
    """Take tracks out of a crate. They stay in the library."""
    get_crate(connection, crate_id)
    connection.executemany(
        "DELETE FROM crate_track WHERE crate_id = ? AND track_id = ?", [(crate_id, i) for i in track_ids]
    )


def move_tracks(connection: sqlite3.Connection, crate_id: int, track_ids: Sequence[int], to: int) -> None:
    """Move tracks, kept in their order, so that they begin at a place among the others (0 is first)."""
    before = crate_tracks(connection, crate_id)
    moving = set(track_ids)
    moved = [i for i in before if i in moving]
    rest = [i for i in before if i not in moving]
    to = max(0, min(to, len(rest)))
    _rewrite(connection, crate_id, [*rest[:to], *moved, *rest[to:]])


def crates_of(connection: sqlite3.Connection, track_id: int) -> list[tuple[int, str]]:
    """Ids and names of the crates that hold a track."""
    rows = connection.execute(
        "SELECT c.id, c.name FROM crate c JOIN crate_track ct ON ct.crate_id = c.id WHERE ct.track_id = ? ORDER BY c.position",
        (track_id,),
    )
    return [(row["id"], row["name"]) for row in rows]


def _rewrite(connection: sqlite3.Connection, crate_id: int, track_ids: list[int]) -> None:
    try:
        connection.executemany(
            """INSERT INTO crate_track (crate_id, track_id, position) VALUES (?, ?, ?)
               ON CONFLICT (crate_id, track_id) DO UPDATE SET position = excluded.position WHERE position <> excluded.position""",
            [(crate_id, track_id, float(place)) for place, track_id in enumerate(track_ids)],
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("One of these tracks is not in the library (any more).") from error


def _checked_name(connection: sqlite3.Connection, name: str) -> str:
    name = " ".join(name.split())
    if not name:
        raise LibraryError("A crate needs a name.")
    if len(name) > LONGEST_NAME:
        raise LibraryError(f"A crate's name can have {LONGEST_NAME} characters at the most.")
    if connection.execute("SELECT 1 FROM crate WHERE name = ? COLLATE NOCASE", (name,)).fetchone():
        raise LibraryError(f"There is already a crate called “{name}”.")
    return name
