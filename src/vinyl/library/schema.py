"""Preparing a library's file: migrations and triggers, all in one transaction. Only who has the home's lock
does this; everybody else opens what is prepared (vinyl.library.database).
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from functools import cache
from importlib import resources
from pathlib import Path

from vinyl.library import flat, identity, undo, values
from vinyl.library.connections import connect
from vinyl.library.errors import DamagedLibraryError, NewerLibraryError, StorageError
from vinyl.library.storage import storage_words
from vinyl.media.files import new_file, part_of

PRIVATE_FOLDER, PRIVATE_FILE = 0o700, 0o600
# How the names of triggers begin that go by the tables' columns, and are made anew when these change.
MADE_ANEW = ("undo_*", "time_*", "track_value_go")
DAMAGED = (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB)


@contextmanager
def said_of(path: Path) -> Iterator[None]:
    """Tell in words what a disk or a database does wrong while a library is opened.

    Raises:
        StorageError: for a disk that is full, a file that may not be written, a library that is held.
        DamagedLibraryError: for a file that is no library any more.
    """
    try:
        yield
    except (sqlite3.Error, OSError) as error:
        words = storage_words(error)
        code = getattr(error, "sqlite_errorcode", 0) & 0xFF
        if words is None or code in DAMAGED:
            raise DamagedLibraryError(
                f"The library {path.name} cannot be opened ({error}). A backup from before the last change "
                "of format may lie beside it; move the damaged file away and rename the backup."
            ) from error
        raise StorageError(f"The library in {path.parent} cannot be opened. {words}") from error


def prepare(path: Path) -> None:
    """Make a library, or bring one to the newest schema, whole or not at all.

    Raises:
        NewerLibraryError: if a newer Vinyl has written it.
        StorageError, DamagedLibraryError: if it cannot be.
    """
    with said_of(path):
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
            path.touch(mode=PRIVATE_FILE)
        elif path.stat().st_mode & 0o077:
            path.chmod(PRIVATE_FILE)
        with closing(connect(path)) as connection:
            _bring_up(connection, path)


def newest() -> int:
    """The number of the newest schema."""
    return _migrations()[-1][0]


def check_version(connection: sqlite3.Connection, path: Path) -> int:
    """The number of a file's schema.

    Raises:
        NewerLibraryError: if it is higher than any that is known.
    """
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    if version > newest():
        raise NewerLibraryError(
            f"The library in {path.parent} was written by a newer Vinyl (format {version}; this one knows "
            f"{newest()}). Nothing was changed: start it with the newer Vinyl, or with another --home."
        )
    return version


def _bring_up(connection: sqlite3.Connection, path: Path) -> None:
    version = check_version(connection, path)
    if version == newest() and _is_prepared(connection):
        return
    connection.execute("PRAGMA journal_mode = WAL")
    steps = [(number, script) for number, script in _migrations() if number > version]
    if version and steps:
        _backup(connection, path.with_name(f"{path.stem}-before-{steps[0][0]:04d}.db"))
    # Tables made anew must not take others with them, nor be held up by triggers that are put back below.
    connection.execute("PRAGMA foreign_keys = OFF")
    try:
        # A script ends a transaction that is open before it: so it begins the one that all is done in.
        scripts = "\n".join(f"{script}\nPRAGMA user_version = {number};" for number, script in steps)
        connection.executescript(f"BEGIN IMMEDIATE;\n{_dropped(connection)}\n{scripts}")
        _install(connection)
        connection.execute("COMMIT")
    except BaseException:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise
    finally:
        connection.execute("PRAGMA foreign_keys = ON")


def _install(connection: sqlite3.Connection) -> None:
    """Make triggers and rows that go by columns, as these now are."""
    undo.follow_columns(connection)
    for statement in _triggers(connection).values():
        connection.execute(statement)
    if not flat.is_as_made(connection):
        flat.make_anew(connection)
    astray = connection.execute("PRAGMA foreign_key_check").fetchone()
    if astray:
        raise sqlite3.DatabaseError(f"a row of {astray[0]} points to nothing in {astray[2]}")


def _triggers(connection: sqlite3.Connection) -> dict[str, str]:
    return {**values.triggers(), **undo.triggers(connection), **identity.triggers(connection)}


def _is_prepared(connection: sqlite3.Connection) -> bool:
    return _there(connection) == _triggers(connection) and flat.is_as_made(connection)


def _there(connection: sqlite3.Connection) -> dict[str, str]:
    """The triggers that go by columns, as they are in the file."""
    names = " OR ".join(f"name GLOB '{each}'" for each in MADE_ANEW)
    rows = connection.execute(f"SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND ({names})")
    return {row["name"]: row["sql"] for row in rows}


def _dropped(connection: sqlite3.Connection) -> str:
    return "".join(f"DROP TRIGGER {name};\n" for name in _there(connection))


@cache
def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("vinyl.library") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(file.name[:4]), file.read_text(encoding="utf-8")) for file in files]


def _backup(connection: sqlite3.Connection, target: Path) -> None:
    """A copy of the file as it is, whole under its name or not there."""
    part = new_file(part_of(target), PRIVATE_FILE)
    with closing(sqlite3.connect(part)) as copy:
        connection.backup(copy)
    part.replace(target)
