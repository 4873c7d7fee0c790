"""The papers that players write on a stick: strangers' files, read in a worker. A line that cannot be is left
out by name, and the others count.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

from pydantic import TypeAdapter, ValidationError

from vinyl.sticks.changes import ANY_CHANGE, CHANGES_FILE, AnyChange, subject_of
from vinyl.sticks.index import read_index
from vinyl.sticks.plays import PLAY_ENTRY, PLAYS_FILE, PlayEntry, that_count

LARGEST_BYTES = 16 * 1024**2
# Lines that are named which were left out; of more their number is said.
MOST_NAMED = 20
LONGEST_WHY = 160

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Papers:
    """What stands on a stick: changes in order of time, plays, artist and title of their tracks by the ids on
    the stick, and in words what was left out.
    """

    changes: tuple[AnyChange, ...] = ()
    plays: tuple[PlayEntry, ...] = ()
    names: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    left_out: tuple[str, ...] = ()


def has_papers(folder: Path) -> bool:
    """Whether players have written anything on a stick."""
    return any((folder / name).exists() for name in (CHANGES_FILE, PLAYS_FILE))


def read_papers(folder: Path) -> Papers:
    """What players wrote on a stick, in the folder of that."""
    left_out: list[str] = []
    changes = _lines(folder / CHANGES_FILE, ANY_CHANGE, left_out)
    plays = that_count(_lines(folder / PLAYS_FILE, PLAY_ENTRY, left_out))
    wanted = {play.track for play in plays} | {subject_of(change) for change in changes}
    index, faults = read_index(folder) if wanted else (None, [])
    tracks = (track for player in (index.players if index else ()) for track in player.tracks)
    names = {track.id: (track.artist, track.title) for track in tracks if track.id in wanted}
    told = _told([*left_out, *faults])
    return Papers(tuple(sorted(changes, key=lambda each: each.at)), tuple(plays), names, told)


def _lines(path: Path, kind: TypeAdapter[T], left_out: list[str]) -> list[T]:
    """The lines of a paper; none where it is a link, too large, or cannot be read."""
    try:
        if path.is_symlink() or not path.is_file():
            return []
        if path.stat().st_size > LARGEST_BYTES:
            left_out.append(f"{path.name} is larger than {LARGEST_BYTES // 1024**2} MB: it was not read.")
            return []
        lines = path.read_bytes().split(b"\n")
    except OSError as error:
        left_out.append(f"{path.name} cannot be read: {error.strerror}.")
        return []
    found: list[T] = []
    for number, line in enumerate(lines, 1):
        try:
            found += [kind.validate_json(line)] if line.strip() else []
        except (ValidationError, RecursionError) as error:
            left_out.append(f"{path.name}, line {number}: {_why(error)}")
    return found


def _why(error: ValidationError | RecursionError) -> str:
    if isinstance(error, RecursionError):
        return "it holds itself too often."
    first = error.errors(include_url=False, include_input=False)[0]
    where = " ".join(str(part) for part in first["loc"])
    said = f"{where}: {first['msg']}" if where else first["msg"]
    return f"{said[:LONGEST_WHY]}."


def _told(left_out: list[str]) -> tuple[str, ...]:
    rest = len(left_out) - MOST_NAMED
    return (*left_out[:MOST_NAMED], *([f"{rest} more were left out."] if rest > 0 else []))
