"""Nights from elsewhere: what a file, typed lines or a list tell of, and taking it into the Logbook."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path

from vinyl.core.logbook.clock_times import (
    Moment,
    Order,
    order_of,
    past_midnight,
    read_clock,
    read_moment,
)
from vinyl.core.logbook.nights import split_nights
from vinyl.core.logbook.typed import read_lines
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists import LIST_SUFFIXES, Columns, Entry, read_playlist
from vinyl.exchange.lists.m3u import split_name
from vinyl.exchange.lists.model import Sheet, Table
from vinyl.exchange.lists.text import decode
from vinyl.jobs.workers import Workers
from vinyl.library import crates, find, taking_in, venues
from vinyl.library.clock import (
    evening,
    from_seconds,
    local_day,
    minutes_of,
    offset_min,
    seconds,
    stored,
    today,
)
from vinyl.library.database import Database
from vinyl.library.gigs import MOST_PLAYS, Facts
from vinyl.library.named import Names, find_path
from vinyl.library.plays import Coming, PlaySource
from vinyl.library.taking_in import Taken
from vinyl.media.files import AllowedRoots

READ_LIMIT_S = 60.0
LARGEST_TEXT_BYTES = 4 * 1024**2
NIGHT_SUFFIXES = LIST_SUFFIXES | {".txt"}
# The time of day that stands for a date alone.
NOON_MIN = 12 * 60.0


@dataclass(frozen=True, slots=True)
class Telling:
    """What tells of nights: a file, lines that were typed, or a list of the library."""

    path: Path | None = None
    text: str | None = None
    crate_id: int | None = None
    columns: Columns | None = None


@dataclass(frozen=True, slots=True)
class Given:
    """What is said of a night beside what was played; times as "HH:MM"."""

    on: date | None = None
    begins: str | None = None
    ends: str | None = None
    venue_id: int | None = None
    kind: str = ""
    name: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class Night:
    """A night that is told of. ``same`` is the gig that tells of it already, ``shared`` what both tell of."""

    facts: Facts
    plays: tuple[Coming, ...]
    same: int | None = None
    shared: int = 0


@dataclass(frozen=True, slots=True)
class Told:
    """All that is told. Without a date in it one must be given: until then it is taken for today's."""

    nights: list[Night]
    has_dates: bool
    table: Table | None = None


@dataclass(frozen=True, slots=True)
class _Line:
    """A play as it is told: a moment, which may be a date alone, or seconds after midnight, or seconds after
    the beginning.
    """

    play: Coming
    moment: Moment | None = None
    clock_s: float | None = None
    into_s: float | None = None


class NightReader:
    """Reads what tells of nights, and takes it in."""

    def __init__(self, database: Database, roots: AllowedRoots, quick: Workers) -> None:
        self._database, self._roots, self._quick = database, roots, quick

    def look(self, telling: Telling, given: Given) -> Told:
        """What would be taken in; nothing is changed.

        Raises:
            FolderError: for a file outside the allowed folders.
            ListError: for one that cannot be read, and if nothing is told.
        """
        read = self._database.read()
        lines, table, came_from = self._lines(read, telling)
        if len(lines) > 50 * MOST_PLAYS:
            raise ListError(f"These are {len(lines):,} plays; {50 * MOST_PLAYS:,} can be taken in at once.")
        has_dates = any(line.moment for line in lines)
        nights = [_night(part, given, came_from) for part in _parts(lines)] if has_dates else [
            _night(lines, given, came_from)
        ]  # fmt: skip
        too_long = next((len(night.plays) for night in nights if len(night.plays) > MOST_PLAYS), 0)
        if too_long:
            raise ListError(f"A night can have {MOST_PLAYS:,} plays at the most; this has {too_long:,}.")
        return Told([_with_same(read, night) for night in nights], has_dates, table)

    def take_in(self, telling: Telling, given: Given, venue: str = "") -> list[Taken]:
        """Take nights in, each joined with a gig that tells of it already.

        Args:
            venue: where they were; it is made if there is none of this name.

        Raises:
            FolderError, ListError: as ``look``.
        """
        told = self.look(telling, given)
        nights = [night for night in told.nights if night.plays or not telling.path]
        source: PlaySource = "file" if telling.path else "list" if telling.crate_id is not None else "by hand"
        what = "a night" if len(nights) == 1 else f"{len(nights)} nights"
        with self._database.write(f"Take {what} into the Logbook") as connection:
            venue_id = venues.named(connection, venue) if venue.strip() else given.venue_id
            facts = [replace(night.facts, venue_id=venue_id) for night in nights]
            return [
                taking_in.take_in(connection, night.plays, each, source)
                for night, each in zip(nights, facts, strict=True)
            ]

    def _lines(self, read: sqlite3.Connection, telling: Telling) -> tuple[list[_Line], Table | None, str]:
        if telling.crate_id is not None:
            rows = find.get_rows(read, crates.crate_tracks(read, telling.crate_id))
            name = crates.get_crate(read, telling.crate_id).name
            return [_Line(Coming(row["id"])) for row in rows], None, f"the list “{name}”"
        if telling.path is not None:
            return self._of_file(read, telling.path, telling.columns)
        return _typed(read, telling.text or ""), None, ""

    def _of_file(
        self, read: sqlite3.Connection, path: Path, columns: Columns | None
    ) -> tuple[list[_Line], Table | None, str]:
        real = self._roots.check_file_or_folder(path)
        if real.suffix.lower() not in NIGHT_SUFFIXES or not real.is_file():
            raise ListError(f"{real.name} is no list of what was played that Vinyl can read.")
        if real.suffix.lower() == ".txt":
            return _typed(read, _text_of(real)), None, real.name
        playlist = self._quick.run(read_playlist, real, columns, timeout_s=READ_LIMIT_S)
        names = Names(read, len(playlist.entries) + sum(len(sheet.marks) for sheet in playlist.sheets))
        order = order_of(entry.played for entry in playlist.entries)
        lines = [_entry(read, names, entry, real.parent, order) for entry in playlist.entries]
        lines += [line for sheet in playlist.sheets for line in _sheet(names, sheet)]
        if not lines and playlist.table is None:
            raise ListError(f"{real.name} tells of nothing that was played.")
        return lines, playlist.table, real.name


def _text_of(path: Path) -> str:
    try:
        if path.stat().st_size > LARGEST_TEXT_BYTES:
            raise ListError(f"{path.name} is too large for a list of what was played.")
        text, _ = decode(path.read_bytes())
    except OSError as error:
        raise ListError(f"{path.name} cannot be read: {error.strerror}.") from error
    return text


def _typed(read: sqlite3.Connection, text: str) -> list[_Line]:
    typed = read_lines(text)
    names, lines = Names(read, len(typed)), []
    for line in typed:
        clock_s = None if line.begins_min is None else 60 * line.begins_min
        play = Coming(names.find(line.artist, line.title), line.artist, line.title)
        lines.append(_Line(play, clock_s=clock_s))
    return lines


def _entry(read: sqlite3.Connection, names: Names, entry: Entry, folder: Path, order: Order) -> _Line:
    file = entry.path.replace("\\", "/").rpartition("/")[2]
    artist, title = entry.artist, entry.title
    if not title:
        artist, title = split_name(file.rpartition(".")[0] or file)
    texts = dict.fromkeys((entry.path, entry.path.strip())) if entry.path else ()
    paths = [path for text in texts for path in (text, str(folder / text))]
    track_id = find_path(read, paths) or names.find(artist, title)
    moment = read_moment(entry.played, order)
    clock_s = None if moment else read_clock(entry.played)
    return _Line(Coming(track_id, artist, title), moment, clock_s)


def _sheet(names: Names, sheet: Sheet) -> list[_Line]:
    """The tracks of a recording."""
    lines = []
    for mark in sheet.marks:
        artist, title = split_name(mark.title.replace(" – ", " - "))
        lines.append(_Line(Coming(names.find(artist, title), artist, title), into_s=mark.start_s))
    return lines


def _parts(lines: Sequence[_Line]) -> list[list[_Line]]:
    """Lines with dates, in the order of time, night by night; those without stand with the line before."""
    moments: list[float] = []
    for line in lines:
        moments.append(line.moment.at.timestamp() if line.moment else moments[-1] if moments else 0.0)
    places = sorted(range(len(lines)), key=lambda place: moments[place])
    nights = split_nights([moments[place] for place in places])
    return [[lines[places[step]] for step in night] for night in nights]


def _night(lines: Sequence[_Line], given: Given, came_from: str) -> Night:
    plays = _timed(lines, given)
    told = [play.played_at for play in plays if play.played_at]
    on, begins = given.on or _first_day(lines) or today(), given.begins
    if told and lines[0].moment:
        began_at, timed = min(told), True
    elif told or begins:
        at = [evening(on, minutes_of(begins))] if begins else []
        began_at, timed = min([*at, *told]), True
    else:
        began_at, timed = evening(on, NOON_MIN), False
    facts = Facts(
        began_at,
        given.venue_id,
        given.name,
        given.kind,
        _end(given, began_at, told),
        timed,
        given.note,
        came_from,
    )
    return Night(facts, tuple(plays))


def _first_day(lines: Sequence[_Line]) -> date | None:
    return next((line.moment.on for line in lines if line.moment), None)


def _timed(lines: Sequence[_Line], given: Given) -> list[Coming]:
    """Plays with their times, as far as they are known."""
    on = given.on or _first_day(lines) or today()
    begins_s = 60.0 * minutes_of(given.begins) if given.begins else None
    clocks = past_midnight([line.clock_s for line in lines], begins_s)
    begins = evening(on, minutes_of(given.begins)) if given.begins else None
    plays = []
    for line, clock_s in zip(lines, clocks, strict=True):
        at = None
        if line.moment and line.moment.clock_s is not None:
            at = stored(line.moment.at)
        elif clock_s is not None:
            at = evening(on, clock_s / 60)
        elif line.into_s is not None and begins:
            at = from_seconds(seconds(begins) + line.into_s)
        plays.append(replace(line.play, played_at=at))
    return plays


def _end(given: Given, began_at: str, told: Sequence[str]) -> str | None:
    if given.ends:
        on = local_day(began_at, offset_min(began_at))
        end = evening(on, minutes_of(given.ends))
        return end if end > began_at else evening(on, minutes_of(given.ends) + 24 * 60)
    return max(told) if told else None


def _with_same(read: sqlite3.Connection, night: Night) -> Night:
    found = taking_in.find_same(read, night.plays, night.facts)
    return replace(night, same=found[0], shared=found[2].shared) if found else night
