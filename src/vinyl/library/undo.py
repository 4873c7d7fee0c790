"""Undo and redo across restarts: triggers record, for each change of a row, the row as it was before.

The way is SQLite's own documented one, with the log kept in the file and grouped into named steps. A step is
taken back with a few statements a table, however many rows it changed: rows that it made go, all others get
what they were.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from itertools import groupby

from vinyl.library import flat
from vinyl.library.errors import LibraryError
from vinyl.library.values import FIELDS, RULES

UNDOABLE = (
    "track_value", "track_replaced", "track_lock", "cue", "route", "crate", "wanted", "crate_place",
    "divider", "deleted_list",
    "stick_crate", "stick_settled", "cue_template",
    "cue_colour", "choice", "tag_family", "tag", "track_tag", "genre_word", "track_colour", "backing",
    "track_backing", "off_shelf", "play", "play_told", "gig", "venue", "recurring", "destination",
)  # fmt: skip
KEPT_STEPS = 500
# Changed rows that all steps together may hold; the newest step is kept whatever its size.
KEPT_ROWS = 300_000


@dataclass(frozen=True, slots=True)
class UndoState:
    """Names of the step that undo and redo would take next; None where there is none."""

    undo: str | None
    redo: str | None


@dataclass(frozen=True, slots=True)
class _Column:
    name: str
    kind: str
    key: int
    default: str | None


def install(connection: sqlite3.Connection) -> None:
    """Bring the log to the tables' present columns, and make anew the triggers of every undoable table."""
    connection.execute("UPDATE undo_recording SET step_id = NULL")
    for table in UNDOABLE:
        columns = _columns(connection, table)
        _follow_changes(connection, table, len(columns))
        for statement in _triggers(table, columns):
            connection.execute(statement)


def begin_step(
    connection: sqlite3.Connection, name: str, stack: str = "undo", onto: int | None = None
) -> None:
    """Start recording, into a new step or ``onto`` one that is still the newest of its stack."""
    top = _top(connection, stack)
    step_id = top[0] if top and top[0] == onto else None
    if step_id is None:
        cursor = connection.execute("INSERT INTO undo_step (name, stack) VALUES (?, ?)", (name, stack))
        step_id = cursor.lastrowid
    connection.execute("UPDATE undo_recording SET step_id = ?", (step_id,))


def recorded_step(connection: sqlite3.Connection) -> int:
    """The step that is being recorded, for going on with it in another transaction."""
    return int(connection.execute("SELECT step_id FROM undo_recording").fetchone()[0])


def end_step(connection: sqlite3.Connection, keep_redo: bool = False) -> None:
    """Stop recording. A step that changed nothing is dropped; else what could be redone is forgotten, and
    what is too old.
    """
    step_id = recorded_step(connection)
    connection.execute("UPDATE undo_recording SET step_id = NULL")
    count = connection.execute("SELECT count(*) FROM undo_entry WHERE step_id = ?", (step_id,)).fetchone()[0]
    if not count:
        connection.execute("DELETE FROM undo_step WHERE id = ?", (step_id,))
        return
    connection.execute("UPDATE undo_step SET row_count = ? WHERE id = ?", (count, step_id))
    if not keep_redo:
        connection.execute("DELETE FROM undo_step WHERE stack = 'redo'")
    _keep_to_budget(connection)


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
    connection.execute("PRAGMA defer_foreign_keys = ON")
    begin_step(connection, name, "redo" if stack == "undo" else "undo")
    tables = [
        row[0]
        for row in connection.execute(
            "SELECT DISTINCT table_name FROM undo_entry WHERE step_id = ?", (step_id,)
        )
    ]
    for table in tables:
        _restore(connection, table, step_id)
    _settle(connection, step_id)
    connection.execute("DELETE FROM undo_step WHERE id = ?", (step_id,))
    end_step(connection, keep_redo=True)
    return name


def _restore(connection: sqlite3.Connection, table: str, step_id: int) -> None:
    """Rows that the step made go; the others become what they were before its first change of them."""
    columns = _columns(connection, table)
    in_key = sorted((c for c in columns if c.key), key=lambda c: c.key)
    keys = [c.name for c in in_key]
    # With the columns' own types, so that each row is found by its primary key.
    key_parts = ", ".join(f"CAST(json_extract(row_key, '$[{i}]') AS {c.kind})" for i, c in enumerate(in_key))
    kept = "undo_entry WHERE step_id = ? AND table_name = ? AND before IS"
    connection.execute(
        f"DELETE FROM {table} WHERE ({', '.join(keys)}) IN (SELECT {key_parts} FROM {kept} NULL)",
        (step_id, table),
    )
    names = [c.name for c in columns]
    values = ", ".join(_kept_value(place, column) for place, column in enumerate(columns))
    updates = ", ".join(f"{name} = excluded.{name}" for name in names if name not in keys)
    conflict = f"DO UPDATE SET {updates}" if updates else "DO NOTHING"
    connection.execute(
        f"INSERT INTO {table} ({', '.join(names)}) SELECT {values} FROM {kept} NOT NULL "
        f"ON CONFLICT ({', '.join(keys)}) {conflict}",
        (step_id, table),
    )


def _kept_value(place: int, column: _Column) -> str:
    """The SQL that reads a column out of a kept row. A restored value is as new as the restoring."""
    if column.name == "changed_at":
        return "strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now')"
    kept = f"json_extract(before, '$[{place}]')"
    return kept if column.default is None else f"coalesce({kept}, {column.default})"


def _settle(connection: sqlite3.Connection, step_id: int) -> None:
    """Bring the lists' table up to what a step has changed; the key of a value begins with its field."""
    off = "SELECT track_id FROM undo_entry WHERE step_id = ? AND table_name = 'off_shelf'"
    flat.come_and_go(connection, [row[0] for row in connection.execute(off, (step_id,))])
    rule = "SELECT 1 FROM undo_entry WHERE step_id = ? AND table_name = 'choice' AND row_key = json_array(?)"
    if connection.execute(rule, (step_id, RULES)).fetchone():
        flat.settle_all(connection, FIELDS)
    flat.settle(connection, _with_changed_tags(connection, step_id), ["track_tag"])
    flat.settle(connection, _with_changed_plays(connection, step_id), ["play"])
    rows = connection.execute(
        """SELECT iif(table_name = 'track_value', json_extract(row_key, '$[0]'), table_name) AS what, track_id
           FROM undo_entry WHERE step_id = ? AND track_id IS NOT NULL ORDER BY what""",
        (step_id,),
    ).fetchall()
    for what, group in groupby(rows, key=lambda row: row[0]):
        flat.settle(connection, {row[1] for row in group}, {what})


def _with_changed_tags(connection: sqlite3.Connection, step_id: int) -> list[int]:
    """Tracks with tags of which a step has changed something: their names are searched."""
    rows = connection.execute(
        """SELECT DISTINCT x.track_id FROM undo_entry e
           JOIN track_tag x ON x.tag_id = json_extract(e.row_key, '$[0]')
           WHERE e.step_id = ? AND e.table_name = 'tag'""",
        (step_id,),
    )
    return [row[0] for row in rows]


def _with_changed_plays(connection: sqlite3.Connection, step_id: int) -> list[int]:
    """Tracks of plays that a step gave to another track, and of gigs that it made count or not."""
    place = [column.name for column in _columns(connection, "play")].index("track_id")
    rows = connection.execute(
        f"""SELECT json_extract(before, '$[{place}]') FROM undo_entry
           WHERE step_id = ?1 AND table_name = 'play' AND json_extract(before, '$[{place}]') IS NOT NULL
           UNION
           SELECT p.track_id FROM undo_entry e JOIN play p ON p.gig_id = json_extract(e.row_key, '$[0]')
           WHERE e.step_id = ?1 AND e.table_name = 'gig' AND p.track_id IS NOT NULL""",
        (step_id,),
    )
    return [row[0] for row in rows]


def _keep_to_budget(connection: sqlite3.Connection) -> None:
    """Forget the oldest steps beyond KEPT_STEPS, and those beyond KEPT_ROWS changed rows counted from the
    newest.
    """
    connection.execute(
        """DELETE FROM undo_step WHERE id IN (
             SELECT id FROM (SELECT id, row_number() OVER newest AS place, sum(row_count) OVER newest AS total
                             FROM undo_step WHERE stack = 'undo' WINDOW newest AS (ORDER BY id DESC))
             WHERE place > 1 AND (place > ? OR total > ?))""",
        (KEPT_STEPS, KEPT_ROWS),
    )


def _top(connection: sqlite3.Connection, stack: str) -> tuple[int, str] | None:
    row = connection.execute(
        "SELECT id, name FROM undo_step WHERE stack = ? ORDER BY id DESC LIMIT 1", (stack,)
    ).fetchone()
    return (row["id"], row["name"]) if row else None


def _columns(connection: sqlite3.Connection, table: str) -> list[_Column]:
    rows = connection.execute("SELECT name, type, pk, dflt_value FROM pragma_table_info(?)", (table,))
    return [_Column(row["name"], row["type"], row["pk"], row["dflt_value"]) for row in rows]


def _follow_changes(connection: sqlite3.Connection, table: str, columns: int) -> None:
    """Kept rows go by the place of each column, so they outlive new names and new columns, but not columns
    that go.
    """
    row = connection.execute("SELECT columns FROM undo_shape WHERE table_name = ?", (table,)).fetchone()
    if row and columns < row[0]:
        connection.execute(
            "DELETE FROM undo_step WHERE id IN (SELECT step_id FROM undo_entry WHERE table_name = ?)",
            (table,),
        )
    connection.execute(
        "INSERT OR REPLACE INTO undo_shape (table_name, columns) VALUES (?, ?)", (table, columns)
    )


def _triggers(table: str, columns: list[_Column]) -> list[str]:
    keys = [c.name for c in sorted((c for c in columns if c.key), key=lambda c: c.key)]
    has_track = any(c.name == "track_id" for c in columns)
    differs = " OR ".join(f"OLD.{c.name} IS NOT NEW.{c.name}" for c in columns if c.name != "changed_at")
    recorded = {
        "INSERT": ("NEW", "NULL", ""),
        "UPDATE": ("NEW", _as_json(columns), f" AND ({differs})"),
        "DELETE": ("OLD", _as_json(columns), ""),
    }
    statements = [f"DROP TRIGGER IF EXISTS undo_{table}_{event.lower()}" for event in recorded]
    for event, (row, before, only) in recorded.items():
        key = f"json_array({', '.join(f'{row}.{name}' for name in keys)})"
        track = f"{row}.track_id" if has_track else "NULL"
        statements.append(
            f"CREATE TRIGGER undo_{table}_{event.lower()} {'BEFORE' if event == 'DELETE' else 'AFTER'} "
            f"{event} ON {table} "
            f"WHEN (SELECT step_id FROM undo_recording) IS NOT NULL{only} BEGIN "
            f"INSERT INTO undo_entry (step_id, table_name, row_key, before, track_id) "
            f"VALUES ((SELECT step_id FROM undo_recording), '{table}', {key}, {before}, {track}) "
            "ON CONFLICT (step_id, table_name, row_key) DO NOTHING; END"
        )
    return statements


def _as_json(columns: list[_Column]) -> str:
    """An SQL expression for the old row as a JSON array; numbers with a point keep all their
    digits, as text."""
    exact = "CASE WHEN OLD.{0} IS NULL THEN NULL ELSE printf('%!.17g', OLD.{0}) END"
    parts = [exact.format(c.name) if c.kind == "REAL" else f"OLD.{c.name}" for c in columns]
    return f"json_array({', '.join(parts)})"
