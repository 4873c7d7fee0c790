"""What a playlist file says, whatever its format."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Entry:
    """A line of a list; text that is not known is empty. ``path`` and ``played`` are as they were written."""

    path: str = ""
    artist: str = ""
    title: str = ""
    duration_s: float | None = None
    played: str = ""


@dataclass(frozen=True, slots=True)
class Mark:
    """A track of a long recording: where it begins, in seconds, and its name."""

    start_s: float
    title: str


@dataclass(frozen=True, slots=True)
class Sheet:
    """A cue sheet's file, as its path was written, with the tracks it is divided into."""

    path: str
    marks: tuple[Mark, ...]


@dataclass(frozen=True, slots=True)
class Columns:
    """Which column of a table holds what, from 0; None where none does."""

    path: int | None = None
    artist: int | None = None
    title: int | None = None
    played: int | None = None


@dataclass(frozen=True, slots=True)
class Table:
    """A table's head and first rows, for choosing its columns, and how they are understood now."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    columns: Columns


@dataclass(frozen=True, slots=True)
class Playlist:
    """A list of entries in order, or a cue sheet's files.

    ``passed_over`` counts lines that are no entries of files, such as addresses of streams.
    """

    name: str
    encoding: str
    entries: tuple[Entry, ...] = ()
    sheets: tuple[Sheet, ...] = ()
    table: Table | None = None
    passed_over: int = 0
