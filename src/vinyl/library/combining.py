"""What whole lists do with one another and with their order: merged, subtracted, shuffled, kept as sorted."""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Sequence
from typing import Literal

from vinyl.core.rules.conditions import InList
from vinyl.library import crates, places
from vinyl.library.errors import LibraryError
from vinyl.library.find import Order, find_ids
from vinyl.library.rule_lists import refuse_by_hand
from vinyl.library.sorts import SortName

How = Literal["merge", "subtract", "intersect"]
Arrangement = Literal["shuffle", "reverse", "as sorted"]


def combine(connection: sqlite3.Connection, crate_id: int, other_id: int, how: How) -> int:
    """Put all tracks of another list into one by hand, or take them out, or leave only them; returns how many
    tracks came or went. The other list, which may fill itself, stays as it is.

    Raises:
        LibraryError: for one list given twice, and for a first that fills itself.
    """
    refuse_by_hand(connection, crate_id)
    if crate_id == other_id:
        raise LibraryError("Choose another crate than this one.")
    crates.get_crate(connection, other_id)
    others = crates.crate_tracks(connection, other_id)
    if how == "merge":
        return crates.add_tracks(connection, crate_id, others)
    mine = crates.crate_tracks(connection, crate_id)
    told = set(others)
    going = [each for each in mine if (each in told) == (how == "subtract")]
    crates.remove_tracks(connection, crate_id, going)
    return len(going)


def arrange(
    connection: sqlite3.Connection,
    crate_id: int,
    how: Arrangement,
    sorts: Sequence[tuple[SortName, bool]] = (),
    seed: int | None = None,
) -> None:
    """Give the tracks of a list by hand another order: shuffled, turned round, or kept as they are sorted for
    looking. Dividers and wanted entries stay at their places.
    """
    refuse_by_hand(connection, crate_id)
    there = places.track_positions(connection, crate_id)
    order = list(there)
    if how == "shuffle":
        random.Random(seed).shuffle(order)
    elif how == "reverse":
        order.reverse()
    else:
        order = _sorted(connection, crate_id, sorts)
    connection.executemany(
        "UPDATE crate_place SET position = ?1 WHERE crate_id = ?2 AND track_id = ?3 AND position <> ?1",
        [(key, crate_id, track_id) for track_id, key in zip(order, there.values(), strict=True)],
    )


def _sorted(
    connection: sqlite3.Connection, crate_id: int, sorts: Sequence[tuple[SortName, bool]]
) -> list[int]:
    if not sorts:
        raise LibraryError("Sort the crate by a column first, then keep that order.")
    (sort, down), *then = sorts
    return find_ids(connection, InList(crate_id), Order(sort, down, None, tuple(then)))
