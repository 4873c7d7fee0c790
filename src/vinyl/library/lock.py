"""One server a home: two would both take up the same work."""

from __future__ import annotations

import fcntl
from pathlib import Path
from typing import TextIO

from vinyl.library.errors import LibraryError

LOCK = "in-use.lock"


class HomeInUseError(LibraryError):
    """Another server works on this home."""


def lock_home(home: Path) -> TextIO:
    """Claim a home until the returned file is closed or the process ends, however it ends.

    Raises:
        HomeInUseError: if another process has it.
    """
    home.mkdir(parents=True, exist_ok=True)
    file = (home / LOCK).open("a+")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        file.close()
        raise HomeInUseError(
            f"Vinyl is already running on {home}. Use its window, or start with another --home."
        ) from error
    return file


def note_address(lock: TextIO, address: str) -> None:
    """Write down where the server of a claimed home answers."""
    lock.truncate(0)
    lock.write(address)
    lock.flush()


def address_of(home: Path) -> str:
    """Where the server that has claimed a home answers, "" if it has not said."""
    return (home / LOCK).read_text(encoding="utf-8")
