"""Rule lists in a row: a folder with a list for each style, tempo band, key and so on, which gets another
list when a new value appears.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from vinyl.core.ordering import key_between
from vinyl.core.rules.conditions import Added, Between, Condition, KeyIs, Tagged, TextIs
from vinyl.core.rules.notation import Rule
from vinyl.core.text import fold
from vinyl.library import crates
from vinyl.library.errors import LibraryError
from vinyl.library.references import family_by_gid
from vinyl.library.rule_lists import put_rule
from vinyl.library.tables import FAMILY, TAG

BAND = 10
# The highest value below the next band, finer than any that is measured.
BELOW = 0.001
MOST_LISTS = 400


@dataclass(frozen=True, slots=True)
class Member:
    """One list of a series: the value that it is of and has its place by, its name, and what it holds."""

    value: str
    name: str
    condition: Condition


def _styles(connection: sqlite3.Connection) -> Iterator[Member]:
    seen = set()
    for row in connection.execute("SELECT DISTINCT genre FROM shelf WHERE genre <> '' ORDER BY genre"):
        if (value := fold(row[0])) and value not in seen:
            seen.add(value)
            yield Member(value, row[0], TextIs("genre", row[0]))


def _tempi(connection: sqlite3.Connection) -> Iterator[Member]:
    for low in _bands(connection, "bpm"):
        yield Member(f"{low:04}", f"{low} to {low + BAND} bpm", Between("bpm", low, low + BAND - BELOW))


def _energies(connection: sqlite3.Connection) -> Iterator[Member]:
    for low in _bands(connection, "min(energy, 99)"):
        high = 100 if low + BAND >= 100 else low + BAND - 1
        yield Member(f"{low:04}", f"Energy {low} to {high}", Between("energy", low, high))


def _bands(connection: sqlite3.Connection, value: str) -> list[int]:
    rows = connection.execute(
        f"SELECT DISTINCT CAST({value} / ? AS INTEGER) * ? AS low FROM shelf WHERE {value} IS NOT NULL "
        "ORDER BY low",
        (BAND, BAND),
    )
    return [row[0] for row in rows]


def _keys(connection: sqlite3.Connection) -> Iterator[Member]:
    rows = connection.execute(
        "SELECT DISTINCT key, key_place FROM shelf WHERE key_place IS NOT NULL ORDER BY key_place"
    )
    for row in rows:
        yield Member(f"{row['key_place']:04}", row["key"], KeyIs(row["key"], False))


def _months(connection: sqlite3.Connection) -> Iterator[Member]:
    rows = connection.execute("SELECT DISTINCT substr(added_at, 1, 7) AS month FROM shelf ORDER BY month")
    for row in rows:
        yield Member(row["month"], f"Added {row['month']}", Added(row["month"], row["month"]))


BY: Mapping[str, Callable[[sqlite3.Connection], Iterator[Member]]] = {
    "style": _styles,
    "tempo": _tempi,
    "energy": _energies,
    "key": _keys,
    "month": _months,
}


def _tags(connection: sqlite3.Connection, family_gid: str) -> Iterator[Member]:
    rows = connection.execute(
        "SELECT id, gid, name FROM tag WHERE family_id = (SELECT id FROM tag_family WHERE gid = ?) "
        "AND NOT retired AND EXISTS (SELECT 1 FROM track_tag WHERE tag_id = tag.id) ORDER BY position, id",
        (family_gid,),
    )
    for row in rows:
        yield Member(TAG + row["gid"], row["name"], Tagged(row["id"]))


def members(connection: sqlite3.Connection, by: str) -> list[Member]:
    """The lists that a series by a value has now; a family of tags is named by its global id.

    Raises:
        LibraryError: for what series are not made by, and if there would be too many.
    """
    family = by.removeprefix(FAMILY)
    if family and family != by:
        found = list(_tags(connection, family))
    elif by in BY:
        found = list(BY[by](connection))
    else:
        raise LibraryError(f"Lists in a row are made by {', '.join(BY)} or a family of tags, not by “{by}”.")
    if len(found) > MOST_LISTS:
        raise LibraryError(f"That would be {len(found)} lists; {MOST_LISTS} are the most.")
    return found


def make_series(connection: sqlite3.Connection, name: str, by: str, folder_id: int | None = None) -> int:
    """Make a folder with a list for each value there is now; returns the folder's id."""
    by = family_by_gid(connection, by)
    members(connection, by)
    made = crates.make_crate(connection, name, folder_id, is_folder=True)
    _note(connection, made, {"by": by, "without": []})
    _bring_up(connection, made, {"by": by, "without": []})
    return made


def lacking(connection: sqlite3.Connection) -> bool:
    """Whether a value has appeared that a series has no list for yet."""
    return any(_missing(connection, *each) for each in _all_series(connection))


def bring_up(connection: sqlite3.Connection) -> None:
    """Make the lists of all values that have appeared."""
    for folder_id, series in _all_series(connection):
        _bring_up(connection, folder_id, series)


def leave_out(connection: sqlite3.Connection, crate_id: int) -> None:
    """Remember that a list of a series was deleted, so that it is not made again."""
    row = connection.execute(
        "SELECT c.series_value, f.id, f.series FROM crate c JOIN crate f ON f.id = c.folder_id "
        "WHERE c.id = ? AND c.series_value IS NOT NULL AND f.series IS NOT NULL",
        (crate_id,),
    ).fetchone()
    if row:
        series = json.loads(row["series"])
        _note(connection, row["id"], {**series, "without": [*series["without"], row["series_value"]]})


def _note(connection: sqlite3.Connection, folder_id: int, series: Mapping[str, Any]) -> None:
    connection.execute("UPDATE crate SET series = ? WHERE id = ?", (json.dumps(series), folder_id))


def _all_series(connection: sqlite3.Connection) -> list[tuple[int, dict[str, Any]]]:
    rows = connection.execute("SELECT id, series FROM crate WHERE series IS NOT NULL").fetchall()
    return [(row["id"], json.loads(row["series"])) for row in rows]


def _missing(connection: sqlite3.Connection, folder_id: int, series: Mapping[str, Any]) -> list[Member]:
    rows = connection.execute("SELECT series_value FROM crate WHERE folder_id = ?", (folder_id,))
    there = {row[0] for row in rows} | set(series["without"])
    try:
        return [each for each in members(connection, series["by"]) if each.value not in there]
    except LibraryError:
        return []


def _bring_up(connection: sqlite3.Connection, folder_id: int, series: Mapping[str, Any]) -> None:
    for member in _missing(connection, folder_id, series):
        made = crates.make_crate(connection, crates.free_name(connection, member.name), folder_id)
        put_rule(connection, made, Rule(member.condition, (("bpm", False), ("key", False))))
        connection.execute(
            "UPDATE crate SET series_value = ?, position = ? WHERE id = ?",
            (member.value, _position(connection, folder_id, member.value), made),
        )


def _position(connection: sqlite3.Connection, folder_id: int, value: str) -> str:
    """Before the first list of a higher value."""
    rows = connection.execute(
        "SELECT series_value, position FROM crate WHERE folder_id = ? AND series_value IS NOT NULL "
        "ORDER BY position, id",
        (folder_id,),
    ).fetchall()
    place = next((i for i, row in enumerate(rows) if row["series_value"] > value), len(rows))
    before = rows[place - 1]["position"] if place else None
    return key_between(before, rows[place]["position"] if place < len(rows) else None)
