"""Putting a file in the place of another: whole or not at all, and the one that was there kept beside it."""

from __future__ import annotations

import os
import re
import shutil
from contextlib import suppress
from datetime import datetime
from pathlib import Path

from vinyl.media.files import replacing

# How often what was in a place is kept, and what its name ends in then.
KEPT = 8
BACKUP = r"(-wal|-journal|-shm)?\.backup-\d{8}-\d{6}(-\d+)?"


def swap_in(part: Path, place: Path, at: datetime) -> Path | None:
    """Put a file that is whole in a place; returns where what was there is kept, or None.

    At any moment there is the old file in its place, or the new one.

    Raises:
        OSError: if the disk does not do it; the place is as it was.
    """
    with part.open("rb+") as file:
        os.fsync(file.fileno())
    kept = keep(place, at)
    part.replace(place)
    forget_old(place)
    return kept


def forget_old(place: Path) -> None:
    """Keep the newest of what was in a place before, and no more than KEPT of it."""
    pattern = re.compile(re.escape(place.name) + BACKUP)
    found = [each for each in place.parent.iterdir() if pattern.fullmatch(each.name)]
    for old in sorted(found, key=lambda each: each.name)[:-KEPT]:
        with suppress(OSError):
            old.unlink()


def keep(place: Path, at: datetime) -> Path | None:
    """Keep what is in a place under a name with a date; None where nothing is."""
    if not place.exists():
        return None
    kept = free_beside(place, f"{place.name}.backup-{at:%Y%m%d-%H%M%S}")
    try:
        os.link(place, kept)
    except OSError:  # drives without links
        with replacing(kept) as part:
            shutil.copyfile(place, part)
    return kept


def free_beside(place: Path, name: str) -> Path:
    """A path beside a place that is not taken."""
    number, found = 1, place.with_name(name)
    while found.exists():
        number += 1
        found = place.with_name(f"{name}-{number}")
    return found
