"""Other libraries that things are carried to: how that is done, under a name, and what was carried last."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.references import NOTHING, gid_of, id_of

LONGEST_NAME = 80


@dataclass(frozen=True, slots=True)
class Destination:
    """A way to another library: ``told`` is the order that goes there, ``tracks`` how many went last."""

    id: int
    name: str
    target: str
    told: Mapping[str, Any]
    carried_at: str | None
    tracks: int


SELECT = """SELECT d.id, d.name, d.target, d.told, d.carried_at,
  (SELECT count(*) FROM carried c WHERE c.destination_id = d.id) AS tracks FROM destination d"""


def list_destinations(connection: sqlite3.Connection) -> list[Destination]:
    """All of them, the one that was used last first."""
    rows = connection.execute(f"{SELECT} ORDER BY carried_at DESC, id DESC")
    return [_destination(connection, row) for row in rows]


def get_destination(connection: sqlite3.Connection, destination_id: int) -> Destination:
    """One of them.

    Raises:
        NotFoundError: if it is gone.
    """
    row = connection.execute(f"{SELECT} WHERE d.id = ?", (destination_id,)).fetchone()
    if row is None:
        raise NotFoundError("This destination is no longer there.")
    return _destination(connection, row)


def save_destination(
    connection: sqlite3.Connection,
    name: str,
    target: str,
    told: Mapping[str, Any],
    destination_id: int | None = None,
) -> int:
    """Keep a destination, or change one; returns its id. One that leads elsewhere forgets what was carried.

    Raises:
        LibraryError: without a name, or with one that is taken.
    """
    name = " ".join(name.split())[:LONGEST_NAME]
    if not name:
        raise LibraryError("A destination needs a name.")
    same = "SELECT 1 FROM destination WHERE name = ? COLLATE NOCASE AND id IS NOT ?"
    if connection.execute(same, (name, destination_id)).fetchone():
        raise LibraryError(f"There is a destination called “{name}” already.")
    if destination_id is None:
        cursor = connection.execute(
            "INSERT INTO destination (name, target, told) VALUES (?, ?, ?)",
            (name, target, _kept(connection, told)),
        )
        return int(cursor.lastrowid or 0)
    before = get_destination(connection, destination_id)
    if (before.target, before.told.get("place")) != (target, told.get("place")):
        connection.execute("DELETE FROM carried WHERE destination_id = ?", (destination_id,))
    connection.execute(
        "UPDATE destination SET name = ?, target = ?, told = ? WHERE id = ?",
        (name, target, _kept(connection, told), destination_id),
    )
    return destination_id


def delete_destination(connection: sqlite3.Connection, destination_id: int) -> None:
    """Forget a destination, and what was carried there. What lies there stays."""
    get_destination(connection, destination_id)
    connection.execute("DELETE FROM destination WHERE id = ?", (destination_id,))


def note_carried(
    connection: sqlite3.Connection, destination_id: int, marks: Iterable[tuple[int, str]]
) -> None:
    """Note what was carried of tracks just now; those that are gone are passed over."""
    connection.executemany(
        "INSERT OR REPLACE INTO carried (destination_id, track_id, marks) "
        "SELECT ?1, id, ?3 FROM track WHERE id = ?2",
        ((destination_id, track_id, each) for track_id, each in marks),
    )
    connection.execute("UPDATE destination SET carried_at = ? WHERE id = ?", (now(), destination_id))


def _kept(connection: sqlite3.Connection, told: Mapping[str, Any]) -> str:
    """An order as it is kept: its lists by their global ids."""
    lists = told.get("lists")
    if lists is None:
        return json.dumps(told)
    gids = [gid for each in lists if (gid := gid_of(connection, "crate", each))]
    return json.dumps({**told, "lists": gids})


def _destination(connection: sqlite3.Connection, row: sqlite3.Row) -> Destination:
    told = json.loads(row["told"])
    if told.get("lists") is not None:
        ids = (id_of(connection, "crate", gid) for gid in told["lists"])
        told["lists"] = [each for each in ids if each != NOTHING]
    return Destination(**{**dict(row), "told": told})
