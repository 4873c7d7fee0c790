"""Dividers: what stands between the tracks of a list, set by hand, or by a value of the tracks and then
always up to date.
"""

from __future__ import annotations

import json
import sqlite3
from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from vinyl.core.rules.conditions import InList
from vinyl.library import places
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.find import ALL, Order, find_ids
from vinyl.library.references import family_by_gid
from vinyl.library.rule_lists import refuse_by_hand
from vinyl.library.sorts import SortName
from vinyl.library.tables import FAMILY

LONGEST_NAME = 120
# Lists longer than this are not divided by a value: nobody goes along so many.
MOST_DIVIDED = 20_000
NOTHING = ""
# What a list can be divided by, and the SQL that names the group of a track.
VALUES: Mapping[str, str] = {
    "key": "shelf.key",
    "tempo": "(CAST(shelf.bpm / 5 AS INTEGER) * 5) || ' to ' || (CAST(shelf.bpm / 5 AS INTEGER) * 5 + 5)",
    "energy": "(shelf.energy / 10 * 10) || ' to ' || (shelf.energy / 10 * 10 + 9)",
    "style": "nullif(shelf.genre, '')",
    "month": "substr(shelf.added_at, 1, 7)",
    "backing": "(SELECT name FROM backing WHERE backing.id = shelf.backing_id)",
}


@dataclass(frozen=True, slots=True)
class Section:
    """A divider and what is below it up to the next: from the ``at``-th track on so many, playing so long.

    ``divider_id`` is None for one that is not set by hand.
    """

    divider_id: int | None
    name: str
    sign: str
    colour: str
    at: int
    tracks: int
    duration_s: float


def list_sections(
    connection: sqlite3.Connection, crate_id: int, sorts: Sequence[tuple[SortName, bool]] = ()
) -> list[Section]:
    """The dividers of a list in order, or as it is sorted for looking; those by hand stand in its own order
    only.

    Raises:
        NotFoundError: if the list is gone.
    """
    row = connection.execute("SELECT divided_by FROM crate WHERE id = ?", (crate_id,)).fetchone()
    if row is None:
        raise NotFoundError("This crate is no longer there.")
    if row["divided_by"]:
        return _by_value(connection, row["divided_by"], _shown(connection, crate_id, sorts))
    return [] if sorts else _by_hand(connection, crate_id)


def _shown(
    connection: sqlite3.Connection, crate_id: int, sorts: Sequence[tuple[SortName, bool]]
) -> list[int]:
    if not sorts:
        return find_ids(connection, ALL, Order("crate", crate_id=crate_id), 0, MOST_DIVIDED + 1)
    (sort, down), *then = sorts
    return find_ids(connection, InList(crate_id), Order(sort, down, then=tuple(then)), 0, MOST_DIVIDED + 1)


def _by_hand(connection: sqlite3.Connection, crate_id: int) -> list[Section]:
    rows = connection.execute(
        "SELECT id, name, sign, colour, position FROM divider WHERE crate_id = ? ORDER BY position, id",
        (crate_id,),
    ).fetchall()
    if not rows:
        return []
    there = places.list_places(connection, crate_id)
    positions = there.positions
    starts = [bisect_left(positions, row["position"]) for row in rows]
    lengths = _durations(connection, there.track_ids)
    return [
        Section(
            row["id"], row["name"], row["sign"], row["colour"], first, end - first, sum(lengths[first:end])
        )
        for row, (first, end) in zip(rows, pairwise([*starts, len(positions)]), strict=True)
    ]


def _by_value(connection: sqlite3.Connection, value: str, ids: Sequence[int]) -> list[Section]:
    if len(ids) > MOST_DIVIDED:
        return []
    names = _named(connection, value, ids)
    lengths = _durations(connection, ids)
    starts = [place for place, name in enumerate(names) if place == 0 or name != names[place - 1]]
    return [
        Section(None, names[first], "", "", first, end - first, sum(lengths[first:end]))
        for first, end in pairwise([*starts, len(ids)])
    ]


def _named(connection: sqlite3.Connection, value: str, ids: Sequence[int]) -> list[str]:
    """The name of each track's group."""
    given: list[object] = []
    if value.startswith(FAMILY):
        sql = (
            "(SELECT group_concat(name, ', ') FROM (SELECT tag.name FROM track_tag "
            "JOIN tag ON tag.id = tag_id WHERE track_id = shelf.id "
            "AND family_id = (SELECT id FROM tag_family WHERE gid = ?) "
            "ORDER BY tag.position, tag.id))"
        )
        given = [value.removeprefix(FAMILY)]
    else:
        sql = VALUES[value]
    rows = connection.execute(
        f"SELECT shelf.id, {sql} AS name FROM json_each(?) i JOIN shelf ON shelf.id = i.value",
        (*given, json.dumps(list(ids))),
    )
    names = {row["id"]: str(row["name"] or NOTHING) for row in rows}
    return [names.get(each, NOTHING) for each in ids]


def _durations(connection: sqlite3.Connection, ids: Iterable[int]) -> list[float]:
    ids = list(ids)
    rows = connection.execute(
        "SELECT track.id, duration_s FROM json_each(?) i JOIN track ON track.id = i.value", (json.dumps(ids),)
    )
    lengths = {row["id"]: float(row["duration_s"]) for row in rows}
    return [lengths.get(each, 0.0) for each in ids]


def divide_by(connection: sqlite3.Connection, crate_id: int, value: str) -> None:
    """Let a list stand under dividers by a value from now on, or, with an empty one, under those by hand.

    Raises:
        LibraryError: for a value that lists are not divided by.
    """
    kept = family_by_gid(connection, value)
    if value and value not in VALUES and kept in (value, FAMILY):
        raise LibraryError(f"Lists are divided by {', '.join(VALUES)} or a family of tags, not by “{value}”.")
    connection.execute("UPDATE crate SET divided_by = ? WHERE id = ?", (kept, crate_id))


def keep_dividers(connection: sqlite3.Connection, crate_id: int) -> int:
    """Make dividers by hand of those that a list has by value, in its own order; returns how many."""
    refuse_by_hand(connection, crate_id)
    sections = list_sections(connection, crate_id)
    connection.execute("DELETE FROM divider WHERE crate_id = ?", (crate_id,))
    divide_by(connection, crate_id, "")
    for section in sections:
        add_divider(connection, crate_id, section.name or "None", section.at)
    return len(sections)


def add_divider(
    connection: sqlite3.Connection, crate_id: int, name: str, at: int, sign: str = "", colour: str = ""
) -> int:
    """Set a divider right before the ``at``-th track of a list by hand; returns its id."""
    refuse_by_hand(connection, crate_id)
    tracks = places.list_places(connection, crate_id).positions
    (key,) = places.keys_at(connection, crate_id, tracks, max(0, min(at, len(tracks))), 1)
    cursor = connection.execute(
        "INSERT INTO divider (crate_id, position, name, sign, colour) VALUES (?, ?, ?, ?, ?)",
        (crate_id, key, checked_name(name), sign, colour),
    )
    return int(cursor.lastrowid or 0)


def change_divider(
    connection: sqlite3.Connection, divider_id: int, name: str, sign: str, colour: str
) -> None:
    """Say something else on a divider."""
    _crate_of(connection, divider_id)
    connection.execute(
        "UPDATE divider SET name = ?, sign = ?, colour = ? WHERE id = ?",
        (checked_name(name), sign, colour, divider_id),
    )


def move_divider(connection: sqlite3.Connection, divider_id: int, at: int) -> None:
    """Set a divider right before another track of its list."""
    crate_id = _crate_of(connection, divider_id)
    tracks = places.list_places(connection, crate_id).positions
    (key,) = places.keys_at(connection, crate_id, tracks, max(0, min(at, len(tracks))), 1)
    connection.execute("UPDATE divider SET position = ? WHERE id = ?", (key, divider_id))


def remove_divider(connection: sqlite3.Connection, divider_id: int) -> None:
    """Take a divider away; the tracks below it stay where they are."""
    _crate_of(connection, divider_id)
    connection.execute("DELETE FROM divider WHERE id = ?", (divider_id,))


def _crate_of(connection: sqlite3.Connection, divider_id: int) -> int:
    row = connection.execute("SELECT crate_id FROM divider WHERE id = ?", (divider_id,)).fetchone()
    if row is None:
        raise NotFoundError("This divider is no longer there.")
    return int(row[0])


def checked_name(name: str) -> str:
    """A divider's name as it is kept.

    Raises:
        LibraryError: if there is none, and if it is too long.
    """
    name = " ".join(name.split())
    if not name:
        raise LibraryError("A divider needs a name.")
    if len(name) > LONGEST_NAME:
        raise LibraryError(f"A divider's name can have {LONGEST_NAME} characters at the most.")
    return name
