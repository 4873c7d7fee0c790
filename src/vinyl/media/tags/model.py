"""What a file can say of itself, whatever way its format writes it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, fields, replace

# What is said of a file after its own values: where nothing is said it is not merged.
NOT_MERGED = frozenset({"problem"})


@dataclass(frozen=True, slots=True)
class Chapter:
    """A mark in seconds; one with an end is a stretch, which ``loops`` if the file says so."""

    start_s: float
    end_s: float | None = None
    title: str = ""
    loops: bool = False


@dataclass(frozen=True, slots=True)
class Tags:
    """What a file says of itself; missing text is empty.

    ``rating`` is 0 (none) to 5 stars, ``energy`` 0 to 100, ``plays`` how often it was played, ``gain_db`` the
    ReplayGain of the track. Several artists or genres are joined by "; ".
    """

    title: str = ""
    artist: str = ""
    album: str = ""
    genre: str = ""
    label: str = ""
    comment: str = ""
    key: str = ""
    year: int | None = None
    bpm: float | None = None
    rating: int = 0
    remixer: str = ""
    catalogue: str = ""
    grouping: str = ""
    composer: str = ""
    language: str = ""
    isrc: str = ""
    explicit: bool | None = None
    energy: int | None = None
    plays: int | None = None
    gain_db: float | None = None
    chapters: tuple[Chapter, ...] = ()
    picture: bytes | None = field(default=None, repr=False)
    problem: str = field(default="", compare=False)


def first_of(sources: Iterable[Tags]) -> Tags:
    """Each value from the first source that has one, for files that carry several kinds of tags."""
    found = Tags()
    for source in sources:
        missing = {
            each.name: getattr(source, each.name)
            for each in fields(Tags)
            if each.name not in NOT_MERGED and getattr(found, each.name) in (None, "", 0, ())
        }
        found = replace(found, **missing)
    return found
