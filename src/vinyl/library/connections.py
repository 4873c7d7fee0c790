"""Connections to a library's file, with the functions that its SQL uses. Opening changes nothing."""

from __future__ import annotations

import json
import os
import sqlite3
from functools import cache, lru_cache
from pathlib import Path

from vinyl.core.ordering import keys_between
from vinyl.core.text import fold, initials_of, is_word, searchable, words_of
from vinyl.library.clock import offset_min
from vinyl.library.numbered import with_gids

BUSY_TIMEOUT_S = 20.0
MAPPED_BYTES = 128 * 1024**2
# Room for a change of tens of thousands of rows before its pages must go to the disk; readers need less.
WRITER_CACHE_KIB, READER_CACHE_KIB = 24 * 1024, 8 * 1024
CHECKPOINT_PAGES = 4000


def connect(path: Path, read_only: bool = False, shared: bool = False) -> sqlite3.Connection:
    """A connection with rows by name, foreign keys on and transactions begun by hand only.

    Args:
        read_only: whether it refuses to write.
        shared: whether several threads use it, one after the other.

    Raises:
        sqlite3.OperationalError: if there is no file.
    """
    connection = sqlite3.connect(
        _address(path, read_only), timeout=BUSY_TIMEOUT_S, isolation_level=None, uri=True,
        check_same_thread=not shared,
    )  # fmt: skip
    connection.row_factory = sqlite3.Row
    connection.create_function("fold", 1, fold, deterministic=True)
    connection.create_function("words_of", 1, _words_of, deterministic=True)
    connection.create_function("searchable", 1, searchable, deterministic=True)
    connection.create_function("words_moved", 2, _words_moved, deterministic=True)
    connection.create_function("spread_key", 2, _spread_key, deterministic=True)
    connection.create_function("offset_min", 1, offset_min)
    connection.create_function("with_gids", 2, with_gids, deterministic=True)
    cache_kib, mapped = (WRITER_CACHE_KIB, 0) if shared else (READER_CACHE_KIB, MAPPED_BYTES)
    for setting in (
        "synchronous = NORMAL", "foreign_keys = ON", "recursive_triggers = ON", f"mmap_size = {mapped}",
        f"cache_size = -{cache_kib}", f"wal_autocheckpoint = {CHECKPOINT_PAGES}", "temp_store = MEMORY",
    ):  # fmt: skip
        connection.execute(f"PRAGMA {setting}")
    return connection


def _address(path: Path, read_only: bool) -> str:
    address = f"{path.absolute().as_uri()}?mode={'ro' if read_only else 'rw'}"
    # Where nothing can be written, not even what readers share, the file must be taken as it is.
    wal = path.with_name(f"{path.name}-wal")
    if read_only and not os.access(path.parent, os.W_OK) and not wal.exists():
        address += "&immutable=1"
    return address


def _words_of(text: str) -> str:
    return json.dumps(words_of(text))


def _words_moved(before: str, after: str) -> str:
    """The words that came into a searchable text, those that are gone, and the initials now, as JSON."""
    old, new = set(before.split()), set(after.split())
    moved = _come_and_gone(frozenset(new - old), frozenset(old - new))
    return f'{{"initials": {initials_of(new)}, {moved}}}'


# An edit of many tracks brings and takes the same words in most.
@lru_cache(maxsize=4096)
def _come_and_gone(come: frozenset[str], gone: frozenset[str]) -> str:
    """Members of a JSON object."""
    words = {"come": list(filter(is_word, come)), "gone": list(filter(is_word, gone))}
    return json.dumps(words)[1:-1]


def _spread_key(place: int, count: int) -> str:
    return _spread(count)[place - 1]


@cache
def _spread(count: int) -> list[str]:
    return keys_between(None, None, count)
