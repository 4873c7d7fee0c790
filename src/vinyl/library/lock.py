"""One server a home: two would both take up the same work."""

from __future__ import annotations

import fcntl
from pathlib import Path
from typing import TextIO

from vinyl.library.errors import LibraryError


class HomeInUseError(LibraryError):
    """Another server works on this home."""


def lock_home(home: Path) -> TextIO:
    """Claim a home until the returned file is closed or the process ends, however it ends.

    Raises:
        HomeInUseError: if another process has it.
    """
    home.mkdir(parents=True, exist_ok=True)
    file = (home / "in-use.lock").open("w")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        file.close()
        raise HomeInUseError(
            f"Vinyl is already running on {home}. Use its window, or start with another --home."
        ) from error
    return file
