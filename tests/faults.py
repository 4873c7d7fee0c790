"""Faults on purpose: a full disk, a dead worker, a slow disk, a broken file."""

from __future__ import annotations

import os
import signal
import sqlite3
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from vinyl.library.database import Database


@contextmanager
def full_disk(database: Database) -> Iterator[None]:
    """Every write of the library fails as SQLite says it when no page is left; reading goes on."""
    error = full_error()

    @contextmanager
    def write(*given: object, **named: object) -> Iterator[sqlite3.Connection]:
        raise error
        yield

    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(database, "write", write)
        yield


def full_error() -> sqlite3.OperationalError:
    """The real error of a database that may not grow."""
    with sqlite3.connect(":memory:") as connection:
        connection.execute("CREATE TABLE t (x)")
        connection.execute("PRAGMA max_page_count = 3")
        try:
            connection.execute("INSERT INTO t VALUES (zeroblob(100000))")
        except sqlite3.OperationalError as error:
            return error
    raise AssertionError("the database was not full")


def die_once(mark: Path) -> None:
    """Kill the process in hand, the first time that it comes by."""
    if not mark.exists():
        mark.touch()
        os.kill(os.getpid(), signal.SIGKILL)


@contextmanager
def slow_disk(target: str, by_s: float) -> Iterator[None]:
    """Have a function that touches the disk take so much longer."""
    with pytest.MonkeyPatch.context() as patched:
        module, _, name = target.rpartition(".")
        original = getattr(__import__(module, fromlist=[name]), name)

        def slow(*given: object, **named: object) -> object:
            time.sleep(by_s)
            return original(*given, **named)

        patched.setattr(target, slow)
        yield


def break_file(path: Path, keep: float = 0.5) -> Path:
    """Cut a file off, its length as it was: the rest is noise that decodes to nothing."""
    data = path.read_bytes()
    kept = int(len(data) * keep)
    path.write_bytes(data[:kept] + b"\x5a\xa5" * ((len(data) - kept) // 2))
    return path
