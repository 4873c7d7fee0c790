"""When each value of the objects that people make was last changed, by global id, for bringing two computers
together.
"""

from __future__ import annotations

import sqlite3

# Tables whose rows have a ``gid``, and columns that are no values of theirs.
OBJECTS = (
    "track",
    "cue",
    "route",
    "crate",
    "wanted",
    "crate_place",
    "divider",
    "cue_template",
    "tag_family",
    "tag",
    "backing",
    "play",
    "gig",
    "venue",
    "recurring",
)
NO_VALUES = frozenset({"id", "gid"})
NOW = "strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now')"
# Facts of a file are found anew on each computer; only that a track is there, and not, is noted.
WITHOUT_VALUES = frozenset({"track"})
MADE, DELETED = "made", "deleted"


def install(connection: sqlite3.Connection) -> None:
    """Make anew the triggers that note changes, as the tables' columns now are."""
    for table in OBJECTS:
        for event in ("insert", "delete", "update"):
            connection.execute(f"DROP TRIGGER IF EXISTS time_{table}_{event}")
        connection.execute(_note(table, "insert", "NEW", f"SELECT '{MADE}' AS name"))
        connection.execute(_note(table, "delete", "OLD", f"SELECT '{DELETED}' AS name"))
        columns = [
            row["name"]
            for row in connection.execute("SELECT name FROM pragma_table_info(?)", (table,))
            if row["name"] not in NO_VALUES
        ]
        changed = " UNION ALL ".join(f"SELECT '{c}' AS name WHERE OLD.{c} IS NOT NEW.{c}" for c in columns)
        if table not in WITHOUT_VALUES:
            connection.execute(_note(table, "update", "NEW", changed))


def last_change(connection: sqlite3.Connection, gid: str) -> dict[str, str]:
    """The time of last change of each value of an object, by column name; ``made`` and ``deleted`` for the
    whole.
    """
    rows = connection.execute("SELECT name, changed_at FROM value_time WHERE gid = ?", (gid,))
    return {row["name"]: row["changed_at"] for row in rows}


def _note(table: str, event: str, row: str, names: str) -> str:
    # An upsert, for OR REPLACE within a trigger gives way to how the outer statement meets conflicts.
    return (
        f"CREATE TRIGGER time_{table}_{event} AFTER {event.upper()} ON {table} BEGIN "
        f"INSERT INTO value_time (gid, name, changed_at) SELECT {row}.gid, name, {NOW} FROM ({names}) WHERE "
        f"true "
        "ON CONFLICT (gid, name) DO UPDATE SET changed_at = excluded.changed_at; END"
    )
