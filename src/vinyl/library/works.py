"""Versions of one work: tracks that are no twins and belong together, each with its kind of version."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vinyl.library.errors import LibraryError

LONGEST_NAME, LONGEST_KIND = 200, 60


@dataclass(frozen=True, slots=True)
class Version:
    """A track of a work, and what kind of version it is, empty where nobody said."""

    track_id: int
    work_id: int
    work: str
    kind: str


def versions_of(connection: sqlite3.Connection, track_id: int) -> list[Version]:
    """The versions of a track's work that are on the Shelf, it among them; none if it belongs to no work."""
    rows = connection.execute(
        """SELECT v.track_id, v.work_id, w.name AS work, v.kind
           FROM track_version v JOIN work w ON w.id = v.work_id JOIN shelf s ON s.id = v.track_id
           WHERE v.work_id = (SELECT work_id FROM track_version WHERE track_id = ?) ORDER BY v.track_id""",
        (track_id,),
    )
    return [Version(**dict(row)) for row in rows]


def link(
    connection: sqlite3.Connection,
    track_ids: Sequence[int],
    name: str,
    kinds: Mapping[int, str] | None = None,
) -> int:
    """Make tracks versions of one work, with all of whose work one of them is already; returns its id.

    Args:
        kinds: what kind of version each is, where something is said of it.

    Raises:
        LibraryError: for fewer than two, or a name or kind that is none.
    """
    name, ids = " ".join(name.split()), json.dumps(list(track_ids))
    if len(set(track_ids)) < 2:
        raise LibraryError("Versions are two tracks at least.")
    if not name or len(name) > LONGEST_NAME:
        raise LibraryError(f"A work needs a name of {LONGEST_NAME} characters at the most.")
    known = connection.execute(
        """SELECT work_id, count(*) FROM track_version WHERE track_id IN (SELECT value FROM json_each(?))
           GROUP BY work_id ORDER BY 2 DESC, 1""",
        (ids,),
    ).fetchall()
    if known:
        work_id = int(known[0][0])
        connection.execute("UPDATE work SET name = ? WHERE id = ?", (name, work_id))
        connection.executemany(
            "UPDATE track_version SET work_id = ? WHERE work_id = ?", [(work_id, row[0]) for row in known[1:]]
        )
    else:
        work_id = int(connection.execute("INSERT INTO work (name) VALUES (?)", (name,)).lastrowid or 0)
    connection.execute(
        """INSERT INTO track_version (track_id, work_id)
           SELECT t.id, ?2 FROM json_each(?1) i JOIN track t ON t.id = i.value WHERE true
           ON CONFLICT (track_id) DO UPDATE SET work_id = excluded.work_id""",
        (ids, work_id),
    )
    for track_id, kind in (kinds or {}).items():
        set_kind(connection, track_id, kind)
    _drop_empty(connection)
    return work_id


def set_kind(connection: sqlite3.Connection, track_id: int, kind: str) -> None:
    """Say what kind of version a track is.

    Raises:
        LibraryError: for too long a word.
    """
    kind = " ".join(kind.split())
    if len(kind) > LONGEST_KIND:
        raise LibraryError(f"A kind of version has {LONGEST_KIND} characters at the most.")
    connection.execute("UPDATE track_version SET kind = ? WHERE track_id = ?", (kind, track_id))


def take_apart(connection: sqlite3.Connection, track_ids: Sequence[int]) -> None:
    """Take tracks out of their works; a work of one track is none."""
    connection.execute(
        "DELETE FROM track_version WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    )
    _drop_empty(connection)


def _drop_empty(connection: sqlite3.Connection) -> None:
    alone = "SELECT work_id FROM track_version GROUP BY work_id HAVING count(*) < 2"
    connection.execute(f"DELETE FROM track_version WHERE work_id IN ({alone})")
    connection.execute("DELETE FROM work WHERE id NOT IN (SELECT work_id FROM track_version)")
