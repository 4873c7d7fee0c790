"""Tags in families, the user's own: making, ordering and retiring them, and giving them to tracks."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vinyl.core.ordering import key_between
from vinyl.core.text import fold
from vinyl.library import flat
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.locks import check_open, without_locked
from vinyl.library.references import gid_of, point_elsewhere

LONGEST_NAME = 60
LONGEST_SIGN = 4


@dataclass(frozen=True, slots=True)
class Tag:
    """A tag; without a colour and a sign of its own it has its family's. ``letter`` gives it while one
    listens.
    """

    id: int
    family_id: int
    name: str
    colour: str | None
    sign: str
    letter: str | None
    retired: bool
    tracks: int


@dataclass(frozen=True, slots=True)
class Family:
    """A family of tags, in order. What is retired is no longer offered; tracks keep it."""

    id: int
    name: str
    colour: str
    sign: str
    retired: bool
    tags: list[Tag]


def list_families(connection: sqlite3.Connection) -> list[Family]:
    """All families with their tags, in their order."""
    tags: dict[int, list[Tag]] = {}
    rows = connection.execute(
        """SELECT id, family_id, name, colour, sign, letter, retired, coalesce(u.tracks, 0) AS tracks
           FROM tag LEFT JOIN (SELECT tag_id, count(*) AS tracks FROM track_tag GROUP BY tag_id) u
             ON u.tag_id = tag.id ORDER BY position, id"""
    )
    for row in rows:
        tags.setdefault(row["family_id"], []).append(Tag(**{**dict(row), "retired": bool(row["retired"])}))
    families = connection.execute("SELECT * FROM tag_family ORDER BY position, id")
    return [
        Family(f["id"], f["name"], f["colour"], f["sign"], bool(f["retired"]), tags.get(f["id"], []))
        for f in families
    ]


def make_family(connection: sqlite3.Connection, name: str, colour: str, sign: str = "") -> int:
    """Make a family at the end; returns its id."""
    last = connection.execute("SELECT max(position) FROM tag_family").fetchone()[0]
    cursor = connection.execute(
        "INSERT INTO tag_family (name, position, colour, sign) VALUES (?, ?, ?, ?)",
        (_family_name(connection, name), key_between(last, None), colour, _sign(sign)),
    )
    return int(cursor.lastrowid or 0)


def make_tag(connection: sqlite3.Connection, family_id: int, name: str) -> int:
    """Make a tag at the end of its family; returns its id. One of that name is taken up again if it was
    retired.
    """
    name = _checked(name, "tag")
    for there in connection.execute("SELECT id, name FROM tag WHERE family_id = ?", (family_id,)).fetchall():
        if fold(there["name"]) == fold(name):
            connection.execute("UPDATE tag SET retired = 0 WHERE id = ?", (there["id"],))
            return int(there["id"])
    last = connection.execute("SELECT max(position) FROM tag WHERE family_id = ?", (family_id,)).fetchone()[0]
    cursor = connection.execute(
        "INSERT INTO tag (family_id, name, position, letter) VALUES (?, ?, ?, ?)",
        (_there(connection, "tag_family", family_id), name, key_between(last, None), _free(connection, name)),
    )
    return int(cursor.lastrowid or 0)


def change_family(
    connection: sqlite3.Connection, family_id: int, changes: Mapping[str, str | bool | int]
) -> None:
    """Change name, colour, sign or whether it is retired; ``to`` is its place among the families."""
    _there(connection, "tag_family", family_id)
    if "name" in changes:
        changes = {**changes, "name": _family_name(connection, str(changes["name"]), family_id)}
    _update(connection, "tag_family", family_id, changes, ("name", "colour", "sign", "retired"))
    if "to" in changes:
        _move(connection, "SELECT id, position FROM tag_family", (), family_id, int(changes["to"]))


def change_tag(
    connection: sqlite3.Connection, tag_id: int, changes: Mapping[str, str | bool | int | None]
) -> None:
    """Change name, colour, sign, letter, family or whether it is retired; ``to`` is its place in its family.

    A letter that another tag has is taken from that.
    """
    _there(connection, "tag", tag_id)
    if "name" in changes:
        changes = {**changes, "name": _tag_name(connection, str(changes["name"]), tag_id)}
    if changes.get("letter"):
        taken = "UPDATE tag SET letter = NULL WHERE letter = ? AND id <> ?"
        connection.execute(taken, (changes["letter"], tag_id))
    _update(connection, "tag", tag_id, changes, ("name", "colour", "sign", "letter", "retired", "family_id"))
    if "name" in changes:
        flat.settle(connection, _tagged(connection, tag_id), ["track_tag"])
    if changes.get("to") is not None:
        family = connection.execute("SELECT family_id FROM tag WHERE id = ?", (tag_id,)).fetchone()[0]
        among = "SELECT id, position FROM tag WHERE family_id = ?"
        _move(connection, among, (family,), tag_id, int(changes["to"] or 0))


def merge(connection: sqlite3.Connection, tag_id: int, into: int) -> None:
    """All tracks of a tag get another instead, what asks for it asks for the other, and it goes.

    Raises:
        LibraryError: if both are the same.
    """
    if tag_id == into:
        raise LibraryError("A tag cannot be merged into itself.")
    _there(connection, "tag", tag_id), _there(connection, "tag", into)
    connection.execute(
        "INSERT OR IGNORE INTO track_tag (tag_id, track_id) "
        "SELECT ?, track_id FROM track_tag WHERE tag_id = ?",
        (into, tag_id),
    )
    connection.execute("UPDATE genre_word SET tag_id = ? WHERE tag_id = ?", (into, tag_id))
    point_elsewhere(connection, "tag", *(gid_of(connection, "tag", each) for each in (tag_id, into)))
    delete_tag(connection, tag_id)


def delete_tag(connection: sqlite3.Connection, tag_id: int) -> None:
    """Take a tag from all its tracks and forget it."""
    _there(connection, "tag", tag_id)
    tagged = _tagged(connection, tag_id)
    connection.execute("DELETE FROM tag WHERE id = ?", (tag_id,))
    flat.settle(connection, tagged, ["track_tag"])


def delete_family(connection: sqlite3.Connection, family_id: int) -> None:
    """Forget a family with all its tags."""
    _there(connection, "tag_family", family_id)
    own = "SELECT id FROM tag WHERE family_id = ?"
    for row in connection.execute(own, (family_id,)).fetchall():
        delete_tag(connection, row[0])
    connection.execute("DELETE FROM tag_family WHERE id = ?", (family_id,))


def give(connection: sqlite3.Connection, tag_id: int, track_ids: Sequence[int], given: bool) -> int:
    """Give a tag to tracks, or take it; returns how many were left out because their tags are locked.

    Raises:
        LockedError: if all of them are locked.
    """
    _there(connection, "tag", tag_id)
    open_ids = without_locked(connection, track_ids, "tags")
    if track_ids and not open_ids:
        check_open(connection, track_ids[0], "tags")
    ids = json.dumps(open_ids)
    if given:
        connection.execute(
            "INSERT OR IGNORE INTO track_tag (tag_id, track_id) "
            "SELECT ?, t.id FROM json_each(?) i JOIN track t ON t.id = i.value",
            (tag_id, ids),
        )
    else:
        connection.execute(
            "DELETE FROM track_tag WHERE tag_id = ? AND track_id IN (SELECT value FROM json_each(?))",
            (tag_id, ids),
        )
    flat.settle(connection, open_ids, ["track_tag"])
    return len(track_ids) - len(open_ids)


def count_among(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, int]:
    """How many of some tracks have each tag."""
    rows = connection.execute(
        "SELECT tag_id, count(*) FROM json_each(?) i JOIN track_tag x ON x.track_id = i.value "
        "GROUP BY tag_id",
        (json.dumps(list(track_ids)),),
    )
    return {row[0]: row[1] for row in rows}


def names(connection: sqlite3.Connection) -> list[tuple[int, str]]:
    """Ids and names of all tags, in no order."""
    return [(row[0], row[1]) for row in connection.execute("SELECT id, name FROM tag")]


def name_of(connection: sqlite3.Connection, tag_id: int) -> str:
    """A tag's name.

    Raises:
        NotFoundError: if it is gone.
    """
    return str(
        connection.execute(
            "SELECT name FROM tag WHERE id = ?", (_there(connection, "tag", tag_id),)
        ).fetchone()[0]
    )


def _tagged(connection: sqlite3.Connection, tag_id: int) -> list[int]:
    rows = connection.execute("SELECT track_id FROM track_tag WHERE tag_id = ?", (tag_id,))
    return [row[0] for row in rows]


def _there(connection: sqlite3.Connection, table: str, row_id: int) -> int:
    if not connection.execute(f"SELECT 1 FROM {table} WHERE id = ?", (row_id,)).fetchone():
        raise NotFoundError(f"This {'tag' if table == 'tag' else 'family of tags'} is no longer there.")
    return row_id


def _update(
    connection: sqlite3.Connection,
    table: str,
    row_id: int,
    changes: Mapping[str, str | bool | int | None],
    columns: Sequence[str],
) -> None:
    sets = {name: changes[name] for name in columns if name in changes}
    if "sign" in sets:
        sets["sign"] = _sign(str(sets["sign"] or ""))
    if sets:
        names = ", ".join(f"{name} = ?" for name in sets)
        connection.execute(f"UPDATE {table} SET {names} WHERE id = ?", (*sets.values(), row_id))


def _move(connection: sqlite3.Connection, among: str, values: tuple[int, ...], row_id: int, to: int) -> None:
    table = "tag" if values else "tag_family"
    rows = connection.execute(f"{among} ORDER BY position, id", values).fetchall()
    others = [row["position"] for row in rows if row["id"] != row_id]
    to = max(0, min(to, len(others)))
    if rows[to]["id"] == row_id:
        return
    before = others[to - 1] if to else None
    position = key_between(before, others[to] if to < len(others) else None)
    connection.execute(f"UPDATE {table} SET position = ? WHERE id = ?", (position, row_id))


def _free(connection: sqlite3.Connection, name: str) -> str | None:
    """The first letter of a name that no tag has yet."""
    taken = {row[0] for row in connection.execute("SELECT letter FROM tag WHERE letter IS NOT NULL")}
    return next((c for c in fold(name) if "a" <= c <= "z" and c not in taken), None)


def _family_name(connection: sqlite3.Connection, name: str, but_not: int = 0) -> str:
    name = _checked(name, "family")
    for row in connection.execute("SELECT id, name FROM tag_family"):
        if row["id"] != but_not and fold(row["name"]) == fold(name):
            raise LibraryError(f"There is already a family called “{row['name']}”.")
    return name


def _tag_name(connection: sqlite3.Connection, name: str, tag_id: int) -> str:
    name = _checked(name, "tag")
    same = "SELECT id, name FROM tag WHERE family_id = (SELECT family_id FROM tag WHERE id = ?)"
    for row in connection.execute(same, (tag_id,)):
        if row["id"] != tag_id and fold(row["name"]) == fold(name):
            raise LibraryError(f"There is already a tag called “{row['name']}”: merge both instead.")
    return name


def _checked(name: str, what: str) -> str:
    name = " ".join(name.split())
    if not name:
        raise LibraryError(f"A {what} needs a name.")
    if len(name) > LONGEST_NAME:
        raise LibraryError(f"A name can have {LONGEST_NAME} characters at the most.")
    return name


def _sign(sign: str) -> str:
    return sign.strip()[:LONGEST_SIGN]
