"""What must hold in the house after each step."""

from __future__ import annotations

import io
import json
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from tests.walk.house import House
from vinyl.library import references
from vinyl.library.database import Database
from vinyl.library.documents import read_document, restore, write_document
from vinyl.library.tables import TABLES, UNDOABLE

MOST_PROCESSES, MOST_FILES, MOST_THREADS, MOST_BYTES = 14, 160, 170, 900 * 1024**2
# When a value was set is no value, and is noted anew.
NO_VALUES = frozenset({"changed_at"})
# What is made again from the rest, or is about how the work stands.
FLEETING = frozenset({"job", "job_failure", "revision"})


def references_are_whole(house: House) -> None:
    """Every key and every global id leads to something, and the file is sound."""
    with house.reader() as read:
        assert [tuple(row) for row in read.execute("PRAGMA foreign_key_check")] == []
        assert references.leading_nowhere(read) == []


def server_is_small(house: House) -> None:
    """Processes, open files, threads and memory are within bounds."""
    server = house.process()
    counts = (len(server.children(recursive=True)), server.num_fds(), server.num_threads())
    bounds = (MOST_PROCESSES, MOST_FILES, MOST_THREADS)
    assert all(count <= most for count, most in zip(counts, bounds, strict=True)), (
        f"processes, open files, threads: {counts}"
    )
    assert server.memory_info().rss < MOST_BYTES


def undo_then_redo_is_the_same(house: House) -> None:
    """The newest step is taken back and done again, and all of the users' work is as it was."""
    before = _work(house)
    back = house.ask("POST", "/api/undo")
    if not back.is_good:
        assert back.status == 404, back.words
        return
    forth = house.ask("POST", "/api/redo")
    if back.told["left"] and forth.status == 404:
        # All of it was left, as that of a stick that was forgotten since: a step that is said, and passed.
        assert _work(house) == before, f"undo of “{back.told['name']}” says that it left what it changed"
        return
    assert forth.is_good, f"what was undone can be redone: {forth.words}"
    after = _work(house)
    if not back.told["left"] and not forth.told["left"]:
        assert after == before, f"undo and redo of “{back.told['name']}”: {_apart(before, after)}"


def _work(house: House) -> dict[str, list[str]]:
    """The rows of all tables that can be undone."""
    with house.reader() as read:
        return {table.name: sorted(_rows(read, table.name, NO_VALUES)) for table in UNDOABLE}


def _rows(read: sqlite3.Connection, table: str, but_not: frozenset[str] = frozenset()) -> Iterator[str]:
    for row in read.execute(f"SELECT * FROM {table}"):
        kept = [row[name] for name in row.keys() if name not in but_not]  # noqa: SIM118
        yield json.dumps(kept, default=str, ensure_ascii=False)


def _apart(before: dict[str, list[str]], after: dict[str, list[str]]) -> dict[str, Any]:
    return {
        name: {
            "gone": sorted({*before[name]} - {*after[name]})[:5],
            "new": sorted({*after[name]} - {*before[name]})[:5],
        }
        for name in before
        if before[name] != after[name]
    }


def words_kept(house: House, words: set[str]) -> tuple[set[str], set[str]]:
    """Which of the words typed stand nowhere in the library, and which only among what can be redone."""
    with house.reader() as read:
        redone = {row[0] for row in read.execute("SELECT id FROM undo_step WHERE stack = 'redo'")}
        live, redo = [], []
        for table in TABLES:
            if not table.derived and table.name not in FLEETING:
                live += _rows(read, table.name)
        for row in read.execute("SELECT * FROM undo_entry"):
            (redo if row["step_id"] in redone else live).append(
                json.dumps(list(row), default=str, ensure_ascii=False)
            )
    here, there = "\n".join(live), "\n".join(redo)
    gone = {word for word in words if word not in here}
    return {word for word in gone if word not in there}, {word for word in gone if word in there}


def words_of_step(house: House, stack: str, step_id: int | None, words: set[str]) -> set[str]:
    """Which words a step of a stack holds, the newest if none is named."""
    with house.reader() as read:
        rows = read.execute(
            """SELECT before, after FROM undo_entry WHERE step_id =
               coalesce(?, (SELECT max(id) FROM undo_step WHERE stack = ?))""",
            (step_id, stack),
        )
        held = "\n".join(f"{row['before']} {row['after']}" for row in rows)
    return {word for word in words if word in held}


def documents_carry_all(house: House) -> None:
    """A document of the library makes another library that says the same."""
    with house.reader() as read:
        first = _document(read)
    path = house.folder / "second" / "library.db"
    path.parent.mkdir(exist_ok=True)
    path.unlink(missing_ok=True)
    second = Database.prepared(path)
    with second.write() as connection:
        restore(connection, read_document(first.splitlines()), [])
    with closing(sqlite3.connect(path)) as read:
        read.row_factory = sqlite3.Row
        assert references.leading_nowhere(read) == []
    again = _document(second.read())
    apart = set(first.split("\n")[1:]) ^ set(again.split("\n")[1:])
    assert not apart, f"a document that was read says otherwise: {sorted(each[:400] for each in apart)[:6]}"


def _document(read: sqlite3.Connection) -> str:
    out = io.StringIO()
    write_document(read, out)
    return out.getvalue()


def own_files_stay(own: dict[Path, bytes]) -> None:
    """Files of the user's own that nobody was asked to change are as they were."""
    for path, data in own.items():
        assert path.read_bytes() == data, path.name
