"""Groups of tracks with different voices over the same instrumental."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from vinyl.core.likeness.compare import Match
from vinyl.library import flat
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.likeness import AlikeFinder, compare_tracks

LONGEST_NAME = 200
# Tracks whose sound is nearest by their descriptors are compared in full.
COMPARED = 24
SHARED = ("same backing", "same", "edit")


@dataclass(frozen=True, slots=True)
class Backing:
    """A group, and how many tracks it has."""

    id: int
    name: str
    tracks: int


@dataclass(frozen=True, slots=True)
class Likely:
    """A track that seems to have another's backing, and how it was told."""

    track_id: int
    match: Match


def list_backings(connection: sqlite3.Connection) -> list[Backing]:
    """All groups by name."""
    rows = connection.execute(
        "SELECT b.id, b.name, count(t.track_id) AS tracks FROM backing b "
        "LEFT JOIN track_backing t ON t.backing_id = b.id GROUP BY b.id ORDER BY b.name COLLATE NOCASE, b.id"
    )
    return [Backing(**dict(row)) for row in rows]


def names(connection: sqlite3.Connection) -> dict[int, str]:
    """Names of all groups by their ids."""
    return dict(connection.execute("SELECT id, name FROM backing").fetchall())


def propose(connection: sqlite3.Connection, finder: AlikeFinder, track_id: int) -> list[Likely]:
    """The tracks that seem to lie over the same instrumental as one, the likeliest first.

    Raises:
        NotFoundError: if it was not analysed yet.
    """
    near = finder.find(connection, track_id, COMPARED, "same backing")
    found = [Likely(each.track_id, compare_tracks(connection, track_id, each.track_id)) for each in near]
    shared = [each for each in found if each.match.relation in SHARED]
    return sorted(shared, key=lambda each: (-each.match.covered, each.match.bit_error))


def put_together(
    connection: sqlite3.Connection, track_ids: Sequence[int], name: str, backing_id: int | None = None
) -> int:
    """Put tracks into a group, a new one unless it is named by its id; returns its id.

    A track is in one group at the most: it leaves another.
    """
    name = " ".join(name.split())
    if not name:
        raise LibraryError("A group needs a name, such as that of the instrumental.")
    if len(name) > LONGEST_NAME:
        raise LibraryError(f"A name can have {LONGEST_NAME} characters at the most.")
    if backing_id is None:
        backing_id = int(connection.execute("INSERT INTO backing (name) VALUES (?)", (name,)).lastrowid or 0)
    elif not connection.execute(
        "UPDATE backing SET name = ? WHERE id = ? RETURNING id", (name, backing_id)
    ).fetchone():
        raise NotFoundError("This group is no longer there.")
    connection.execute(
        """INSERT INTO track_backing (track_id, backing_id)
           SELECT t.id, ?2 FROM json_each(?1) i JOIN track t ON t.id = i.value WHERE true
           ON CONFLICT (track_id) DO UPDATE SET backing_id = excluded.backing_id""",
        (json.dumps(list(track_ids)), backing_id),
    )
    _drop_empty(connection)
    flat.settle(connection, track_ids, ["track_backing"])
    return backing_id


def take_apart(connection: sqlite3.Connection, track_ids: Sequence[int]) -> None:
    """Take tracks out of their groups; a group without tracks goes."""
    connection.execute(
        "DELETE FROM track_backing WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    )
    _drop_empty(connection)
    flat.settle(connection, track_ids, ["track_backing"])


def _drop_empty(connection: sqlite3.Connection) -> None:
    connection.execute("DELETE FROM backing WHERE id NOT IN (SELECT backing_id FROM track_backing)")
