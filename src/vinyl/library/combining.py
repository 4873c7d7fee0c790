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
    mine = set(crates.crate_tracks(connection, crate_id))
    if how == "merge":
        return crates.add_tracks(connection, crate_id, [each for each in others if each not in mine])
    going = list(mine & set(others) if how == "subtract" else mine - set(others))
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
    there = places.list_places(connection, crate_id)
    order = list(there.ids)
    if how == "shuffle":
        random.Random(seed).shuffle(order)
    elif how == "reverse":
        order.reverse()
    else:
        rank = {track_id: place for place, track_id in enumerate(_sorted(connection, crate_id, sorts))}
        track_of = dict(zip(there.ids, there.track_ids, strict=True))
        order.sort(key=lambda place_id: rank[track_of[place_id]])
    connection.executemany(
        "UPDATE crate_place SET position = ?1 WHERE id = ?2 AND position <> ?1",
        list(zip(there.positions, order, strict=True)),
    )


def _sorted(
    connection: sqlite3.Connection, crate_id: int, sorts: Sequence[tuple[SortName, bool]]
) -> list[int]:
    if not sorts:
        raise LibraryError("Sort the crate by a column first, then keep that order.")
    (sort, down), *then = sorts
    return find_ids(connection, InList(crate_id), Order(sort, down, then=tuple(then)))
