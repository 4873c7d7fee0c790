"""Undo and redo across restarts: triggers record, for each change, the SQL that takes it back.

The way is SQLite's own documented one, with the log kept in the file and grouped into named steps.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from vinyl.library.errors import LibraryError

UNDOABLE = (
    "hand_grid",
    "hand_rating",
    "cue",
    "crate",
    "crate_track",
    "track_lock",
    "route",
    "cue_template",
    "cue_colour",
    "choice",
)
KEPT_STEPS = 500

SCHEMA = """
CREATE TABLE IF NOT EXISTS undo_step (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  stack TEXT NOT NULL CHECK (stack IN ('undo', 'redo'))
) STRICT;
CREATE TABLE IF NOT EXISTS undo_entry (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES undo_step (id) ON DELETE CASCADE,
  sql TEXT NOT NULL
) STRICT;
CREATE INDEX IF NOT EXISTS undo_entry_step ON undo_entry (step_id);
CREATE TABLE IF NOT EXISTS undo_recording (only_row INTEGER PRIMARY KEY CHECK (only_row = 1), step_id INTEGER) STRICT;
INSERT OR IGNORE INTO undo_recording VALUES (1, NULL);
"""


@dataclass(frozen=True, slots=True)
class UndoState:
    """Names of the step that undo and redo would take next; None where there is none."""

    undo: str | None
    redo: str | None


def install(connection: sqlite3.Connection) -> None:
    """Create the log, and anew the triggers of every undoable table, as its columns now are."""
    connection.executescript(SCHEMA)
    connection.execute("UPDATE undo_recording SET step_id = NULL")
    for table in UNDOABLE:
        for statement in _triggers(connection, table):
            connection.execute(statement)


def begin_step(connection: sqlite3.Connection, name: str, stack: str = "undo") -> None:
    """Start recording; what could be redone is forgotten when something new is done."""
    if stack == "undo":
        connection.execute("DELETE FROM undo_step WHERE stack = 'redo'")
    _record(connection, name, stack)


def end_step(connection: sqlite3.Connection) -> None:
    """Stop recording; a step that changed nothing is dropped, and so are the oldest ones."""
    connection.execute("UPDATE undo_recording SET step_id = NULL")
    connection.execute("DELETE FROM undo_step WHERE id NOT IN (SELECT step_id FROM undo_entry)")
    connection.execute(
        "DELETE FROM undo_step WHERE stack = 'undo' AND id <= "
        "(SELECT id FROM undo_step WHERE stack = 'undo' ORDER BY id DESC LIMIT 1 OFFSET ?)",
        (KEPT_STEPS,),
    )


def state(connection: sqlite3.Connection) -> UndoState:
    """What could be undone and redone now."""
    return UndoState(*((_top(connection, stack) or (None, None))[1] for stack in ("undo", "redo")))


def step_back(connection: sqlite3.Connection, stack: str) -> str:
    """Take back the newest step of a stack ("undo" or "redo") and record the way forth on the other.

    Raises:
        LibraryError: if there is nothing to take back.
    """
    top = _top(connection, stack)
    if top is None:
        raise LibraryError(f"There is nothing to {stack}.")
    step_id, name = top
    entries = connection.execute(
        "SELECT sql FROM undo_entry WHERE step_id = ? ORDER BY id DESC", (step_id,)
    ).fetchall()
    connection.execute("PRAGMA defer_foreign_keys = ON")
    _record(connection, name, "redo" if stack == "undo" else "undo")
    for entry in entries:
        connection.execute(entry["sql"])
    connection.execute("DELETE FROM undo_step WHERE id = ?", (step_id,))
    end_step(connection)
    return name


def _record(connection: sqlite3.Connection, name: str, stack: str) -> None:
    cursor = connection.execute("INSERT INTO undo_step (name, stack) VALUES (?, ?)", (name, stack))
    connection.execute("UPDATE undo_recording SET step_id = ?", (cursor.lastrowid,))


def _top(connection: sqlite3.Connection, stack: str) -> tuple[int, str] | None:
    row = connection.execute(
        "SELECT id, name FROM undo_step WHERE stack = ? ORDER BY id DESC LIMIT 1", (stack,)
    ).fetchone()
    return (row["id"], row["name"]) if row else None


def _triggers(connection: sqlite3.Connection, table: str) -> list[str]:
    info = connection.execute("SELECT name, pk FROM pragma_table_info(?)", (table,)).fetchall()
    columns = [row["name"] for row in info]
    keys = [row["name"] for row in info if row["pk"]]
    where_new = _joined(keys, "NEW", " AND ")
    names = ", ".join(columns)
    values = " || ', ' || ".join(f"quote(OLD.{column})" for column in columns)
    inverse = {
        "INSERT": f"'DELETE FROM {table} WHERE ' || {where_new}",
        "UPDATE": f"'UPDATE {table} SET ' || {_joined(columns, 'OLD', ', ')} || ' WHERE ' || {where_new}",
        "DELETE": f"'INSERT INTO {table} ({names}) VALUES (' || {values} || ')'",
    }
    differs = " OR ".join(f"OLD.{column} IS NOT NEW.{column}" for column in columns)
    only = {"UPDATE": f" AND ({differs})"}
    drops = [f"DROP TRIGGER IF EXISTS undo_{table}_{event.lower()}" for event in inverse]
    return drops + [
        f"CREATE TRIGGER undo_{table}_{event.lower()} {'BEFORE' if event == 'DELETE' else 'AFTER'} {event} ON {table} "
        f"WHEN (SELECT step_id FROM undo_recording) IS NOT NULL{only.get(event, '')} BEGIN "
        f"INSERT INTO undo_entry (step_id, sql) VALUES ((SELECT step_id FROM undo_recording), {sql}); END"
        for event, sql in inverse.items()
    ]


def _joined(columns: list[str], row: str, between: str) -> str:
    """An SQL expression that spells out ``a=1 AND b='x'`` for the values of a row."""
    return f" || '{between}' || ".join(f"'{column}=' || quote({row}.{column})" for column in columns)
