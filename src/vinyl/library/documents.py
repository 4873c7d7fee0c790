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
from vinyl.library import flat, numbered
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError
from vinyl.library.tables import IN_DOCUMENTS, OF_TRACKS, TABLES

FORMAT, VERSION = "vinyl collection", 2
# Documents up to this version name things in rules by the ids of their library.
BY_NUMBER = 1
SUFFIX = ".vinyl.json"
BATCH = 500
# Of chosen lists only what belongs to them.
OF_LISTS = frozenset({"crate", "divider", "crate_place", "wanted"})
# Keys of tables whose rows have no numbers, to have them in one order.
# What is put in its place once all else is there.
TOLD_LATER = {"value_time": "told_time"}
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
    for table in TABLES:
        if table.name == "track":
            _write_array(out, table.document, _tracks(connection, ids, tell))
        elif table in IN_DOCUMENTS and lists is None:
            _write_array(out, table.document, _rows(connection, table.name))
        elif table in IN_DOCUMENTS and table.name in OF_LISTS:
            _write_array(out, table.document, _of_lists(connection, table.name, crates))
        elif table in IN_DOCUMENTS and table.with_lists:
            _write_array(out, table.document, _rows(connection, table.name))
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
    # The first column is the key, or the first part of it.
    for row in connection.execute(f"SELECT * FROM {table} ORDER BY {ORDERS.get(table, '1')}"):
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
        for table in OF_TRACKS:
            found = parts.setdefault(table.document, {})
            order = "rowid" if table.identified else "1, 2"
            for row in connection.execute(
                f"SELECT * FROM {table.name} WHERE track_id IN (SELECT value FROM json_each(?)) "
                f"ORDER BY {order}",
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
    for each in IN_DOCUMENTS:
        if each.ready:
            connection.execute(f"DELETE FROM {each.name}")
    columns = {table.name: _columns(connection, table.name) for table in TABLES if table.document}
    columns |= {later: columns[name] for name, later in TOLD_LATER.items()}
    count, rows = 0, iter(records)
    connection.execute("CREATE TEMP TABLE told_time AS SELECT * FROM value_time WHERE false")
    try:
        _, head = next(rows)
        while part := list(islice(rows, BATCH)):
            ids = [_restore_one(connection, name, record, columns, mappings) for name, record in part]
            tracks = [track_id for track_id in ids if track_id is not None]
            count += len(tracks)
            tell(count)
        if head["version"] <= BY_NUMBER:
            numbered.bring_up(connection)
        _put_times(connection)
        every = [row[0] for row in connection.execute("SELECT id FROM track ORDER BY id")]
        flat.come_and_go(connection, every)
        flat.settle(connection, every)
    except (sqlite3.IntegrityError, KeyError, TypeError, AttributeError, ValueError) as error:
        raise LibraryError(f"The document is damaged: {error}. Nothing was taken in.") from error
    finally:
        connection.execute("DROP TABLE temp.told_time")
    return count


def _put_times(connection: sqlite3.Connection) -> None:
    """When things were changed is what the document tells, if it does, not that they were made just now."""
    if connection.execute("SELECT 1 FROM temp.told_time LIMIT 1").fetchone():
        connection.execute("DELETE FROM value_time")
        connection.execute("INSERT INTO value_time SELECT * FROM temp.told_time")


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
        parts = {table.document for table in OF_TRACKS}
        track = {key: value for key, value in record.items() if key not in parts}
        _insert(connection, "track", track | {"path": _mapped(track["path"], mappings)}, columns)
        for table in OF_TRACKS:
            for each in record.get(table.document, ()):
                _insert(connection, table.name, {**each, "track_id": record["id"]}, columns)
        return int(record["id"])
    found = next((table for table in IN_DOCUMENTS if table.document == name), None)
    if found is not None:
        _insert(connection, TOLD_LATER.get(found.name, found.name), record, columns)
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
