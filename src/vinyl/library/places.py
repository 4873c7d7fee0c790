"""Where tracks, wanted entries and dividers stand in a list, by fractional keys (vinyl.core.ordering).

A place of a track is named by the track's id; a further place of it in the same list by minus the place's
own.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from vinyl.core.ordering import keys_between
from vinyl.library.errors import LibraryError, NotFoundError

LONGEST_NOTE = 400
# No key is greater.
BEHIND_ALL = "~"


@dataclass(frozen=True, slots=True)
class Places:
    """The places of a list's tracks in order, each value in a column: ``names`` are what they are told by."""

    ids: Sequence[int] = ()
    track_ids: Sequence[int] = ()
    positions: Sequence[str] = ()

    @property
    def names(self) -> Sequence[int]:
        if len(set(self.track_ids)) == len(self.track_ids):
            return self.track_ids
        first: dict[int, int] = {}
        for place_id, track_id in zip(self.ids, self.track_ids, strict=True):
            first[track_id] = min(place_id, first.get(track_id, place_id))
        pairs = zip(self.ids, self.track_ids, strict=True)
        return [track if first[track] == place else -place for place, track in pairs]


def list_places(connection: sqlite3.Connection, crate_id: int) -> Places:
    """Where the tracks of a list stand."""
    rows = connection.execute(
        "SELECT id, track_id, position FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL "
        "ORDER BY position, id",
        (crate_id,),
    ).fetchall()
    return Places(*zip(*rows, strict=True)) if rows else Places()


def take_out(connection: sqlite3.Connection, crate_id: int, names: Collection[int]) -> None:
    """Take places out of a list."""
    going = [(place_id,) for place_id in _ids(connection, crate_id, names)]
    connection.executemany("DELETE FROM crate_place WHERE id = ?", going)


def list_notes(connection: sqlite3.Connection, crate_id: int) -> dict[int, str]:
    """What is noted on places of a list's tracks, by the names of the places."""
    rows = connection.execute(
        "SELECT id, note FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL AND note <> ''",
        (crate_id,),
    )
    notes = {row["id"]: row["note"] for row in rows}
    if not notes:
        return {}
    there = list_places(connection, crate_id)
    return {name: notes[id] for id, name in zip(there.ids, there.names, strict=True) if id in notes}


def put_note(connection: sqlite3.Connection, crate_id: int, names: Collection[int], note: str) -> None:
    """Note something on places of a list, or nothing.

    Raises:
        LibraryError: if it is too long.
        NotFoundError: if none of these places is there.
    """
    note = note.strip()
    if len(note) > LONGEST_NOTE:
        raise LibraryError(f"A note on a place can have {LONGEST_NOTE} characters at the most.")
    noted = [(note, place_id) for place_id in _ids(connection, crate_id, names)]
    if not noted:
        raise NotFoundError("This track is no longer in the crate.")
    connection.executemany("UPDATE crate_place SET note = ? WHERE id = ?", noted)


def _ids(connection: sqlite3.Connection, crate_id: int, names: Collection[int]) -> list[int]:
    there = list_places(connection, crate_id)
    wanted = set(names)
    return [id for id, name in zip(there.ids, there.names, strict=True) if name in wanted]


def last_position(connection: sqlite3.Connection, crate_id: int) -> str | None:
    """The position of the last thing in a list, whatever it is."""
    row = connection.execute(
        "SELECT max(position) FROM (SELECT max(position) AS position FROM crate_place WHERE crate_id = ?1 "
        "UNION ALL SELECT max(position) FROM divider WHERE crate_id = ?1)",
        (crate_id,),
    )
    position: str | None = row.fetchone()[0]
    return position


def keys_at(
    connection: sqlite3.Connection,
    crate_id: int,
    tracks: Sequence[str],
    at: int,
    count: int,
    behind: bool = False,
    without: Collection[str] = (),
) -> list[str]:
    """Keys for so many things before the ``at``-th of some tracks, given by their positions; or, ``behind``,
    after the one that comes before it: between both, a divider or a wanted entry may stand.

    Args:
        without: positions that are being left.
    """
    if behind and at > 0:
        before: str | None = tracks[at - 1]
        after = _next(connection, crate_id, before, without)
    else:
        after = tracks[at] if at < len(tracks) else None
        before = _before(connection, crate_id, after, without)
    return keys_between(before, after, count)


def _next(
    connection: sqlite3.Connection, crate_id: int, position: str | None, without: Collection[str]
) -> str | None:
    """The first position after another."""
    rows = connection.execute(
        "SELECT position FROM crate_place WHERE crate_id = ?1 AND position > ?2 UNION ALL "
        "SELECT position FROM divider WHERE crate_id = ?1 AND position > ?2 ORDER BY position",
        (crate_id, position),
    )
    return next((row[0] for row in rows if row[0] not in without), None)


def _before(
    connection: sqlite3.Connection, crate_id: int, position: str | None, without: Collection[str]
) -> str | None:
    """The last position before another, or of all."""
    rows = connection.execute(
        "SELECT position FROM crate_place WHERE crate_id = ?1 AND position < ?2 UNION ALL "
        "SELECT position FROM divider WHERE crate_id = ?1 AND position < ?2 ORDER BY position DESC",
        (crate_id, BEHIND_ALL if position is None else position),
    )
    return next((row[0] for row in rows if row[0] not in without), None)
