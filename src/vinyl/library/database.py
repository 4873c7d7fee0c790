"""The database file: connections, one writer at a time, numbered migrations, and a backup before they run."""

from __future__ import annotations

import json
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import cache
from importlib import resources
from pathlib import Path

from vinyl.core.ordering import keys_between
from vinyl.core.text import fold, initials_of, searchable, words_of
from vinyl.library import flat, identity, undo, values
from vinyl.library.errors import DamagedLibraryError

BUSY_TIMEOUT_S = 20.0
PRIVATE_FOLDER, PRIVATE_FILE = 0o700, 0o600
MAPPED_BYTES = 512 * 1024**2
# Room for a change of tens of thousands of rows before its pages must go to the disk.
CACHE_KIB = 48 * 1024
CHECKPOINT_PAGES = 4000
# How the names of triggers begin that every start makes anew (vinyl.library.undo, vinyl.library.identity).
MADE_ANEW = ("undo_", "time_")


class Database:
    """A file in WAL mode. Reads use a connection per thread; writes are serialised."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        self._write_lock = threading.RLock()
        path.parent.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
        path.touch(mode=PRIVATE_FILE)
        path.chmod(PRIVATE_FILE)
        try:
            with self._write_lock:
                migrate(self._connection(), path)
        except sqlite3.DatabaseError as error:
            raise DamagedLibraryError(
                f"The library {path.name} cannot be opened ({error}). A backup from before the last change "
                f"of format may lie beside it; move the damaged file away and rename the backup."
            ) from error

    def read(self) -> sqlite3.Connection:
        """A connection for queries, the calling thread's own."""
        return self._connection()

    @contextmanager
    def write(self, undo_name: str | None = None, onto: int | None = None) -> Iterator[sqlite3.Connection]:
        """A transaction. With ``undo_name``, what it changes can be undone under that name.

        Args:
            onto: a step (vinyl.library.undo.recorded_step) that it goes on with, if no other came between.
        """
        with self._write_lock:
            connection = self._connection()
            connection.execute("BEGIN IMMEDIATE")
            try:
                if undo_name is not None:
                    undo.begin_step(connection, undo_name, onto=onto)
                yield connection
                if undo_name is not None:
                    undo.end_step(connection)
                connection.execute("UPDATE revision SET number = number + 1")
                connection.execute("COMMIT")
            except BaseException:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise

    def revision(self) -> int:
        """How often the library has changed."""
        return int(self._connection().execute("SELECT number FROM revision").fetchone()[0])

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
    connection.create_function("fold", 1, fold, deterministic=True)
    connection.create_function("words_of", 1, _words_of, deterministic=True)
    connection.create_function("searchable", 1, searchable, deterministic=True)
    connection.create_function("words_moved", 2, _words_moved, deterministic=True)
    connection.create_function("spread_key", 2, _spread_key, deterministic=True)
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = NORMAL")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA recursive_triggers = ON")
    connection.execute(f"PRAGMA mmap_size = {MAPPED_BYTES}")
    connection.execute(f"PRAGMA cache_size = -{CACHE_KIB}")
    connection.execute(f"PRAGMA wal_autocheckpoint = {CHECKPOINT_PAGES}")
    connection.execute("PRAGMA temp_store = MEMORY")
    return connection


def migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Bring the file to the newest schema, each step in a transaction; a copy of an older file is kept before
    the first.
    """
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    steps = [(number, script) for number, script in _migrations() if number > version]
    if version and steps:
        _backup(connection, path.with_name(f"{path.stem}-before-{steps[0][0]:04d}.db"))
    # Tables made anew must not take others with them, nor be held up by triggers that are put back below.
    connection.execute("PRAGMA foreign_keys = OFF")
    _drop_triggers(connection, MADE_ANEW)
    try:
        for number, script in steps:
            _run(connection, f"BEGIN IMMEDIATE;\n{script}\nPRAGMA user_version = {number};", "COMMIT")
    finally:
        connection.execute("PRAGMA foreign_keys = ON")
    values.install(connection)
    undo.install(connection)
    identity.install(connection)
    flat.install(connection)


def _drop_triggers(connection: sqlite3.Connection, beginnings: Sequence[str]) -> None:
    for beginning in beginnings:
        found = connection.execute(
            "SELECT name FROM sqlite_master WHERE type = 'trigger' AND name GLOB ?", (f"{beginning}*",)
        ).fetchall()
        for row in found:
            connection.execute(f"DROP TRIGGER {row['name']}")


def _run(connection: sqlite3.Connection, script: str, end: str) -> None:
    try:
        connection.executescript(script)
        astray = connection.execute("PRAGMA foreign_key_check").fetchone()
        if astray:
            raise sqlite3.DatabaseError(f"a row of {astray[0]} points to nothing in {astray[2]}")
        connection.execute(end)
    except BaseException:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise


def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("vinyl.library") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(file.name[:4]), file.read_text(encoding="utf-8")) for file in files]


def _backup(connection: sqlite3.Connection, target: Path) -> None:
    target.touch(mode=PRIVATE_FILE)
    with sqlite3.connect(target) as copy:
        connection.backup(copy)
    copy.close()


def _words_of(text: str) -> str:
    return json.dumps(words_of(text))


def _words_moved(before: str, after: str) -> str:
    """The words that came into a searchable text, those that are gone, and the initials now, as JSON."""
    old, new = words_of(before), words_of(after)
    come, gone = set(new).difference(old), set(old).difference(new)
    return json.dumps({"come": list(come), "gone": list(gone), "initials": initials_of(new)})


def _spread_key(place: int, count: int) -> str:
    return _spread(count)[place - 1]


@cache
def _spread(count: int) -> list[str]:
    return keys_between(None, None, count)
