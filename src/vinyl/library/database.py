"""An open library: a connection for reading in each thread, one connection for all writing, and word of each
change. Opening changes nothing; what prepares a file is vinyl.library.schema.
"""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from vinyl.library import changes, undo
from vinyl.library.changes import Change
from vinyl.library.connections import BUSY_TIMEOUT_S, connect
from vinyl.library.errors import LibraryBusyError, LibraryError
from vinyl.library.schema import check_version, newest, prepare, said_of

# Writers that may wait at once: more are refused, so that whoever reads finds a thread that is free.
MOST_WAITING = 60
BUSY = "The library is busy with other changes. Nothing was changed: do it again in a moment."


class Database:
    """A prepared file in WAL mode. Reads use a connection per thread; writes share one, in turn."""

    def __init__(self, path: Path, read_only: bool = False) -> None:
        """Open a library that is prepared.

        Raises:
            LibraryError: if there is none, or it is of an older Vinyl.
            NewerLibraryError, StorageError, DamagedLibraryError: if it cannot be opened.
        """
        self.path = path
        self.on_change: Callable[[Change], None] = lambda change: None
        self._read_only = read_only
        self._local = threading.local()
        self._turn = threading.Lock()
        self._waiting = 0
        self._count = threading.Lock()
        self._writer: sqlite3.Connection | None = None
        if not path.is_file():
            raise LibraryError(f"There is no library in {path.parent}.")
        with said_of(path), closing(connect(path, read_only=True)) as connection:
            if check_version(connection, path) < newest():
                raise LibraryError(
                    f"The library in {path.parent} is of an older Vinyl. Start Vinyl with it once: it is "
                    "brought up to date then, and a copy of it is kept."
                )

    @classmethod
    def prepared(cls, path: Path) -> Database:
        """Prepare a library and open it. Only for who has its home's lock (vinyl.library.lock).

        Raises:
            NewerLibraryError, StorageError, DamagedLibraryError: if it cannot be.
        """
        prepare(path)
        return cls(path)

    def read(self) -> sqlite3.Connection:
        """A connection for queries, the calling thread's own; within ``write`` the one that is written on."""
        connection: sqlite3.Connection | None = getattr(self._local, "writing", None)
        if connection is None:
            connection = getattr(self._local, "connection", None)
        if connection is None:
            connection = self._local.connection = connect(self.path, read_only=True)
        return connection

    @contextmanager
    def write(
        self, undo_name: str | None = None, onto: int | None = None, background: bool = False
    ) -> Iterator[sqlite3.Connection]:
        """A transaction. With ``undo_name``, what it changes can be undone under that name.

        Args:
            onto: a step (vinyl.library.undo.recorded_step) that it goes on with, if no other came between.
            background: whether the program does it by itself; what could be redone stays then.

        Raises:
            LibraryBusyError: if its turn does not come, because others write or hold the file.
        """
        if self._read_only:
            raise LibraryError("This library was opened for reading only.")
        if getattr(self._local, "writing", None) is not None:
            raise RuntimeError("a write within a write")
        with self._in_turn():
            connection = self._begin()
            self._local.writing = connection
            try:
                if undo_name is not None:
                    undo.begin_step(connection, undo_name, onto=onto)
                yield connection
                if undo_name is not None:
                    undo.end_step(connection, keep_redo=background)
                change = self._noted(connection, background)
                connection.execute("COMMIT")
            except BaseException:
                self._roll_back(connection)
                raise
            finally:
                self._local.writing = None
        if change is not None:
            self.on_change(change)

    def touch(self) -> int:
        """Count a change of something beside the library, such as a stick; returns the new revision."""
        with self.write() as connection:
            return _next_revision(connection)

    def revision(self) -> int:
        """How often the library has changed."""
        return int(self.read().execute("SELECT number FROM revision").fetchone()[0])

    @contextmanager
    def _in_turn(self) -> Iterator[None]:
        with self._count:
            if self._waiting >= MOST_WAITING:
                raise LibraryBusyError(BUSY)
            self._waiting += 1
        try:
            if not self._turn.acquire(timeout=BUSY_TIMEOUT_S):
                raise LibraryBusyError(BUSY)
        finally:
            with self._count:
                self._waiting -= 1
        try:
            yield
        finally:
            self._turn.release()

    def _begin(self) -> sqlite3.Connection:
        """Begin a transaction on the connection of all writers, which is made when it is needed first."""
        if self._writer is None:
            writer = connect(self.path, shared=True)
            changes.watch(writer)
            self._writer = writer
        self._writer.execute("BEGIN IMMEDIATE")
        return self._writer

    def _roll_back(self, connection: sqlite3.Connection) -> None:
        """Leave all as it was. A connection on which even that fails is given up."""
        try:
            if connection.in_transaction:
                connection.execute("ROLLBACK")
        except sqlite3.Error:
            self._writer = None
            with suppress(sqlite3.Error):
                connection.close()

    def _noted(self, connection: sqlite3.Connection, background: bool) -> Change | None:
        """What a transaction has changed that windows show, counted as the next revision."""
        topics, track_ids = changes.take(connection)
        if not topics:
            return None
        return Change(_next_revision(connection), topics, track_ids, background)


def _next_revision(connection: sqlite3.Connection) -> int:
    row = connection.execute("UPDATE revision SET number = number + 1 RETURNING number").fetchone()
    return int(row[0])
