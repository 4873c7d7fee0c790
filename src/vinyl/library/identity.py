"""When each value of the objects that people make was last changed, by global id, for bringing two computers
together.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from vinyl.library.tables import IDENTIFIED, Table

# Columns that are no values of an object.
NO_VALUES = frozenset({"id", "gid"})
NOW = "strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now')"
MADE, DELETED = "made", "deleted"


def triggers(connection: sqlite3.Connection) -> dict[str, str]:
    """The triggers that note changes, by name, as the tables' columns now are."""
    return dict(each for table in IDENTIFIED for each in _of_table(connection, table))


def _of_table(connection: sqlite3.Connection, table: Table) -> Iterator[tuple[str, str]]:
    yield _trigger(table.name, "insert", f"{_forget('NEW')} {_note('NEW', MADE)}")
    gone = "" if table.forgotten else _note("OLD", DELETED)
    yield _trigger(table.name, "delete", f"{_forget('OLD')} {gone}")
    if table.only_made:
        return
    columns = [
        row["name"]
        for row in connection.execute("SELECT name FROM pragma_table_info(?)", (table.name,))
        if row["name"] not in NO_VALUES
    ]
    changed = " UNION ALL ".join(f"SELECT '{c}' AS name WHERE OLD.{c} IS NOT NEW.{c}" for c in columns)
    # An upsert, for OR REPLACE within a trigger gives way to how the outer statement meets conflicts.
    yield _trigger(
        table.name,
        "update",
        f"INSERT INTO value_time (gid, name, changed_at) SELECT NEW.gid, name, {NOW} FROM ({changed}) "
        "WHERE true ON CONFLICT (gid, name) DO UPDATE SET changed_at = excluded.changed_at;",
    )


def _trigger(table: str, event: str, does: str) -> tuple[str, str]:
    """A trigger with its name."""
    name = f"time_{table}_{event}"
    return name, f"CREATE TRIGGER {name} AFTER {event.upper()} ON {table} BEGIN {does} END"


def _forget(row: str) -> str:
    """Of what is gone it is enough that it is, and of what is there again that it was made."""
    return f"DELETE FROM value_time WHERE gid = {row}.gid;"


def _note(row: str, name: str) -> str:
    return f"INSERT INTO value_time (gid, name, changed_at) VALUES ({row}.gid, '{name}', {NOW});"


def last_change(connection: sqlite3.Connection, gid: str) -> dict[str, str]:
    """The time of last change of each value of an object, by column name; ``made`` and ``deleted`` for the
    whole.
    """
    rows = connection.execute("SELECT name, changed_at FROM value_time WHERE gid = ?", (gid,))
    return {row["name"]: row["changed_at"] for row in rows}
