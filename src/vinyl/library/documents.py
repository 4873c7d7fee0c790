"""The library as Vinyl's own document (docs/formats/collection.md): everything of it, or some of its lists.
It is JSON of which each record stands on a line of its own.
"""

from __future__ import annotations

import base64
import json
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from itertools import islice
from typing import IO, Any

from vinyl.core.foreign_paths import PathMapping
from vinyl.library import flat
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError

FORMAT, VERSION = "vinyl collection", 1
SUFFIX = ".vinyl.json"
BATCH = 500
# What a track has, and the tables that have it.
TRACK_PARTS: Mapping[str, str] = {
    "values": "track_value",
    "analysis": "track_analysis",
    "likeness": "track_likeness",
    "locks": "track_lock",
    "replaced": "track_replaced",
    "copies": "track_copy",
    "cues": "cue",
    "routes": "route",
    "tags": "track_tag",
    "backing": "track_backing",
    "off_shelf": "off_shelf",
}
# What the document has before its tracks, and after them. Of chosen lists only what BESIDE_LISTS names.
BEFORE: Mapping[str, str] = {
    "venues": "venue", "recurring": "recurring", "families": "tag_family", "tags": "tag",
    "genre_words": "genre_word", "backings": "backing", "templates": "cue_template",
    "cue_colours": "cue_colour", "track_colours": "track_colour", "choices": "choice",
}  # fmt: skip
AFTER: Mapping[str, str] = {
    "wanted": "wanted",
    "lists": "crate",
    "dividers": "divider",
    "places": "crate_place",
    "gigs": "gig",
    "plays": "play",
    "plays_told": "play_told",
    "deleted_lists": "deleted_list",
    "destinations": "destination",
    "times": "value_time",
}
BESIDE_LISTS = frozenset({"families", "tags", "backings", "cue_colours", "track_colours", "venues"})
# Tables of which a new library has some already.
MADE_WITH_IT = ("tag_family", "cue_template", "cue_colour", "track_colour", "value_time")
ORDERS = {"crate_place": "crate_id, position, id", "value_time": "gid, name"}
NOT_EMPTY = (
    "A document is restored into an empty library only, and this one has tracks, lists or nights. Start "
    "Vinyl with another --home for it, or look at it here: differences are reviewed then."
)


def write_document(
    connection: sqlite3.Connection,
    out: IO[str],
    lists: Sequence[int] | None = None,
    tell: Callable[[int, int], None] = lambda done, total: None,
) -> int:
    """Write the library, or some lists with their tracks and the folders that they stand in; returns how many
    tracks.

    Raises:
        OSError: if the disk does not do it.
    """
    crates, ids = _chosen(connection, lists)
    head = {"format": FORMAT, "version": VERSION, "made_at": now(), "whole": lists is None}
    out.write(json.dumps(head, ensure_ascii=False)[:-1])
    for name, table in BEFORE.items():
        if lists is None or name in BESIDE_LISTS:
            _write_array(out, name, _rows(connection, table))
    _write_array(out, "tracks", _tracks(connection, ids, tell))
    for name, table in AFTER.items():
        if lists is None:
            _write_array(out, name, _rows(connection, table))
        elif name in ("lists", "dividers", "places", "wanted"):
            _write_array(out, name, _of_lists(connection, table, crates))
    out.write("\n}\n")
    return len(ids)


def _chosen(connection: sqlite3.Connection, lists: Sequence[int] | None) -> tuple[str, list[int]]:
    """Ids of lists and their folders as JSON, and of the tracks that go."""
    if lists is None:
        return "[]", [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
    rows = connection.execute(
        """WITH RECURSIVE up (id) AS (SELECT value FROM json_each(?) UNION
             SELECT c.folder_id FROM crate c JOIN up ON c.id = up.id WHERE c.folder_id IS NOT NULL)
           SELECT id FROM up""",
        (json.dumps(list(lists)),),
    )
    crates = json.dumps([row[0] for row in rows])
    tracks = connection.execute(
        "SELECT DISTINCT track_id FROM crate_place WHERE track_id IS NOT NULL "
        "AND crate_id IN (SELECT value FROM json_each(?)) ORDER BY track_id",
        (crates,),
    )
    return crates, [row[0] for row in tracks]


def _write_array(out: IO[str], name: str, rows: Iterable[Mapping[str, Any]]) -> None:
    out.write(f',\n"{name}": [')
    between = "\n"
    for row in rows:
        out.write(between + json.dumps(row, ensure_ascii=False))
        between = ",\n"
    out.write("\n]")


def _rows(connection: sqlite3.Connection, table: str) -> Iterator[dict[str, Any]]:
    order = ORDERS.get(table, "rowid")
    if table in ("choice", "play_told", "genre_word", "cue_colour", "track_colour"):
        order = "1"
    for row in connection.execute(f"SELECT * FROM {table} ORDER BY {order}"):
        yield _plain(row)


def _of_lists(connection: sqlite3.Connection, table: str, crates: str) -> Iterator[dict[str, Any]]:
    among = "(SELECT value FROM json_each(?))"
    where = {
        "crate": f"id IN {among}",
        "wanted": f"id IN (SELECT wanted_id FROM crate_place WHERE crate_id IN {among})",
    }.get(table, f"crate_id IN {among}")
    for row in connection.execute(f"SELECT * FROM {table} WHERE {where} ORDER BY rowid", (crates,)):
        yield _plain(row)


def _plain(row: sqlite3.Row) -> dict[str, Any]:
    """A row without what is not known; bytes as base64."""
    return {
        name: {"base64": base64.b64encode(value).decode()} if isinstance(value, bytes) else value
        for name, value in dict(row).items()
        if value is not None
    }


def _tracks(
    connection: sqlite3.Connection, ids: Sequence[int], tell: Callable[[int, int], None]
) -> Iterator[dict[str, Any]]:
    for start in range(0, len(ids), BATCH):
        tell(start, len(ids))
        some = json.dumps(ids[start : start + BATCH])
        parts: dict[str, dict[int, list[dict[str, Any]]]] = {}
        for name, table in TRACK_PARTS.items():
            found = parts.setdefault(name, {})
            order = "rowid" if table in ("cue", "route") else "1, 2"
            for row in connection.execute(
                f"SELECT * FROM {table} WHERE track_id IN (SELECT value FROM json_each(?)) ORDER BY {order}",
                (some,),
            ):
                plain = _plain(row)
                found.setdefault(plain.pop("track_id"), []).append(plain)
        for row in connection.execute(
            "SELECT * FROM track WHERE id IN (SELECT value FROM json_each(?)) ORDER BY id", (some,)
        ):
            track = _plain(row)
            yield track | {name: held[row["id"]] for name, held in parts.items() if row["id"] in held}


def read_document(lines: Iterable[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """The records of a document, each with the name of what it is in; the head first, as "head".

    Raises:
        LibraryError: if it is no such document, or a newer one.
    """
    name = ""
    for number, line in enumerate(lines):
        text = line.strip().removesuffix(",")
        try:
            if number == 0:
                head = json.loads(text + "}")
                _check_head(head)
                yield "head", head
            elif text.endswith("[") and text.startswith('"'):
                name = json.loads(text[: text.rindex('"') + 1])
            elif text not in ("", "]", "}"):
                yield name, json.loads(text)
        except (ValueError, RecursionError) as error:
            if number == 0:
                raise LibraryError("This is no collection that Vinyl wrote.") from error
            raise LibraryError(f"The document is damaged in line {number + 1}: {error}.") from error
    if not name:
        raise LibraryError("This is no collection that Vinyl wrote.")


def _check_head(head: Any) -> None:
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise LibraryError("This is no collection that Vinyl wrote.")
    if not isinstance(head.get("version"), int) or head["version"] > VERSION:
        raise LibraryError(
            f"This collection is of version {head.get('version')}; this Vinyl reads up to {VERSION}."
        )


def restore(
    connection: sqlite3.Connection,
    records: Iterable[tuple[str, Mapping[str, Any]]],
    mappings: Sequence[PathMapping] = (),
    tell: Callable[[int], None] = lambda done: None,
) -> int:
    """Make an empty library what a document says; returns how many tracks it has. The caller's transaction
    is rolled back if it cannot be.

    Raises:
        LibraryError: if the library is not empty, or the document is damaged.
    """
    for table in ("track", "crate", "gig"):
        if connection.execute(f"SELECT 1 FROM {table} LIMIT 1").fetchone():
            raise LibraryError(NOT_EMPTY)
    connection.execute("PRAGMA defer_foreign_keys = ON")
    for table in MADE_WITH_IT:
        connection.execute(f"DELETE FROM {table}")
    columns = {table: _columns(connection, table) for table in _all_tables()}
    count, rows, timed = 0, iter(records), False
    try:
        while part := list(islice(rows, BATCH)):
            if not timed and part[-1][0] == "times":
                timed = bool(connection.execute("DELETE FROM value_time"))
            ids = [_restore_one(connection, name, record, columns, mappings) for name, record in part]
            tracks = [track_id for track_id in ids if track_id is not None]
            count += len(tracks)
            tell(count)
        every = [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
        flat.come_and_go(connection, every)
        flat.settle(connection, every)
    except (sqlite3.IntegrityError, KeyError, TypeError, AttributeError, ValueError) as error:
        raise LibraryError(f"The document is damaged: {error}. Nothing was taken in.") from error
    return count


def _all_tables() -> set[str]:
    return {*BEFORE.values(), *AFTER.values(), *TRACK_PARTS.values(), "track"}


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    return [row["name"] for row in connection.execute("SELECT name FROM pragma_table_info(?)", (table,))]


def _restore_one(
    connection: sqlite3.Connection,
    name: str,
    record: Mapping[str, Any],
    columns: Mapping[str, Sequence[str]],
    mappings: Sequence[PathMapping],
) -> int | None:
    """Insert a record; returns the id if it is a track."""
    if name == "tracks":
        track = {key: value for key, value in record.items() if key not in TRACK_PARTS}
        _insert(connection, "track", track | {"path": _mapped(track["path"], mappings)}, columns)
        for part, table in TRACK_PARTS.items():
            for each in record.get(part, ()):
                _insert(connection, table, {**each, "track_id": record["id"]}, columns)
        return int(record["id"])
    found = BEFORE.get(name) or AFTER.get(name)
    if found is not None:
        _insert(connection, found, record, columns)
    return None


def _mapped(path: str, mappings: Sequence[PathMapping]) -> str:
    for mapping in mappings:
        there = mapping.there.rstrip("/")
        if path.startswith(f"{there}/"):
            return mapping.here.rstrip("/") + path[len(there) :]
    return path


def _insert(
    connection: sqlite3.Connection,
    table: str,
    record: Mapping[str, Any],
    columns: Mapping[str, Sequence[str]],
) -> None:
    names = columns[table]
    values = [_value(record.get(name)) for name in names]
    connection.execute(
        f"INSERT OR REPLACE INTO {table} ({', '.join(names)}) VALUES ({', '.join('?' * len(names))})", values
    )


def _value(value: Any) -> Any:
    return base64.b64decode(value["base64"]) if isinstance(value, dict) else value
