"""Finding tracks: a window of rows in any order, all ids where they are needed."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from vinyl.core.rules.conditions import AllOf, Condition, InList
from vinyl.library.errors import LibraryError
from vinyl.library.rule_lists import compiled, get_rule
from vinyl.library.sorts import SORTS, SortName

MOST_WINDOW = 500
# Going along an index costs as much as looking at so many rows one after the other.
LOOKED_AT = 10

DOWN = frozenset({"added_at", "doubt"})
TITLED = frozenset(
    {"artist", "album", "genre", "label", "bpm", "key", "lufs", "energy", "duration_s", "added_at", "doubt",
     "year"}
)  # fmt: skip
ALL = AllOf()


@dataclass(frozen=True, slots=True)
class Order:
    """How found tracks are sorted; ``crate_id`` for their order in a list, ``venue_id`` for when they were
    last played there, ``then`` what ties go by.
    """

    sort: SortName = "added_at"
    descending: bool = False
    crate_id: int | None = None
    venue_id: int | None = None
    then: tuple[tuple[SortName, bool], ...] = ()


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
    if order.sort == "last_at":
        return _by_last_at(connection, condition, order, offset, limit)
    condition, order = _by_rule(connection, condition, order)
    where, values = compiled(connection, condition)
    source = "shelf"
    if order.sort == "crate":
        source = "crate_place JOIN shelf ON shelf.id = crate_place.track_id AND crate_place.crate_id = ?"
        values = [order.crate_id, *values]
    terms = _order_terms(order, along_index or condition == ALL)
    query = f"SELECT shelf.id FROM {source} WHERE {where} ORDER BY {terms} LIMIT ? OFFSET ?"
    return [row[0] for row in connection.execute(query, (*values, limit, offset))]


def _by_last_at(
    connection: sqlite3.Connection, condition: Condition, order: Order, offset: int, limit: int
) -> list[int]:
    """By when tracks were last played at a venue. The few that were come first, all others by their ids."""
    if order.venue_id is None:
        raise LibraryError("Say at which venue tracks are to be sorted by when they were last played.")
    where, values = compiled(connection, condition)
    meeting = "" if condition == ALL else f"JOIN shelf ON shelf.id = track_id WHERE {where}"
    played = connection.execute(
        f"""SELECT track_id FROM (
              SELECT p.track_id, max(p.played_at) AS last_at FROM gig g JOIN play p ON p.gig_id = g.id
              WHERE g.venue_id = ? AND NOT g.practice AND p.track_id IS NOT NULL
                AND p.track_id NOT IN (SELECT track_id FROM off_shelf) GROUP BY p.track_id)
            {meeting} ORDER BY last_at {"DESC" if order.descending else "ASC"}, track_id""",
        (order.venue_id, *(values if meeting else ())),
    ).fetchall()
    found = [row[0] for row in played]
    first = found[offset : None if limit < 0 else offset + limit]
    if limit >= 0 and len(first) == limit:
        return first
    rest = connection.execute(
        f"""SELECT shelf.id FROM shelf WHERE {where} AND shelf.id NOT IN (SELECT value FROM json_each(?))
            ORDER BY shelf.id LIMIT ? OFFSET ?""",
        (*values, str(found), limit if limit < 0 else limit - len(first), max(0, offset - len(found))),
    )
    return [*first, *(row[0] for row in rest)]


def _by_rule(connection: sqlite3.Connection, condition: Condition, order: Order) -> tuple[Condition, Order]:
    """The own order of a list that fills itself is that of its rule."""
    if order.sort != "crate":
        return condition, order
    if order.crate_id is None:
        raise LibraryError("Only the tracks of a crate have an order of their own.")
    rule = get_rule(connection, order.crate_id)
    if rule is None:
        return condition, order
    (sort, down), *then = [(name, down) for name, down in rule.order if name in SORTS] or [("added_at", True)]
    return AllOf((InList(order.crate_id), condition)), Order(sort, down, then=tuple(then))  # type: ignore[arg-type]


def count(connection: sqlite3.Connection, condition: Condition = ALL) -> int:
    """How many tracks meet a condition."""
    where, values = compiled(connection, condition)
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


def _order_terms(order: Order, indexed: bool) -> str:
    if order.sort == "crate":
        return f"crate_place.position {'DESC' if order.descending else 'ASC'}, crate_place.id"
    direction = "DESC" if order.descending else "ASC"
    ties = "DESC" if order.descending != (order.sort in DOWN) else "ASC"
    plain = "" if indexed else "+"
    terms = [f"{plain}{SORTS[order.sort]} {direction} NULLS LAST"]
    terms += [
        f"{SORTS[name]} {'DESC' if down else 'ASC'} NULLS LAST" for name, down in order.then if name in SORTS
    ]
    if order.sort in TITLED:
        terms.append(f"shelf.title COLLATE NOCASE {ties}")
    return ", ".join([*terms, f"shelf.id {ties}"])
