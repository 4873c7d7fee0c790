"""Lists as documents (docs/formats/lists.md): a list or a folder with all that is in it, for copies, for the
deleted ones, and for carrying them elsewhere.
"""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from vinyl.core.errors import VinylError
from vinyl.core.naming import name_key
from vinyl.core.ordering import keys_between
from vinyl.core.rules.notation import rule_from_json
from vinyl.library import crates
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.places import LONGEST_NOTE
from vinyl.library.references import NOTHING, gid_of, id_of, named_in, to_ids
from vinyl.library.rule_lists import put_rule
from vinyl.library.series import leave_out
from vinyl.library.tables import IN_CONDITIONS
from vinyl.library.wanted import WantedEntry, add_entries

FORMAT = "vinyl list"
GID = re.compile(r"[0-9a-f]{32}")
MOST_KEPT = 300
LONGEST_TEXT = 4000
# Folders within one another.
MOST_DEPTH = 40
# What older documents name by a number: kinds of conditions, with the table and the name that it has now.
BY_NUMBER = {"list": ("crate", "list"), "tagged": ("tag", "tag"), "backing": ("backing", "backing")}
LOOKS = ("colour", "sign", "note", "divided_by")


@dataclass
class Made:
    """What became of a document: the list, how many tracks were found, how many are wanted now, and what
    could not be done, in words.
    """

    crate_id: int = 0
    tracks: int = 0
    wanted: int = 0
    problems: list[str] = field(default_factory=list)
    lists: dict[Any, str] = field(default_factory=dict)
    ruled: list[tuple[int, Mapping[str, Any]]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class DeletedList:
    """A list or folder that was deleted: how many lists and places went."""

    id: int
    name: str
    deleted_at: str
    lists: int
    places: int


def document_of(connection: sqlite3.Connection, crate_id: int) -> dict[str, Any]:
    """A list with its places and dividers in order, or its rule; a folder with its lists.

    Raises:
        NotFoundError: if it is gone.
    """
    row = connection.execute("SELECT * FROM crate WHERE id = ?", (crate_id,)).fetchone()
    if row is None:
        raise NotFoundError("This crate is no longer there.")
    found: dict[str, Any] = {"format": FORMAT, "name": row["name"], "gid": row["gid"]}
    found |= {name: row[name] for name in LOOKS if row[name]}
    if row["venue_id"]:
        found["venue"] = gid_of(connection, "venue", row["venue_id"])
        found["names"] = _names(connection, found)
    if row["is_folder"]:
        if row["series"]:
            found["series"] = json.loads(row["series"])
        inner = connection.execute(
            "SELECT id, series_value FROM crate WHERE folder_id = ? ORDER BY position, id", (crate_id,)
        ).fetchall()
        found["lists"] = [
            document_of(connection, each["id"])
            | ({"series_value": each["series_value"]} if each["series_value"] is not None else {})
            for each in inner
        ]
    elif row["rule"]:
        found["rule"] = json.loads(row["rule"])
        found["names"] = _names(connection, found)
    else:
        found["places"] = _places(connection, crate_id)
        if row["repeats"]:
            found["repeats"] = True
    return found


def _names(connection: sqlite3.Connection, document: Any) -> dict[str, str]:
    """What the lists, tags, backings and venues are called that a document names by global ids."""
    found = {}
    for table, gid in named_in(document):
        row = connection.execute(f"SELECT name FROM {table} WHERE gid = ?", (gid,)).fetchone()
        if row:
            found[gid] = row["name"]
    return found


def _places(connection: sqlite3.Connection, crate_id: int) -> list[dict[str, Any]]:
    rows = connection.execute(
        """SELECT 'track' AS kind, p.position, p.id, t.gid, t.path, s.artist, s.title, '' AS came_from,
             '' AS sign, '' AS colour, p.note
           FROM crate_place p JOIN track t ON t.id = p.track_id JOIN shelf s ON s.id = p.track_id
           WHERE p.crate_id = ?1
           UNION ALL SELECT 'wanted', p.position, p.id, '', w.path, w.artist, w.title, w.came_from,
             '', '', p.note
           FROM crate_place p JOIN wanted w ON w.id = p.wanted_id WHERE p.crate_id = ?1
           UNION ALL SELECT 'divider', position, id, '', '', '', name, '', sign, colour, ''
           FROM divider WHERE crate_id = ?1 ORDER BY position, id""",
        (crate_id,),
    )
    kept = {
        "track": ("gid", "path", "artist", "title", "note"),
        "wanted": ("path", "artist", "title", "came_from", "note"),
        "divider": ("title", "sign", "colour"),
    }
    return [
        {"kind": row["kind"]} | {name: row[name] for name in kept[row["kind"]] if row[name]} for row in rows
    ]


def make_of(
    connection: sqlite3.Connection, document: Mapping[str, Any], folder_id: int | None = None, name: str = ""
) -> Made:
    """Make the list or folder that a document holds. Tracks are found by their id, their path, or artist and
    title; those that are not are wanted. A name that is taken gets a number.

    Raises:
        LibraryError: for what is no such document.
    """
    made = Made()
    made.crate_id = _make(connection, document, folder_id, name, made, 0)
    for crate_id, held in made.ruled:
        _give_rule(connection, crate_id, held, made)
    return made


def _make(
    connection: sqlite3.Connection,
    document: Mapping[str, Any],
    folder_id: int | None,
    name: str,
    made: Made,
    depth: int,
) -> int:
    named = name or document.get("name")
    if document.get("format") != FORMAT or not isinstance(named, str):
        raise LibraryError("This is no list that Vinyl wrote: it has no format or no name.")
    if depth > MOST_DEPTH:
        raise LibraryError(f"Folders stand within one another more than {MOST_DEPTH} times.")
    inner = document.get("lists")
    crate_id = crates.make_crate(
        connection, crates.free_name(connection, named), folder_id, isinstance(inner, list)
    )
    for look in LOOKS:
        connection.execute(f"UPDATE crate SET {look} = ? WHERE id = ?", (_text(document, look), crate_id))
    connection.execute(
        "UPDATE crate SET series = ?, series_value = ? WHERE id = ?",
        (_series(document), _text(document, "series_value") or None, crate_id),
    )
    for each in inner if isinstance(inner, list) else ():
        if not isinstance(each, dict):
            raise LibraryError("A list within this folder is not written as Vinyl writes it.")
        _make(connection, each, crate_id, "", made, depth + 1)
    _be_called(connection, crate_id, document, made)
    if document.get("rule"):
        made.ruled.append((crate_id, document))
    repeats = document.get("repeats") is True
    connection.execute("UPDATE crate SET repeats = ? WHERE id = ?", (repeats, crate_id))
    _fill(connection, crate_id, document.get("places", ()), made, repeats)
    return crate_id


def _text(values: Mapping[str, Any], name: str) -> str:
    """A text of a document, without what cannot be shown; empty where there is none."""
    value = values.get(name)
    if not isinstance(value, str):
        return ""
    return "".join(letter for letter in value if letter.isprintable() or letter == "\n")[:LONGEST_TEXT]


def _series(document: Mapping[str, Any]) -> str | None:
    series = document.get("series")
    if not isinstance(series, dict) or not isinstance(series.get("by"), str):
        return None
    without = series.get("without")
    kept = [each for each in without if isinstance(each, str)] if isinstance(without, list) else []
    return json.dumps({"by": series["by"], "without": kept})


def _be_called(
    connection: sqlite3.Connection, crate_id: int, document: Mapping[str, Any], made: Made
) -> None:
    """Give a list the global id that it had, if no other has it now, and the venue that it is for."""
    gid, there = _text(document, "gid"), gid_of(connection, "crate", crate_id)
    if GID.fullmatch(gid) and id_of(connection, "crate", gid) == NOTHING:
        connection.execute("UPDATE crate SET gid = ? WHERE id = ?", (gid, crate_id))
        there = gid
    made.lists |= {name: there for name in (gid, document.get("id")) if isinstance(name, str | int) and name}
    venue = _meant(connection, "venue", _text(document, "venue"), document)
    venue_id = id_of(connection, "venue", venue) if venue else NOTHING
    connection.execute("UPDATE crate SET venue_id = ? WHERE id = ?", (venue_id or None, crate_id))


def _give_rule(
    connection: sqlite3.Connection, crate_id: int, document: Mapping[str, Any], made: Made
) -> None:
    try:
        rule = json.loads(json.dumps(document["rule"]))
        where = _pointed(connection, rule.get("where"), document, made)
        put_rule(connection, crate_id, rule_from_json(to_ids(connection, {**rule, "where": where})))
    except (VinylError, AttributeError, KeyError, TypeError, ValueError, OverflowError) as error:
        made.problems.append(f"“{document['name']}” came without its rule: {error}")


def _pointed(connection: sqlite3.Connection, condition: Any, document: Mapping[str, Any], made: Made) -> Any:
    """A condition of a document by global ids of this library: of lists that came with it, of what is the
    same thing here, or of what has the same name.
    """
    if isinstance(condition, list):
        return [_pointed(connection, each, document, made) for each in condition]
    if not isinstance(condition, dict):
        return condition
    found = {name: _pointed(connection, value, document, made) for name, value in condition.items()}
    kind = condition.get("kind")
    if kind in BY_NUMBER and (number := found.pop(f"{BY_NUMBER[kind][1]}_id", None)) is not None:
        table, name = BY_NUMBER[kind]
        called = _dict(document, "names").get(f"{kind} {number}")
        found[name] = made.lists.get(number) if kind == "list" else None
        found[name] = found[name] or _of_name(connection, table, called)
    for name in IN_CONDITIONS.keys() & found.keys():
        gid = found[name]
        if gid is not None:
            found[name] = made.lists.get(gid) or _meant(connection, IN_CONDITIONS[name], gid, document)
            if not found[name]:
                called = _dict(document, "names").get(gid, "")
                raise LibraryError(f"it asks for the {IN_CONDITIONS[name]} “{called}”, which is not here.")
    return found


def _meant(connection: sqlite3.Connection, table: str, gid: str, document: Mapping[str, Any]) -> str:
    """The global id that something has here which a document names by one: the same, or what has its name."""
    if not gid or id_of(connection, table, gid) != NOTHING:
        return gid
    return _of_name(connection, table, _dict(document, "names").get(gid))


def _of_name(connection: sqlite3.Connection, table: str, name: Any) -> str:
    """The global id of what is called so here; empty where nothing is."""
    if not isinstance(name, str):
        return ""
    row = connection.execute(
        f"SELECT gid FROM {table} WHERE fold(name) = fold(?) ORDER BY name <> ?, id LIMIT 1", (name, name)
    ).fetchone()
    return str(row["gid"]) if row else ""


def _dict(document: Mapping[str, Any], name: str) -> Mapping[Any, Any]:
    value = document.get(name)
    return value if isinstance(value, dict) else {}


def _fill(connection: sqlite3.Connection, crate_id: int, listed: Any, made: Made, repeats: bool) -> None:
    if not isinstance(listed, (list, tuple)):
        raise LibraryError("The places of this list are not written as Vinyl writes them.")
    there: set[int] = set()
    keys = keys_between(None, None, len(listed))
    for place, key in zip(listed, keys, strict=True):
        if not isinstance(place, dict):
            raise LibraryError("A place in this list is not written as Vinyl writes it.")
        if place.get("kind") == "divider":
            connection.execute(
                "INSERT INTO divider (crate_id, position, name, sign, colour) VALUES (?, ?, ?, ?, ?)",
                (crate_id, key, *(_text(place, name) for name in ("title", "sign", "colour"))),
            )
            continue
        track_id = _find(connection, place) if place.get("kind") == "track" else None
        if track_id in there and not repeats:
            continue
        wanted_id = None
        if track_id is None:
            wanted_id = add_entries(connection, [_wanted(place)])[0]
            made.wanted += 1
        else:
            there.add(track_id)
            made.tracks += 1
        connection.execute(
            "INSERT INTO crate_place (crate_id, track_id, wanted_id, position, note) VALUES (?, ?, ?, ?, ?)",
            (crate_id, track_id, wanted_id, key, _text(place, "note")[:LONGEST_NOTE]),
        )


def _wanted(place: Mapping[str, Any]) -> WantedEntry:
    said = {name: _text(place, name) for name in ("artist", "title", "path")}
    return WantedEntry(**said, came_from=_text(place, "came_from") or "a list")


def _find(connection: sqlite3.Connection, place: Mapping[str, Any]) -> int | None:
    for column in ("gid", "path"):
        value = _text(place, column)
        row = connection.execute(
            f"SELECT id FROM track WHERE {column} = ? AND id IN (SELECT id FROM shelf)", (value,)
        ).fetchone()
        if row:
            return int(row[0])
    title = _text(place, "title")
    if not title:
        return None
    rows = connection.execute("SELECT id, artist, title FROM shelf WHERE title = ? COLLATE NOCASE", (title,))
    wanted = name_key(_text(place, "artist"), title)
    found = [row["id"] for row in rows if name_key(row["artist"], row["title"]) == wanted]
    return int(found[0]) if len(found) == 1 else None


def delete_list(connection: sqlite3.Connection, crate_id: int) -> None:
    """Delete a list, or a folder with all that is in it, noted so that it can be brought back at any time.
    Tracks stay in the library.
    """
    document = document_of(connection, crate_id)
    lists, places = _size(document)
    connection.execute(
        "INSERT INTO deleted_list (name, deleted_at, lists, places, document) VALUES (?, ?, ?, ?, ?)",
        (document["name"], now(), lists, places, json.dumps(document)),
    )
    connection.execute(
        "DELETE FROM deleted_list WHERE id NOT IN (SELECT id FROM deleted_list ORDER BY id DESC LIMIT ?)",
        (MOST_KEPT,),
    )
    leave_out(connection, crate_id)
    crates.delete_crate(connection, crate_id)


def _size(document: Mapping[str, Any]) -> tuple[int, int]:
    inner = [_size(each) for each in document.get("lists", ())]
    own = 0 if "lists" in document else 1
    places = sum(place["kind"] != "divider" for place in document.get("places", ()))
    return own + sum(lists for lists, _ in inner), places + sum(held for _, held in inner)


def list_deleted(connection: sqlite3.Connection) -> list[DeletedList]:
    """The lists and folders that were deleted, the last first."""
    rows = connection.execute(
        "SELECT id, name, deleted_at, lists, places FROM deleted_list ORDER BY id DESC LIMIT ?", (MOST_KEPT,)
    )
    return [DeletedList(**dict(row)) for row in rows]


def bring_back(connection: sqlite3.Connection, deleted_id: int) -> Made:
    """Make a deleted list again, at the end of all.

    Raises:
        NotFoundError: if it was brought back already.
    """
    row = connection.execute("SELECT document FROM deleted_list WHERE id = ?", (deleted_id,)).fetchone()
    if row is None:
        raise NotFoundError("This list was brought back already.")
    made = make_of(connection, json.loads(row[0]))
    connection.execute("DELETE FROM deleted_list WHERE id = ?", (deleted_id,))
    return made
