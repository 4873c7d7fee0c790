"""The database file: connections, one writer at a time, numbered migrations, and a backup before each."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path

from vinyl.library import undo
from vinyl.library.errors import DamagedLibraryError

BUSY_TIMEOUT_S = 20.0


class Database:
    """A file in WAL mode. Reads use a connection per thread; writes are serialised."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        self._write_lock = threading.RLock()
        path.parent.mkdir(parents=True, exist_ok=True)
        try:
            with self._write_lock:
                migrate(self._connection(), path)
        except sqlite3.DatabaseError as error:
            raise DamagedLibraryError(
                f"The library {path.name} cannot be opened ({error}). A backup from before the last change of "
                f"format may lie beside it; move the damaged file away and rename the backup."
            ) from error

    def read(self) -> sqlite3.Connection:
        """A connection for queries, the calling thread's own."""
        return self._connection()

    @contextmanager
    def write(self, undo_name: str | None = None) -> Iterator[sqlite3.Connection]:
        """A transaction. With ``undo_name``, what it changes can be undone under that name."""
        with self._write_lock:
            connection = self._connection()
            connection.execute("BEGIN IMMEDIATE")
            try:
                if undo_name is not None:
                    undo.begin_step(connection, undo_name)
                yield connection
                if undo_name is not None:
                    undo.end_step(connection)
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")

    def _connection(self) -> sqlite3.Connection:
        connection: sqlite3.Connection | None = getattr(self._local, "connection", None)
        if connection is None:
            connection = connect(self.path)
            self._local.connection = connection
        return connection


def connect(path: Path) -> sqlite3.Connection:
    """A connection with rows by name, foreign keys on and transactions begun by hand only."""
    connection = sqlite3.connect(path, timeout=BUSY_TIMEOUT_S, isolation_level=None)
    connection.row_factory = sqlite3.Row
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = NORMAL")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA recursive_triggers = ON")
    return connection


def migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Bring the file to the newest schema, each step in a transaction, with a copy of the file kept before it."""
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    for number, script in _migrations():
        if number <= version:
            continue
        if version:
            _backup(connection, path.with_name(f"{path.stem}-before-{number:04d}.db"))
        connection.executescript(f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number};\nCOMMIT;")
        version = number
    undo.install(connection)


def now() -> str:
    """The present in UTC, as stored."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("vinyl.library") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(file.name[:4]), file.read_text()) for file in files]


def _backup(connection: sqlite3.Connection, target: Path) -> None:
    with sqlite3.connect(target) as copy:
        connection.backup(copy)
    copy.close()
