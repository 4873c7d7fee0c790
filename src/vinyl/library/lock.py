"""One server a home: two would both take up the same work. Beside the lock stands how it can be asked."""

from __future__ import annotations

import fcntl
import json
import secrets
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

from vinyl.library.errors import LibraryError, StorageError
from vinyl.library.storage import storage_words
from vinyl.media.files import new_file

LOCK = "in-use.lock"
KEY = "key"
KEY_BYTES = 16
# Which commands show a server its key by; a browser has it in a cookie.
KEY_HEADER = "X-Vinyl-Key"
PRIVATE_FOLDER, PRIVATE_FILE = 0o700, 0o600


class HomeInUseError(LibraryError):
    """Another server works on this home."""


@dataclass(frozen=True, slots=True)
class Running:
    """Where the server of a home answers, and the key that only its owner can read."""

    address: str
    key: str


def lock_home(home: Path) -> TextIO:
    """Claim a home, which is made if it is not there, until the returned file is closed or the process ends,
    however it ends.

    Raises:
        HomeInUseError: if another process has it.
        StorageError: if nothing can be written there.
    """
    try:
        _make_private(home)
        file = (home / LOCK).open("a+")
    except OSError as error:
        raise StorageError(f"Vinyl's home {home} cannot be used. {storage_words(error)}") from error
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        file.close()
        raise HomeInUseError(
            f"Vinyl is already running on {home}. Use its window, or start with another --home."
        ) from error
    return file


def _make_private(home: Path) -> None:
    """Let only its owner look into a home: also into one that an older Vinyl has made."""
    if not home.exists():
        home.mkdir(parents=True, mode=PRIVATE_FOLDER)
    elif (home / LOCK).exists() and home.stat().st_mode & 0o077:
        home.chmod(PRIVATE_FOLDER)


def key_of(home: Path) -> str:
    """The key of a home that is locked; made where there is none yet."""
    path = home / KEY
    kept = path.read_text(encoding="ascii", errors="replace").strip() if path.exists() else ""
    if len(kept) != 2 * KEY_BYTES:  # none yet, or a file that was not written to its end
        kept = secrets.token_hex(KEY_BYTES)
        new_file(path, PRIVATE_FILE).write_text(kept, encoding="ascii")
    return kept


def note_address(lock: TextIO, address: str) -> None:
    """Write down where the server of a claimed home answers."""
    lock.truncate(0)
    lock.write(json.dumps({"address": address}))
    lock.flush()


def running_at(home: Path) -> Running | None:
    """How the server that has claimed a home can be asked; None if it has not said yet."""
    try:
        address = json.loads((home / LOCK).read_text(encoding="utf-8"))["address"]
        return Running(str(address), (home / KEY).read_text(encoding="ascii").strip())
    except (OSError, ValueError, KeyError, TypeError):
        return None
