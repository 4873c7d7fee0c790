"""Global ids within JSON and other columns (vinyl.library.tables.Reference): between them and the ids of this
library, which of them lead nowhere, and pointing them elsewhere when two things become one.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from vinyl.library.tables import FAMILY, IN_CONDITIONS, TABLES, Reference

# Under which name conditions have an id of this library, and under which the global one.
IDS: Mapping[str, str] = {f"{name}_id": name for name in IN_CONDITIONS}
# What stands for something that is not here: no row has this id.
NOTHING = 0


def gid_of(connection: sqlite3.Connection, table: str, row_id: int) -> str:
    """The global id of a row; empty for one that is gone."""
    row = connection.execute(f"SELECT gid FROM {table} WHERE id = ?", (row_id,)).fetchone()
    return str(row[0]) if row else ""


def id_of(connection: sqlite3.Connection, table: str, gid: str) -> int:
    """The id that a row has here; NOTHING for one that is not."""
    row = connection.execute(f"SELECT id FROM {table} WHERE gid = ?", (gid,)).fetchone()
    return int(row[0]) if row else NOTHING


def to_gids(connection: sqlite3.Connection, condition: Any) -> Any:
    """A condition as JSON with global ids in place of ids."""

    def renamed(name: str, value: Any) -> tuple[str, Any]:
        if name not in IDS:
            return name, value
        there = IDS[name]
        return there, None if value is None else gid_of(connection, IN_CONDITIONS[there], value)

    return _mapped(condition, renamed)


def to_ids(connection: sqlite3.Connection, condition: Any) -> Any:
    """A condition as JSON with ids of this library in place of global ones."""

    def renamed(name: str, value: Any) -> tuple[str, Any]:
        if name not in IN_CONDITIONS:
            return name, value
        return f"{name}_id", None if value is None else id_of(connection, IN_CONDITIONS[name], str(value))

    return _mapped(condition, renamed)


def _mapped(tree: Any, renamed: Callable[[str, Any], tuple[str, Any]]) -> Any:
    if isinstance(tree, Mapping):
        return dict(
            renamed(str(name), _mapped(value, renamed) if isinstance(value, Mapping | list) else value)
            for name, value in tree.items()
        )
    return [_mapped(each, renamed) for each in tree] if isinstance(tree, list) else tree


def named_in(tree: Any) -> Iterator[tuple[str, str]]:
    """What a condition as JSON asks for by global ids: tables and ids."""
    yield from _found(tree, IN_CONDITIONS)


def _found(tree: Any, names: Mapping[str, str]) -> Iterator[tuple[str, str]]:
    if isinstance(tree, list):
        for each in tree:
            yield from _found(each, names)
    elif isinstance(tree, Mapping):
        for name, value in tree.items():
            if name in names and isinstance(value, str):
                yield names[name], value
            elif name in names and isinstance(value, list) and all(isinstance(each, str) for each in value):
                yield from ((names[name], each) for each in value)
            else:
                yield from _found(value, names)


def leading_nowhere(connection: sqlite3.Connection) -> list[str]:
    """References to what is neither here nor known to have been deleted, in words."""
    return [
        f"{table} {row_key}: {column} names {gid} of {to}"
        for table, reference in _references()
        for row_key, column, to, gid in _held(connection, table, reference)
        if not _is_known(connection, to, gid)
    ]


def _references() -> Iterator[tuple[str, Reference]]:
    return ((table.name, reference) for table in TABLES for reference in table.references)


def _held(
    connection: sqlite3.Connection, table: str, reference: Reference
) -> Iterator[tuple[int, str, str, str]]:
    column = reference.column
    rows = connection.execute(f"SELECT rowid, {column} FROM {table} WHERE coalesce({column}, '') <> ''")
    for row_id, text in rows.fetchall():
        for to, gid in _in_text(text, reference):
            if gid:
                yield row_id, column, to, gid


def _in_text(text: str, reference: Reference) -> Iterator[tuple[str, str]]:
    if reference.to:
        gid = text.removeprefix(reference.prefix)
        if gid != text:
            yield reference.to, gid
        return
    yield from (
        (to, gid.removeprefix(reference.prefix))
        for to, gid in _found(json.loads(text), reference.names)
        if gid.startswith(reference.prefix)
    )


def _is_known(connection: sqlite3.Connection, table: str, gid: str) -> bool:
    row = connection.execute(
        f"SELECT EXISTS (SELECT 1 FROM {table} WHERE gid = ?1) "
        "OR EXISTS (SELECT 1 FROM value_time WHERE gid = ?1 AND name = 'deleted')",
        (gid,),
    ).fetchone()
    return bool(row[0])


def point_elsewhere(connection: sqlite3.Connection, table: str, gid: str, to: str) -> None:
    """Let all that names one row of a table name another: a global id stands nowhere but for itself."""
    for holder, reference in _references():
        if table in (reference.to, *reference.names.values()):
            connection.execute(
                f"UPDATE {holder} SET {reference.column} = replace({reference.column}, ?1, ?2) "
                f"WHERE instr({reference.column}, ?1)",
                (gid, to),
            )


def family_by_id(text: str) -> str:
    """SQL for a text that may name a tag family: with its id of this library in place of the global one."""
    start = len(FAMILY) + 1
    return (
        f"iif(substr({text}, 1, {len(FAMILY)}) = '{FAMILY}', '{FAMILY}' || coalesce("
        f"(SELECT f.id FROM tag_family f WHERE f.gid = substr({text}, {start})), {NOTHING}), {text})"
    )


def family_by_gid(connection: sqlite3.Connection, text: str) -> str:
    """A text such as "tags 2" with the global id of the family; any other as it is."""
    number = text.removeprefix(FAMILY)
    if number == text or not number.isdecimal():
        return text
    return FAMILY + gid_of(connection, "tag_family", int(number))
