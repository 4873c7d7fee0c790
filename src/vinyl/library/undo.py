"""Undo and redo across restarts: triggers record of each changed row what it was and what it became.

The way is SQLite's own documented one, with the log kept in the file and grouped into named steps. A step is
taken back with a few statements a table, however many rows it changed, and column by column: what another
hand has changed since stays as it is, and is told.
"""

from __future__ import annotations

import sqlite3
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.library import flat
from vinyl.library.errors import NotFoundError
from vinyl.library.tables import TABLES, UNDOABLE, named
from vinyl.library.values import FIELDS, RULES

Stack = Literal["undo", "redo"]
KEPT_STEPS = 500
# Changed rows that all steps together may hold; the newest step is kept whatever its size.
KEPT_ROWS = 300_000
# The time at which a value was set is no value: it is noted anew, and never told as changed by somebody.
TIME = "changed_at"
GONE = "what it had made is gone already"
NOW = "strftime('%Y-%m-%dT%H:%M:%f+00:00', 'now')"


@dataclass(frozen=True, slots=True)
class Step:
    """A step that can be taken back."""

    id: int
    name: str


@dataclass(frozen=True, slots=True)
class UndoState:
    """The steps that undo and redo would take next; None where there is none."""

    undo: Step | None
    redo: Step | None


@dataclass(frozen=True, slots=True)
class TakenBack:
    """A step that was taken back, and in words what of it was left, because it was changed since."""

    name: str
    left: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class _Column:
    name: str
    kind: str
    key: int
    default: str | None


@dataclass(frozen=True, slots=True)
class _ForeignKey:
    column: str
    table: str
    to: str
    cascades: bool


def triggers(connection: sqlite3.Connection) -> dict[str, str]:
    """The triggers that record changes, by name, as the tables' columns now are."""
    return {
        name: statement
        for table in UNDOABLE
        for name, statement in _triggers(table.name, _columns(connection, table.name))
    }


def follow_columns(connection: sqlite3.Connection) -> None:
    """Bring the log to the tables' present columns.

    Kept rows go by the place of each column, so they outlive new names and new columns, but not columns that
    go.
    """
    for table in UNDOABLE:
        columns = len(_columns(connection, table.name))
        row = connection.execute(
            "SELECT columns FROM undo_shape WHERE table_name = ?", (table.name,)
        ).fetchone()
        if row and columns < row[0]:
            connection.execute(
                "DELETE FROM undo_step WHERE id IN (SELECT step_id FROM undo_entry WHERE table_name = ?)",
                (table.name,),
            )
        connection.execute(
            "INSERT OR REPLACE INTO undo_shape (table_name, columns) VALUES (?, ?)", (table.name, columns)
        )


def begin_step(
    connection: sqlite3.Connection, name: str, stack: Stack = "undo", onto: int | None = None
) -> None:
    """Start recording, into a new step or ``onto`` one that is still the newest of its stack."""
    top = _top(connection, stack)
    step_id = top.id if top and top.id == onto else None
    if step_id is None:
        cursor = connection.execute("INSERT INTO undo_step (name, stack) VALUES (?, ?)", (name, stack))
        step_id = cursor.lastrowid
    connection.execute("UPDATE undo_recording SET step_id = ?", (step_id,))


def recorded_step(connection: sqlite3.Connection) -> int:
    """The step that is being recorded, for going on with it in another transaction."""
    return int(connection.execute("SELECT step_id FROM undo_recording").fetchone()[0])


def kept_step(connection: sqlite3.Connection) -> int | None:
    """The step that is being recorded; None if it has changed nothing yet, for such a step is dropped."""
    row = connection.execute(
        "SELECT step_id FROM undo_recording WHERE step_id IN (SELECT step_id FROM undo_entry)"
    ).fetchone()
    return int(row[0]) if row else None


def end_step(connection: sqlite3.Connection, keep_redo: bool = False) -> bool:
    """Stop recording. A step that changed nothing is dropped; else what is too old is forgotten, and what
    could be redone, unless that is to be kept. Returns whether it changed anything.
    """
    step_id = recorded_step(connection)
    connection.execute("UPDATE undo_recording SET step_id = NULL")
    count = connection.execute("SELECT count(*) FROM undo_entry WHERE step_id = ?", (step_id,)).fetchone()[0]
    if not count:
        connection.execute("DELETE FROM undo_step WHERE id = ?", (step_id,))
        return False
    connection.execute("UPDATE undo_step SET row_count = ? WHERE id = ?", (count, step_id))
    if not keep_redo:
        connection.execute("DELETE FROM undo_step WHERE stack = 'redo'")
    _keep_to_budget(connection)
    return True


def is_there(connection: sqlite3.Connection, step_id: int) -> bool:
    """Whether a step can still be undone: it was not taken back, and is not too old."""
    row = connection.execute("SELECT 1 FROM undo_step WHERE id = ? AND stack = 'undo'", (step_id,)).fetchone()
    return row is not None


def state(connection: sqlite3.Connection) -> UndoState:
    """What could be undone and redone now."""
    return UndoState(_top(connection, "undo"), _top(connection, "redo"))


def step_back(connection: sqlite3.Connection, stack: Stack, step_id: int | None = None) -> TakenBack:
    """Take back a step of a stack, the newest if none is named, and record the way forth on the other.

    Raises:
        NotFoundError: if there is nothing to take back, or not this step.
    """
    step = _step(connection, stack, step_id)
    connection.execute("PRAGMA defer_foreign_keys = ON")
    begin_step(connection, step.name, "redo" if stack == "undo" else "undo")
    left = tuple(_left_words(_TakingBack(connection, step.id).run()))
    _settle(connection, step.id)
    connection.execute("DELETE FROM undo_step WHERE id = ?", (step.id,))
    if not end_step(connection, keep_redo=True):
        left = left or (GONE,)
    return TakenBack(step.name, left)


def _step(connection: sqlite3.Connection, stack: Stack, step_id: int | None) -> Step:
    if step_id is None:
        top = _top(connection, stack)
        if top is None:
            raise NotFoundError(f"There is nothing to {stack}.")
        return top
    row = connection.execute(
        "SELECT id, name FROM undo_step WHERE stack = ? AND id = ?", (stack, step_id)
    ).fetchone()
    if row is None:
        raise NotFoundError("This step was taken back already, or is too old. Nothing was changed.")
    return Step(row["id"], row["name"])


def _left_words(left: Counter[str]) -> Iterable[str]:
    for table, count in left.items():
        one, many = named(table).says
        yield (
            f"{one} was changed since and stays as it is"
            if count == 1
            else (f"{count:,} {many} were changed since and stay as they are")
        )


class _TakingBack:
    """Taking back one step: rows that it made go, those that it deleted come back, and of all others each
    column becomes what it was. What is not as the step left it stays.
    """

    def __init__(self, connection: sqlite3.Connection, step_id: int) -> None:
        self._connection = connection
        self._step_id = step_id
        self._left: Counter[str] = Counter()
        rows = connection.execute("SELECT DISTINCT table_name FROM undo_entry WHERE step_id = ?", (step_id,))
        touched = {row[0] for row in rows}
        # Each table after those that it refers to.
        self._tables = [_Log(connection, table.name, step_id) for table in TABLES if table.name in touched]

    def run(self) -> Counter[str]:
        """Take it back; returns how many rows of each table were left."""
        # What goes takes with it what is still within; so all else is first what it was.
        self._bring_back()
        for log in self._tables:
            self._note_left(log, log.count_changed())
            log.set_back()
        for log in reversed(self._tables):
            self._repeat(log, log.delete_made)
            self._note_left(log, log.count_kept_made())
        # Where a name was taken by what has gone now.
        self._bring_back()
        for log in self._tables:
            self._note_left(log, log.count_missing())
        return self._left

    def _bring_back(self) -> None:
        for log in self._tables:
            self._repeat(log, log.bring_back)

    def _repeat(self, log: _Log, do: Callable[[], int]) -> None:
        """Rows of one table may refer to each other, as folders do: again until nothing more can be done."""
        while do() and log.refers_to_itself:
            pass

    def _note_left(self, log: _Log, count: int) -> None:
        if count:
            self._left[log.table] += count


class _Log:
    """What a step has recorded of one table, as SQL."""

    def __init__(self, connection: sqlite3.Connection, table: str, step_id: int) -> None:
        self.table = table
        self._connection = connection
        self._step_id = step_id
        self._columns = _columns(connection, table)
        self._keys = _key_of(self._columns)
        self._foreign = _foreign_keys(connection, table)
        self._children = [
            (other, each)
            for other in TABLES
            if not other.derived
            for each in _foreign_keys(connection, other.name)
            if each.table == table and each.cascades
        ]
        self.refers_to_itself = any(each.table == table for each in self._foreign)
        # Steps that were taken back themselves, and come forth again by redo, are of the other stack.
        self._has_later = bool(
            connection.execute(
                "SELECT 1 FROM undo_step "
                "WHERE id > ?1 AND stack = (SELECT stack FROM undo_step WHERE id = ?1)",
                (step_id,),
            ).fetchone()
        )

    def _run(self, sql: str) -> sqlite3.Cursor:
        return self._connection.execute(sql, {"step": self._step_id, "table": self.table})

    def _entries(self, which: str) -> str:
        """The recorded rows, their keys in the columns' own types, so that rows are found by them."""
        keys = ", ".join(
            f"CAST(json_extract(row_key, '$[{at}]') AS {c.kind}) AS key_{at}"
            for at, c in enumerate(self._keys)
        )
        return (
            # Kept by earlier versions of a row that was deleted and made again: that it was made.
            f"(SELECT {keys}, row_key, before, iif(after IN ('', 'made'), NULL, after) AS after, "
            "after IS '' OR after IS 'made' AND before IS NOT NULL AS unknown FROM undo_entry "
            f"WHERE step_id = :step AND table_name = :table AND {which}) e"
        )

    @property
    def _is_row(self) -> str:
        return " AND ".join(f"t.{c.name} = e.key_{at}" for at, c in enumerate(self._keys))

    @property
    def _made(self) -> str:
        return self._entries("before IS NULL AND after IS NOT NULL")

    @property
    def _deleted(self) -> str:
        return self._entries("before IS NOT NULL AND coalesce(after, '') = ''")

    @property
    def _changed(self) -> str:
        return self._entries("before IS NOT NULL AND after IS NOT NULL")

    def delete_made(self) -> int:
        """Delete rows that the step made, but for those that a later step worked on, or put something in."""
        used = [self._is_of_later(self.table, "e.row_key")] + [
            f"EXISTS (SELECT 1 FROM {child.name} c WHERE c.{key.column} = t.{key.to} "
            f"AND {self._is_of_later(child.name, _key_json(self._connection, child.name, 'c'))})"
            for child, key in self._children
        ]
        unused = f"WHERE NOT ({' OR '.join(used)})" if self._has_later else ""
        keys = ", ".join(c.name for c in self._keys)
        of_t = ", ".join(f"t.{c.name}" for c in self._keys)
        return self._run(
            f"DELETE FROM {self.table} WHERE ({keys}) IN (SELECT {of_t} FROM {self._made} "
            f"JOIN {self.table} t ON {self._is_row} {unused})"
        ).rowcount

    def _is_of_later(self, table: str, row_key: str) -> str:
        """Whether a row was touched by a step that came after this one, and was not taken back."""
        return (
            f"EXISTS (SELECT 1 FROM undo_step s JOIN undo_entry o ON o.step_id = s.id WHERE s.id > :step "
            f"AND s.stack = (SELECT stack FROM undo_step WHERE id = :step) AND o.table_name = '{table}' "
            f"AND o.row_key = {row_key})"
        )

    def count_kept_made(self) -> int:
        """How many rows that it made are still there."""
        return self._count(f"SELECT count(*) FROM {self._made} JOIN {self.table} t ON {self._is_row}")

    def bring_back(self) -> int:
        """Make rows again that the step deleted, where what they belong to is there; one that the program has
        made anew meanwhile gives way, one of a later step does not.
        """
        names = [c.name for c in self._columns]
        values = ", ".join(self._kept(place, column) for place, column in enumerate(self._columns))
        there = [
            f"({self._before(each.column)} IS NULL OR {self._has_parent(each)})"
            for each in self._foreign
            if each.cascades
        ]
        if self._has_later:
            there.append(f"NOT {self._is_of_later(self.table, 'e.row_key')}")
        keys = ", ".join(c.name for c in self._keys)
        values_or_key = [c for _, c in self._values()] or self._keys[:1]
        sets = ", ".join(f"{c.name} = excluded.{c.name}" for c in values_or_key)
        return self._run(
            f"INSERT OR IGNORE INTO {self.table} ({', '.join(names)}) SELECT {values} FROM {self._deleted} "
            f"WHERE {' AND '.join(there) or 'true'} ON CONFLICT ({keys}) DO UPDATE SET {sets} "
            f"WHERE {self._is_other()}"
        ).rowcount

    def _is_other(self) -> str:
        """Whether a row that is there is not the one that would be brought back."""
        return (
            " OR ".join(f"{self.table}.{c.name} IS NOT excluded.{c.name}" for _, c in self._values())
            or "false"
        )

    def count_missing(self) -> int:
        """How many rows that it deleted cannot be there again, or are there as another hand made them."""
        return self._count(
            f"SELECT count(*) FROM {self._deleted} LEFT JOIN {self.table} t ON {self._is_row} "
            f"WHERE t.{self._keys[0].name} IS NULL OR NOT e.unknown AND ({self._differs('before')})"
        )

    def count_changed(self) -> int:
        """How many rows of which it changed something are gone, or were changed there since."""
        taken = " OR ".join(
            f"({self._was_changed(place)} AND NOT {self._can_go_back(place, column)})"
            for place, column in self._values()
        )
        if not taken:
            return 0
        return self._count(
            f"SELECT count(*) FROM {self._changed} LEFT JOIN {self.table} t ON {self._is_row} "
            f"WHERE NOT e.unknown AND (t.{self._keys[0].name} IS NULL OR {taken})"
        )

    def set_back(self) -> None:
        """Give columns that the step changed what they had, where they still have what it gave them."""
        sets = [
            f"{column.name} = iif(e.unknown OR ({self._was_changed(place)} AND "
            f"{self._can_go_back(place, column)}), {self._kept(place, column)}, t.{column.name})"
            for place, column in self._values()
        ]
        if any(column.name == TIME for column in self._columns):
            sets.append(f"{TIME} = {NOW}")
        if not sets:
            return
        keys = " AND ".join(f"{self.table}.{c.name} = e.key_{at}" for at, c in enumerate(self._keys))
        self._run(
            f"UPDATE OR IGNORE {self.table} SET {', '.join(sets)} FROM {self._changed} "
            f"JOIN {self.table} t ON {self._is_row} WHERE {keys}"
        )

    def _values(self) -> list[tuple[int, _Column]]:
        return [
            (place, column)
            for place, column in enumerate(self._columns)
            if not column.key and column.name != TIME
        ]

    def _was_changed(self, place: int) -> str:
        return f"json_extract(e.before, '$[{place}]') IS NOT json_extract(e.after, '$[{place}]')"

    def _can_go_back(self, place: int, column: _Column) -> str:
        """Whether a column is as the step left it, and what it is to point to is there."""
        same = f"{_plain(column, 't')} IS json_extract(e.after, '$[{place}]')"
        found = next((each for each in self._foreign if each.column == column.name), None)
        if found is None:
            return f"({same})"
        return f"({same} AND ({self._before(column.name)} IS NULL OR {self._has_parent(found)}))"

    def _differs(self, kept: str) -> str:
        """Whether a row is not as it was kept; columns that have come since do not count."""
        return (
            " OR ".join(
                f"json_array_length(e.{kept}) > {place} "
                f"AND {_plain(column, 't')} IS NOT json_extract(e.{kept}, '$[{place}]')"
                for place, column in self._values()
            )
            or "false"
        )

    def _before(self, name: str) -> str:
        place = next(at for at, column in enumerate(self._columns) if column.name == name)
        return f"json_extract(e.before, '$[{place}]')"

    def _has_parent(self, key: _ForeignKey) -> str:
        return f"EXISTS (SELECT 1 FROM {key.table} p WHERE p.{key.to} = {self._before(key.column)})"

    def _kept(self, place: int, column: _Column) -> str:
        """The SQL that reads a column out of a kept row. A restored value is as new as the restoring."""
        if column.name == TIME:
            return NOW
        kept = f"json_extract(e.before, '$[{place}]')"
        found = next((each for each in self._foreign if each.column == column.name), None)
        if found is not None and not found.cascades:
            return f"iif({self._has_parent(found)}, {kept}, NULL)"
        return kept if column.default is None else f"coalesce({kept}, {column.default})"

    def _count(self, sql: str) -> int:
        return int(self._run(sql).fetchone()[0])


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
    )
    changed: dict[int, tuple[str, ...]] = defaultdict(tuple)
    for what, track_id in rows:
        if what not in changed[track_id]:
            changed[track_id] += (what,)
    # Whatever has changed of a track is written at once; most of a step's tracks have changed alike.
    alike: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for track_id, whats in changed.items():
        alike[whats].append(track_id)
    for whats, track_ids in alike.items():
        flat.settle(connection, track_ids, whats)


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


def _top(connection: sqlite3.Connection, stack: Stack) -> Step | None:
    row = connection.execute(
        "SELECT id, name FROM undo_step WHERE stack = ? ORDER BY id DESC LIMIT 1", (stack,)
    ).fetchone()
    return Step(row["id"], row["name"]) if row else None


def _columns(connection: sqlite3.Connection, table: str) -> list[_Column]:
    rows = connection.execute("SELECT name, type, pk, dflt_value FROM pragma_table_info(?)", (table,))
    return [_Column(row["name"], row["type"], row["pk"], row["dflt_value"]) for row in rows]


def _key_of(columns: Sequence[_Column]) -> list[_Column]:
    return sorted((c for c in columns if c.key), key=lambda c: c.key)


def _key_json(connection: sqlite3.Connection, table: str, row: str) -> str:
    """An SQL expression for the key of a row as entries have it."""
    keys = _key_of(_columns(connection, table))
    return f"json_array({', '.join(f'{row}.{column.name}' for column in keys)})"


def _foreign_keys(connection: sqlite3.Connection, table: str) -> list[_ForeignKey]:
    rows = connection.execute("SELECT * FROM pragma_foreign_key_list(?)", (table,))
    return [
        _ForeignKey(row["from"], row["table"], row["to"] or "id", row["on_delete"] == "CASCADE")
        for row in rows
    ]


def _triggers(table: str, columns: list[_Column]) -> Iterable[tuple[str, str]]:
    keys = [c.name for c in _key_of(columns)]
    has_track = any(c.name == "track_id" for c in columns)
    differs = " OR ".join(f"OLD.{c.name} IS NOT NEW.{c.name}" for c in columns if c.name != TIME)
    old, new = _as_json(columns, "OLD"), _as_json(columns, "NEW")
    recorded = {
        # What a made row is does not matter for taking it back, only that it was not deleted again; but where
        # the step deleted it before, it was changed.
        "INSERT": ("NEW", "NULL", "'made'", f"iif(before IS NULL, 'made', {new})", ""),
        "UPDATE": ("NEW", old, new, "excluded.after", f" AND ({differs})"),
        "DELETE": ("OLD", old, "NULL", "excluded.after", ""),
    }
    for event, (row, before, after, then, only) in recorded.items():
        name = f"undo_{table}_{event.lower()}"
        key = f"json_array({', '.join(f'{row}.{each}' for each in keys)})"
        track = f"{row}.track_id" if has_track else "NULL"
        yield (
            name,
            (
                f"CREATE TRIGGER {name} {'BEFORE' if event == 'DELETE' else 'AFTER'} "
                f"{event} ON {table} "
                f"WHEN (SELECT step_id FROM undo_recording) IS NOT NULL{only} BEGIN "
                f"INSERT INTO undo_entry (step_id, table_name, row_key, before, after, track_id) "
                f"SELECT step_id, '{table}', {key}, {before}, {after}, {track} "
                "FROM undo_recording WHERE true "
                f"ON CONFLICT (step_id, table_name, row_key) DO UPDATE SET after = {then}; END"
            ),
        )


def _as_json(columns: Sequence[_Column], row: str) -> str:
    """An SQL expression for a row as a JSON array."""
    return f"json_array({', '.join(_plain(column, row) for column in columns)})"


def _plain(column: _Column, row: str) -> str:
    """A column of a row as it is kept: numbers with a point keep all their digits, as text."""
    if column.name == TIME:
        return "NULL"
    value = f"{row}.{column.name}"
    return (
        f"CASE WHEN {value} IS NULL THEN NULL ELSE printf('%!.17g', {value}) END"
        if column.kind == "REAL"
        else value
    )
