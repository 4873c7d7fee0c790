"""Whether everything that Vinyl wrote on a stick is there, bit for bit."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path

from vinyl.sticks.index import is_on_stick
from vinyl.sticks.medium import Medium, check_in
from vinyl.sticks.own_files import OwnFile
from vinyl.sticks.writing import sha256_of

MISSING, OTHER = "it is not there any more", "it is not what was written"


def damage_of(medium: Medium, own: OwnFile) -> str:
    """What is wrong with a file, in words; nothing if it is whole.

    Raises:
        StickGoneError: if the stick was taken out.
    """
    path = medium.folder / own.path
    check_in(medium)
    if not is_on_stick(medium.folder, own.path) or not path.is_file():
        return MISSING
    try:
        if path.stat().st_size != own.bytes:
            return OTHER
        _from_medium(path)
        return "" if sha256_of(path) == own.sha256 else OTHER
    except OSError as error:
        check_in(medium)
        return f"it cannot be read ({error.strerror})"


def check_files(
    medium: Medium, files: list[OwnFile], tell: Callable[[int, str], None]
) -> Iterator[tuple[str, str]]:
    """The files that are not whole, with what is wrong; ``tell`` hears of bytes that are done, and a file."""
    done = 0
    for own in files:
        tell(done, own.path)
        if damage := damage_of(medium, own):
            yield own.path, damage
        done += own.bytes or 0
    tell(done, "")


def _from_medium(path: Path) -> None:
    """Have a file read from the medium and not from memory."""
    if hasattr(os, "posix_fadvise"):
        with path.open("rb") as file:
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
