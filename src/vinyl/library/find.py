"""Finding tracks: a window of rows in any order, all ids where they are needed, and counts
for the pictures."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from vinyl.core.rules.conditions import AllOf, Condition, validate, without
from vinyl.library.conditions import Sql, compile_condition
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
        """SELECT shelf.*, track.path, track.rate_hz, track.channels, track.depth_bits,
             track.variable_rate, track.trimmed_samples, track.padding_samples FROM json_each(?) wanted
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
    for limited, names in alike.items():
        for picture, value, number in connection.execute(*_counting(limited, names)):
            if value not in (None, ""):
                counts[picture][value] = number
    return counts


def _counting(condition: Condition, names: Sequence[str]) -> Sql:
    """A query for (picture, value, how many) of all tracks that meet a condition.

    Without one the indexes have the counts; else the tracks are looked up once, with no more of them than is
    counted.
    """
    if condition == ALL:
        return _counts((name, PICTURES[name][0], "shelf") for name in names), []
    where, values = compile_condition(condition)
    columns = ", ".join(f"{PICTURES[name][0]} AS {name}" for name in names)
    found = f"WITH found AS MATERIALIZED (SELECT {columns} FROM shelf WHERE {where}) "
    return found + _counts((name, name, "found") for name in names), values


def _counts(counted: Iterable[tuple[str, str, str]]) -> str:
    return " UNION ALL ".join(
        f"SELECT '{name}', {value} AS value, count(*) FROM {source} GROUP BY value"
        for name, value, source in counted
    )


def _order_terms(order: Order, indexed: bool) -> str:
    if order.sort == "crate":
        return f"crate_place.position {'DESC' if order.descending else 'ASC'}, crate_place.id"
    direction = "DESC" if order.descending else "ASC"
    ties = "DESC" if order.descending != (order.sort in DOWN) else "ASC"
    plain = "" if indexed else "+"
    return (
        f"{plain}{SORTS[order.sort]} {direction} NULLS LAST, "
        f"shelf.title COLLATE NOCASE {ties}, shelf.id {ties}"
    )
