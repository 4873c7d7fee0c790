"""Crates: lists of tracks in an order of their own."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import count

from vinyl.core.ordering import key_between, keys_between
from vinyl.core.rules.conditions import AllOf, InList, simplified
from vinyl.core.rules.notation import Rule
from vinyl.core.text import fold
from vinyl.library import places, wanted
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.find import ALL, Order, find_ids
from vinyl.library.references import family_by_id
from vinyl.library.rule_lists import NO_RULE, expanded, get_rule, put_rule, refuse_by_hand, whole_of

LONGEST_NAME = 120


@dataclass(frozen=True, slots=True)
class Crate:
    """A crate, or a folder of crates: the number and playing time of its tracks, and how many are wanted."""

    id: int
    name: str
    tracks: int
    duration_s: float
    wanted: int
    fills_itself: bool
    is_folder: bool
    folder_id: int | None
    colour: str
    sign: str
    note: str
    divided_by: str
    repeats: bool
    series: str | None


SELECT = f"""SELECT c.id, c.name, c.rule IS NOT NULL AS fills_itself, c.is_folder, c.folder_id,
    c.colour, c.sign, c.note, {family_by_id("c.divided_by")} AS divided_by, c.repeats,
    {family_by_id("c.series ->> 'by'")} AS series,
    coalesce(s.tracks, 0) AS tracks, coalesce(s.duration_ms, 0) / 1000.0 AS duration_s,
    coalesce(s.wanted, 0) AS wanted
  FROM crate c LEFT JOIN crate_size s ON s.crate_id = c.id"""


def venue_of(connection: sqlite3.Connection, crate_id: int) -> int | None:
    """The venue that a crate is for, if it is for one."""
    row = connection.execute("SELECT venue_id FROM crate WHERE id = ?", (crate_id,)).fetchone()
    return row[0] if row else None


def list_crates(connection: sqlite3.Connection) -> list[Crate]:
    """All crates in their order."""
    rows = connection.execute(f"{SELECT} ORDER BY c.position, c.id")
    return [_crate(row) for row in rows]


def get_crate(connection: sqlite3.Connection, crate_id: int) -> Crate:
    """One crate.

    Raises:
        NotFoundError: if it was deleted.
    """
    row = connection.execute(f"{SELECT} WHERE c.id = ?", (crate_id,)).fetchone()
    if row is None:
        raise NotFoundError("This crate is no longer there.")
    return _crate(row)


def _crate(row: sqlite3.Row) -> Crate:
    flags = {name: bool(row[name]) for name in ("fills_itself", "is_folder", "repeats")}
    return Crate(**{**dict(row), **flags})


def make_crate(
    connection: sqlite3.Connection, name: str, folder_id: int | None = None, is_folder: bool = False
) -> int:
    """Make an empty crate, or a folder, at the end of a folder or of all; returns its id."""
    _check_folder(connection, folder_id)
    last = connection.execute("SELECT max(position) FROM crate").fetchone()[0]
    cursor = connection.execute(
        "INSERT INTO crate (name, position, created_at, folder_id, is_folder) VALUES (?, ?, ?, ?, ?)",
        (_checked_name(connection, name), key_between(last, None), now(), folder_id, is_folder),
    )
    return int(cursor.lastrowid or 0)


def put_into_folder(
    connection: sqlite3.Connection, crate_id: int, folder_id: int | None, before_id: int | None = None
) -> None:
    """Move a crate or a folder into a folder, or out of all with None: before another that is in there, or
    behind all.

    Raises:
        LibraryError: for what is no folder, and for a folder that would be within itself.
    """
    crate = get_crate(connection, crate_id)
    _check_folder(connection, folder_id)
    if folder_id is not None and crate_id in _way_up(connection, folder_id):
        raise LibraryError(f"“{crate.name}” cannot go into itself, nor into what is in it.")
    rows = connection.execute(
        "SELECT id, position FROM crate WHERE folder_id IS ? AND id <> ? ORDER BY position, id",
        (folder_id, crate_id),
    ).fetchall()
    place = next((i for i, row in enumerate(rows) if row["id"] == before_id), len(rows))
    position = key_between(*_neighbours([row["position"] for row in rows], place))
    connection.execute(
        "UPDATE crate SET folder_id = ?, position = ? WHERE id = ?", (folder_id, position, crate_id)
    )
    expanded(connection, InList(crate_id))


def order_by_name(connection: sqlite3.Connection, folder_id: int | None) -> None:
    """Put what is in a folder, or in none, in the order of the names: folders first, numbers by size."""
    rows = connection.execute(
        "SELECT id, name, is_folder, position FROM crate WHERE folder_id IS ?", (folder_id,)
    ).fetchall()
    ordered = sorted(rows, key=lambda row: (not row["is_folder"], _by_name(row["name"])))
    positions = keys_between(None, None, len(rows))
    connection.executemany(
        "UPDATE crate SET position = ? WHERE id = ?",
        [(position, row["id"]) for row, position in zip(ordered, positions, strict=True)],
    )


def _by_name(name: str) -> list[tuple[int, int, str]]:
    parts = re.findall(r"\d+|\D+", fold(name))
    return [(0, int(part), "") if part.isdecimal() else (1, 0, part) for part in parts]


def change_looks(
    connection: sqlite3.Connection, crate_id: int, colour: str | None, sign: str | None, note: str | None
) -> None:
    """Give a crate or folder a colour, a sign or a note; None leaves it as it is."""
    get_crate(connection, crate_id)
    connection.execute(
        "UPDATE crate SET colour = coalesce(?, colour), sign = coalesce(?, sign), note = coalesce(?, note) "
        "WHERE id = ?",
        (colour, sign, note, crate_id),
    )


def _check_folder(connection: sqlite3.Connection, folder_id: int | None) -> None:
    if folder_id is not None and not get_crate(connection, folder_id).is_folder:
        raise LibraryError("Crates go into folders only.")


def _way_up(connection: sqlite3.Connection, crate_id: int) -> list[int]:
    """A crate, the folder it is in, the folder that is in, and so on."""
    rows = connection.execute(
        """WITH RECURSIVE up (id) AS (SELECT ? UNION
             SELECT c.folder_id FROM crate c JOIN up ON c.id = up.id WHERE c.folder_id IS NOT NULL)
           SELECT id FROM up""",
        (crate_id,),
    )
    return [row[0] for row in rows]


def _all_within(connection: sqlite3.Connection, crate_id: int) -> list[int]:
    """A crate, or a folder with all that is in it, however deep."""
    rows = connection.execute(
        """WITH RECURSIVE within (id) AS (SELECT ? UNION
             SELECT c.id FROM crate c JOIN within ON c.folder_id = within.id)
           SELECT id FROM within""",
        (crate_id,),
    )
    return [row[0] for row in rows]


def make_rule_crate(
    connection: sqlite3.Connection, name: str, rule: Rule, folder_id: int | None = None
) -> int:
    """Make a crate that fills itself, at the end; returns its id."""
    crate_id = make_crate(connection, name, folder_id)
    where = simplified(rule.where)
    where = whole_of(where) if isinstance(rule.where, AllOf) else where
    put_rule(connection, crate_id, replace(rule, where=where))
    return crate_id


def change_rule(connection: sqlite3.Connection, crate_id: int, rule: Rule) -> None:
    """Give a crate that fills itself another rule."""
    crate = get_crate(connection, crate_id)
    if not crate.fills_itself:
        raise LibraryError(NO_RULE.format(crate.name))
    put_rule(connection, crate_id, rule)


def freeze(connection: sqlite3.Connection, crate_id: int, name: str) -> int:
    """Make a crate by hand of what is in one that fills itself now, in its order; returns its id."""
    track_ids = crate_tracks(connection, crate_id)
    made = make_crate(connection, name)
    add_tracks(connection, made, track_ids)
    return made


def rename_crate(connection: sqlite3.Connection, crate_id: int, name: str) -> None:
    """Give a crate another name."""
    if get_crate(connection, crate_id).name != name.strip():
        checked = _checked_name(connection, name, crate_id)
        connection.execute("UPDATE crate SET name = ? WHERE id = ?", (checked, crate_id))


def delete_crate(connection: sqlite3.Connection, crate_id: int) -> None:
    """Delete a crate, or a folder with all that is in it. Tracks stay in the library."""
    get_crate(connection, crate_id)
    for each in _all_within(connection, crate_id):
        wanted.remove_of_crate(connection, each)
    connection.execute("DELETE FROM crate WHERE id = ?", (crate_id,))


def move_crate(connection: sqlite3.Connection, crate_id: int, to: int) -> None:
    """Move a crate to a place (0 is first) among those of its folder: one row is written."""
    folder_id = get_crate(connection, crate_id).folder_id
    rows = connection.execute(
        "SELECT id, position FROM crate WHERE folder_id IS ? ORDER BY position, id", (folder_id,)
    ).fetchall()
    place = [row["id"] for row in rows].index(crate_id)
    others = [row["position"] for row in rows if row["id"] != crate_id]
    to = max(0, min(to, len(others)))
    if to != place:
        before, after = _neighbours(others, to)
        connection.execute(
            "UPDATE crate SET position = ? WHERE id = ?", (key_between(before, after), crate_id)
        )


def crate_tracks(connection: sqlite3.Connection, crate_id: int) -> list[int]:
    """Ids of a crate's tracks in its order."""
    if get_crate(connection, crate_id).is_folder:
        return find_ids(connection, InList(crate_id), Order("title"))
    if get_rule(connection, crate_id) is not None:
        return find_ids(connection, ALL, Order("crate", crate_id=crate_id))
    rows = connection.execute(
        "SELECT track_id FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL ORDER BY position, id",
        (crate_id,),
    )
    return [row[0] for row in rows]


def add_tracks(
    connection: sqlite3.Connection, crate_id: int, track_ids: Sequence[int], at: int | None = None
) -> int:
    """Put tracks into a crate, at a place or at its end; returns how many came in: those that are in it
    already only if it allows a track more than once.
    """
    crate = get_crate(connection, crate_id)
    refuse_by_hand(connection, crate_id)
    there = places.list_places(connection, crate_id)
    held = set() if crate.repeats else set(there.track_ids)
    new = [track_id for track_id in dict.fromkeys(track_ids) if track_id not in held]
    at = len(there.ids) if at is None else at
    keys = places.keys_at(connection, crate_id, there.positions, at, len(new))
    try:
        connection.executemany(
            "INSERT INTO crate_place (crate_id, track_id, position) VALUES (?, ?, ?)",
            [(crate_id, i, key) for i, key in zip(new, keys, strict=True)],
        )
    except sqlite3.IntegrityError as error:
        raise NotFoundError("One of these tracks is not in the library (any more).") from error
    return len(new)


def remove_tracks(connection: sqlite3.Connection, crate_id: int, track_ids: Sequence[int]) -> None:
    """Take tracks out of a crate, from all their places. They stay in the library."""
    get_crate(connection, crate_id)
    refuse_by_hand(connection, crate_id)
    connection.execute(
        "DELETE FROM crate_place WHERE crate_id = ? AND track_id IN (SELECT value FROM json_each(?))",
        (crate_id, json.dumps(list(track_ids))),
    )


def take_out(connection: sqlite3.Connection, crate_id: int, names: Sequence[int]) -> None:
    """Take places (vinyl.library.places) out of a crate. The tracks stay in the library."""
    get_crate(connection, crate_id)
    refuse_by_hand(connection, crate_id)
    places.take_out(connection, crate_id, names)


def move_tracks(
    connection: sqlite3.Connection, crate_id: int, names: Sequence[int], to: int, behind: bool = False
) -> None:
    """Move places (vinyl.library.places), kept in their order, so that they begin at a place among the
    others (0 is first). Only the rows of those that move are written.

    Args:
        behind: whether they follow the track before that place, where a divider stands between both.
    """
    refuse_by_hand(connection, crate_id)
    there = places.list_places(connection, crate_id)
    moving = set(names)
    moved, left, rest = [], set(), []
    for place_id, name, position in zip(there.ids, there.names, there.positions, strict=True):
        if name in moving:
            moved.append(place_id)
            left.add(position)
        else:
            rest.append(position)
    keys = places.keys_at(connection, crate_id, rest, max(0, min(to, len(rest))), len(moved), behind, left)
    connection.executemany(
        "UPDATE crate_place SET position = ? WHERE id = ?", list(zip(keys, moved, strict=True))
    )


def allow_repeats(connection: sqlite3.Connection, crate_id: int, allowed: bool) -> None:
    """Let a track stand in a crate by hand more than once, or no more; what is there stays."""
    get_crate(connection, crate_id)
    refuse_by_hand(connection, crate_id)
    connection.execute("UPDATE crate SET repeats = ? WHERE id = ?", (allowed, crate_id))


def named(connection: sqlite3.Connection, crate_ids: Sequence[int]) -> list[tuple[int, str]]:
    """Ids and names of some crates, in the order of all."""
    rows = connection.execute(
        "SELECT id, name FROM crate WHERE id IN (SELECT value FROM json_each(?)) ORDER BY position, id",
        (json.dumps(list(crate_ids)),),
    )
    return [(row["id"], row["name"]) for row in rows]


def names(connection: sqlite3.Connection) -> list[tuple[int, str]]:
    """Ids and names of all crates, without folders, in their order."""
    return [
        (row[0], row[1])
        for row in connection.execute("SELECT id, name FROM crate WHERE NOT is_folder ORDER BY position, id")
    ]


def lists_of(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, list[int]]:
    """Ids of the crates that hold each of some tracks."""
    rows = connection.execute(
        "SELECT DISTINCT p.track_id, p.crate_id FROM json_each(?) i "
        "JOIN crate_place p ON p.track_id = i.value",
        (json.dumps(list(track_ids)),),
    )
    found: dict[int, list[int]] = {}
    for row in rows:
        found.setdefault(row[0], []).append(row[1])
    return found


def _neighbours(positions: Sequence[str], at: int) -> tuple[str | None, str | None]:
    return positions[at - 1] if at > 0 else None, positions[at] if at < len(positions) else None


def free_name(connection: sqlite3.Connection, name: str) -> str:
    """A name that no crate has: the one wished for, or that with a number."""
    name = " ".join(name.split())[: LONGEST_NAME - 5] or "A list"
    taken = {row[0].casefold() for row in connection.execute("SELECT name FROM crate")}
    numbers = (f"{name} {number}" for number in count(2))
    return name if name.casefold() not in taken else next(n for n in numbers if n.casefold() not in taken)


def _checked_name(connection: sqlite3.Connection, name: str, but_not: int = 0) -> str:
    name = " ".join(name.split())
    if not name:
        raise LibraryError("A crate needs a name.")
    if len(name) > LONGEST_NAME:
        raise LibraryError(f"A crate's name can have {LONGEST_NAME} characters at the most.")
    same = "SELECT 1 FROM crate WHERE name = ? COLLATE NOCASE AND id <> ?"
    if connection.execute(same, (name, but_not)).fetchone():
        raise LibraryError(f"There is already a crate called “{name}”.")
    return name
