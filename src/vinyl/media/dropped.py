"""Where files lie that were dropped into the window: a browser tells names and sizes, but not folders."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from vinyl.media.files import walk_files

# Folders of a home in which what was just got usually lies.
USUAL = ("Downloads", "Desktop", "Music", "Musik", "Documents")
MOST_LOOKED_AT = 300_000


@dataclass(frozen=True, slots=True)
class Dropped:
    """A file's name and its size in bytes."""

    name: str
    size_bytes: int


def usual_folders(home: Path) -> list[Path]:
    """Where dropped files are looked for besides the folders that the library knows."""
    return [home / name for name in USUAL if (home / name).is_dir()]


def find_dropped(wanted: Sequence[Dropped], folders: Iterable[Path]) -> dict[Dropped, list[str]]:
    """The files of these names and sizes in some folders; several where there are several alike.

    Folders are looked through in order, until each name is found, or there is too much to look at.
    """
    missing = {(each.name, each.size_bytes): each for each in wanted}
    names = {each.name for each in wanted}
    found: dict[Dropped, list[str]] = {}
    seen: set[Path] = set()
    looked_at = 0
    for folder in folders:
        if any(folder.is_relative_to(other) for other in seen):
            continue
        seen.add(folder)
        for path in walk_files(folder):
            looked_at += 1
            if looked_at > MOST_LOOKED_AT:
                return found
            each = _match(path, missing) if path.name in names else None
            if each is not None:
                found.setdefault(each, []).append(str(path))
        if len(found) == len(missing):
            break
    return found


def _match(path: Path, missing: dict[tuple[str, int], Dropped]) -> Dropped | None:
    try:
        return missing.get((path.name, path.stat().st_size))
    except OSError:
        return None
