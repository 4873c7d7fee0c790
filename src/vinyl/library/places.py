"""Where tracks, wanted entries and dividers stand in a list, by fractional keys (vinyl.core.ordering)."""

from __future__ import annotations

import sqlite3
from bisect import bisect_left, bisect_right
from collections.abc import Collection, Sequence

from vinyl.core.ordering import keys_between


def track_positions(connection: sqlite3.Connection, crate_id: int) -> dict[int, str]:
    """The position of each of a list's tracks, in order."""
    rows = connection.execute(
        "SELECT track_id, position FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL "
        "ORDER BY position, id",
        (crate_id,),
    )
    return {row["track_id"]: row["position"] for row in rows}


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
    taken = [position for position in _all(connection, crate_id) if position not in without]
    if behind and at > 0:
        place = bisect_right(taken, tracks[at - 1])
    elif at < len(tracks):
        place = bisect_left(taken, tracks[at])
    else:
        place = len(taken)
    before = taken[place - 1] if place else None
    after = taken[place] if place < len(taken) else None
    return keys_between(before, after, count)


def _all(connection: sqlite3.Connection, crate_id: int) -> list[str]:
    rows = connection.execute(
        "SELECT position FROM crate_place WHERE crate_id = ?1 UNION ALL "
        "SELECT position FROM divider WHERE crate_id = ?1 ORDER BY position",
        (crate_id,),
    )
    return [row[0] for row in rows]
