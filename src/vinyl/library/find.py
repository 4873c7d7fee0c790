"""Finding tracks: a window of rows in any order, all ids where they are needed, and counts
for the pictures."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from vinyl.core.rules.conditions import AllOf, AnyOf, Condition, validate, without
from vinyl.library.conditions import compile_condition
from vinyl.library.errors import LibraryError

ENERGY_STEP = 10
MOST_WINDOW = 500
# Going along an index costs as much as looking at so many rows one after the other.
LOOKED_AT = 10

SortName = Literal[
    "title", "artist", "album", "genre", "bpm", "key", "lufs", "energy", "duration_s",
    "added_at", "rating", "doubt",
    "year", "crate",
]  # fmt: skip
# What each sort goes by; ties go by title. Those in DOWN are indexed from the highest.
SORTS: Mapping[str, str] = {
    "title": "shelf.title COLLATE NOCASE",
    "artist": "shelf.artist COLLATE NOCASE",
    "album": "shelf.album COLLATE NOCASE",
    "genre": "shelf.genre COLLATE NOCASE",
    "bpm": "shelf.bpm",
    "key": "shelf.key_place",
    "lufs": "shelf.lufs",
    "energy": "shelf.energy",
    "duration_s": "shelf.duration_s",
    "added_at": "shelf.added_at",
    "rating": "shelf.rating",
    "doubt": "shelf.doubt",
    "year": "shelf.year",
}
DOWN = frozenset({"added_at", "rating", "doubt"})
ALL = AllOf()

# What each picture counts, and what a condition on it is about.
PICTURES: Mapping[str, tuple[str, str]] = {
    "bpm": ("CAST(bpm AS INTEGER)", "bpm"),
    "key": ("key", "key"),
    "genre": ("genre", "genre"),
    "month": ("substr(added_at, 1, 7)", "added_at"),
    "rating": ("rating", "rating"),
    "energy": (f"min(energy, 99) / {ENERGY_STEP} * {ENERGY_STEP}", "energy"),
}


# The columns that the pictures and conditions on them need.
COUNTED = "*"


@dataclass(frozen=True, slots=True)
class Order:
    """How found tracks are sorted; ``crate_id`` for their order in a list."""

    sort: SortName = "added_at"
    descending: bool = False
    crate_id: int | None = None


@dataclass(frozen=True, slots=True)
class Window:
    """A stretch of what was found, and how many there are in all."""

    rows: list[sqlite3.Row]
    total: int


def find_window(
    connection: sqlite3.Connection, condition: Condition, order: Order, offset: int, limit: int
) -> Window:
    """Rows ``offset`` to ``offset + limit`` of the tracks that meet a condition."""
    total = count(connection, condition)
    # Where most tracks meet the condition the first are soon found along the sort's index; else all are
    # looked at.
    along_index = condition == ALL or (offset + limit) * LOOKED_AT < total
    ids = (
        find_ids(connection, condition, order, offset, min(limit, MOST_WINDOW), along_index) if total else []
    )
    return Window(get_rows(connection, ids), total)


def find_ids(
    connection: sqlite3.Connection,
    condition: Condition,
    order: Order,
    offset: int = 0,
    limit: int = -1,
    along_index: bool = False,
) -> list[int]:
    """Ids of the tracks that meet a condition, sorted; those without a value come last, ties go by title.

    Args:
        along_index: whether to go along the index of the sort, instead of sorting what is found.

    Raises:
        LibraryError: for a sort by place in a list without a list.
        ConditionError: for a condition that makes no sense.
    """
    where, values = compile_condition(validate(condition))
    source = "shelf"
    if order.sort == "crate":
        if order.crate_id is None:
            raise LibraryError("Only the tracks of a crate have an order of their own.")
        source = "crate_place JOIN shelf ON shelf.id = crate_place.track_id AND crate_place.crate_id = ?"
        values = [order.crate_id, *values]
    terms = _order_terms(order, along_index or condition == ALL)
    query = f"SELECT shelf.id FROM {source} WHERE {where} ORDER BY {terms} LIMIT ? OFFSET ?"
    return [row[0] for row in connection.execute(query, (*values, limit, offset))]


def count(connection: sqlite3.Connection, condition: Condition = ALL) -> int:
    """How many tracks meet a condition."""
    where, values = compile_condition(validate(condition))
    return int(connection.execute(f"SELECT count(*) FROM shelf WHERE {where}", values).fetchone()[0])


def get_rows(connection: sqlite3.Connection, track_ids: list[int]) -> list[sqlite3.Row]:
    """Rows of the flat table with each track's path, in the order asked for; those that are gone are left
    out.
    """
    rows = connection.execute(
        """SELECT shelf.*, track.path, track.rate_hz FROM json_each(?) wanted
           JOIN shelf ON shelf.id = wanted.value JOIN track ON track.id = shelf.id ORDER BY wanted.key""",
        (str(list(track_ids)),),
    )
    return rows.fetchall()


def count_pictures(connection: sqlite3.Connection, condition: Condition) -> dict[str, dict[Any, int]]:
    """For each picture how many of the found tracks lie where: whole bpm, key, genre, month of arrival,
    stars, energy.

    Each picture leaves the parts of the condition that are about itself out, so that it can be widened.
    """
    validate(condition)
    alike: dict[Condition, list[str]] = {}
    for name, (_, about) in PICTURES.items():
        alike.setdefault(without(condition, about), []).append(name)
    counts: dict[str, dict[Any, int]] = {name: {} for name in PICTURES}
    for picture, value, number in _count_by(connection, alike):
        counts[picture][value] = number
    return counts


def _count_by(
    connection: sqlite3.Connection, alike: Mapping[Condition, Sequence[str]]
) -> Iterator[tuple[str, Any, int]]:
    """(picture, value, how many) for pictures by their condition.

    Without a condition an index has the counts. All others are counted among the tracks that meet any of the
    conditions, which are looked up once.
    """
    selects: list[str] = []
    values: list[Any] = []
    limited = {condition: names for condition, names in alike.items() if condition != ALL}
    where, found_values = compile_condition(AnyOf(tuple(limited)))
    for condition, names in alike.items():
        for name in names:
            test, more = compile_condition(condition) if len(limited) > 1 else ("1", [])
            source = "main.shelf" if condition == ALL else "shelf"
            selects.append(
                f"SELECT '{name}', {PICTURES[name][0]} AS value, count(*) FROM {source} WHERE {test} GROUP "
                f"BY value"
            )
            values += more
    found = f"WITH shelf AS MATERIALIZED (SELECT {COUNTED} FROM main.shelf WHERE {where}) " if limited else ""
    for row in connection.execute(
        found + " UNION ALL ".join(selects), (*(found_values if limited else ()), *values)
    ):
        if row[1] not in (None, ""):
            yield row[0], row[1], row[2]


def _order_terms(order: Order, indexed: bool) -> str:
    if order.sort == "crate":
        return f"crate_place.position {'DESC' if order.descending else 'ASC'}, crate_place.id"
    direction = "DESC" if order.descending else "ASC"
    ties = "DESC" if order.descending != (order.sort in DOWN) else "ASC"
    plain = "" if indexed else "+"
    return (
        f"{plain}{SORTS[order.sort]} {direction} NULLS LAST, shelf.title COLLATE NOCASE {ties}, shelf.id "
        f"{ties}"
    )
