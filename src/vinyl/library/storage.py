"""What went wrong with the disk or the library file, in words that say what to do."""

from __future__ import annotations

import errno
import sqlite3

from vinyl.library.errors import LibraryBusyError

SQLITE_WORDS = {
    sqlite3.SQLITE_FULL: "The disk is full: free some space, then do it again. Nothing was lost.",
    sqlite3.SQLITE_BUSY: "Another program holds the library file. Close it, or wait a moment, then do it "
    "again.",
    sqlite3.SQLITE_LOCKED: "The library is busy with another change. Do it again in a moment.",
    sqlite3.SQLITE_READONLY: "The library file may only be read: check the permissions of Vinyl's home, or "
    "whether "
    "its disk is mounted read-only.",
    sqlite3.SQLITE_IOERR: "The disk gave an error while the library was read or written. Check the disk; a "
    "backup of "
    "Vinyl's home is advised.",
    sqlite3.SQLITE_CANTOPEN: "The library file cannot be opened: is Vinyl's home still there?",
    sqlite3.SQLITE_CORRUPT: "The library file is damaged. Stop Vinyl and go back to a backup beside it.",
}
OS_WORDS = {
    errno.ENOSPC: "The disk is full: free some space, then do it again.",
    errno.EDQUOT: "Your share of the disk is used up: free some space, then do it again.",
    errno.EROFS: "The disk is mounted read-only, so nothing can be written there.",
    errno.EACCES: "Vinyl may not use this file or folder: check its permissions.",
    errno.EPERM: "Vinyl may not use this file or folder: check its permissions.",
    errno.EIO: "The disk gave an error while it was read or written. Check the disk.",
    errno.ENOENT: "A file that was needed is not there (any more).",
    errno.EMFILE: "Too many files are open at once. Close other programs, or start Vinyl again.",
}
# What passes by itself or once the user has made room: waited for as long as it takes.
PASSING = frozenset({sqlite3.SQLITE_FULL, sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED})
OS_PASSING = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EAGAIN})


def storage_words(error: BaseException) -> str | None:
    """What an error of SQLite or of the operating system means; None for one that is a fault of
    the program."""
    if isinstance(error, LibraryBusyError):
        return str(error)
    if isinstance(error, sqlite3.DatabaseError):
        return SQLITE_WORDS.get(_code(error))
    if isinstance(error, OSError):
        return OS_WORDS.get(
            error.errno or 0, f"The disk did not do what was asked ({error.strerror or error})."
        )
    return None


def is_passing(error: BaseException) -> bool:
    """Whether the same will well work later: a full disk, a library that another program holds."""
    if isinstance(error, sqlite3.DatabaseError):
        return _code(error) in PASSING
    return isinstance(error, LibraryBusyError) or (isinstance(error, OSError) and error.errno in OS_PASSING)


def is_io_error(error: BaseException) -> bool:
    """Whether a disk failed to read or write: worth a few more tries, but not to be waited for."""
    if isinstance(error, sqlite3.DatabaseError):
        return _code(error) == sqlite3.SQLITE_IOERR
    return isinstance(error, OSError) and error.errno == errno.EIO


def _code(error: sqlite3.Error) -> int:
    """The primary result code; extended ones hold it in their lowest byte."""
    return getattr(error, "sqlite_errorcode", 0) & 0xFF
