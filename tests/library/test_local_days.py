"""Days are those of the clock on the wall where something was, in three time zones, and stay so wherever the
computer is later.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from pathlib import Path

import pytest

from tests.library.making import new_track
from tests.zones import AUCKLAND, LONDON, NEW_YORK, in_zone
from vinyl.core.rules.conditions import Added, LastPlayed, LastPlayedAt
from vinyl.jobs.nights import Given, NightReader, Telling
from vinyl.jobs.workers import Workers
from vinyl.library import gigs, logbook, plays, venues
from vinyl.library.clock import evening, local_day, offset_min
from vinyl.library.database import Database
from vinyl.library.find import Order, find_ids, get_rows
from vinyl.library.gigs import Facts
from vinyl.library.plays import Coming
from vinyl.library.taking_in import take_in
from vinyl.media.files import AllowedRoots
from vinyl.operations.logbook import add_plays

ZONES = (NEW_YORK, LONDON, AUCKLAND)


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database.prepared(tmp_path / "library.db")


def night_of(database: Database, on: date, begins_min: float, minutes: tuple[int, ...] = (0, 6, 12)) -> int:
    """A night at which one new track after the other was played; gives the gig."""
    with database.write("Night") as connection:
        venue = venues.named(connection, "The Slipway")
        tracks = [new_track(connection, f"{on} {minute}") for minute in minutes]
        coming = [
            Coming(track, played_at=evening(on, begins_min + minute))
            for track, minute in zip(tracks, minutes, strict=True)
        ]
        return take_in(connection, coming, Facts(evening(on, begins_min), venue), "file").gig_id


@pytest.mark.parametrize("zone", ZONES)
@pytest.mark.parametrize(
    ("on", "begins_min"),
    [
        (date(2026, 11, 20), 22 * 60),
        (date(2026, 11, 20), 5),
        (date(2026, 12, 31), 23 * 60 + 55),
        (date(2028, 2, 29), 20 * 60),
        # The nights on which the clocks of these zones are put back or on.
        (date(2026, 10, 24), 23 * 60 + 58),
        (date(2026, 11, 1), 60),
        (date(2026, 9, 26), 23 * 60 + 58),
        (date(2026, 3, 29), 30),
    ],
)
def test_a_night_belongs_to_the_day_it_began_on_in_every_count(
    database: Database, zone: str, on: date, begins_min: float
) -> None:
    with in_zone(zone):
        gig = night_of(database, on, begins_min, (0, 6, 12, 240))
        read = database.read()
        (begun,) = gigs.list_gigs(read)
        assert begun.facts.began.date() == on
        last = plays.list_plays(read, gig)[-1].track_id
        assert last is not None
        assert get_rows(read, [last])[0]["last_played"] == str(on)
        for same_day in (LastPlayed(str(on), str(on)), LastPlayedAt(1, str(on), str(on))):
            assert len(find_ids(read, same_day, Order("title"))) == 4
        assert logbook.figures(read, str(on), str(on)).months == {str(on)[:7]: 4}


@pytest.mark.parametrize("zone", ZONES)
def test_what_was_added_today_was_added_today(database: Database, zone: str) -> None:
    with in_zone(zone), database.write("Add") as connection:
        track = new_track(connection, "New")
        for at, minutes in (("2026-11-20T23:30", 0), ("2026-11-21T00:30", 1)):
            on = date.fromisoformat(at[:10])
            stored = evening(on, 23 * 60 + 30 if not minutes else 30)
            assert local_day(stored, offset_min(stored)) == on
            connection.execute(
                "UPDATE track SET added_at = ?, added_offset_min = ? WHERE id = ?",
                (stored, offset_min(stored), track),
            )
            plays.flat.settle(connection, [track])
            assert get_rows(connection, [track])[0]["added_at"][:10] == str(on)
            assert find_ids(connection, Added(str(on), str(on)), Order("title")) == [track]


@pytest.mark.parametrize("away", ZONES)
@pytest.mark.parametrize("home", ZONES)
def test_the_day_of_a_night_stays_when_the_computer_travels(database: Database, home: str, away: str) -> None:
    on = date(2026, 11, 20)
    with in_zone(home):
        gig = night_of(database, on, 23 * 60)
    with in_zone(away):
        add_plays(database, gig, [], "00:30 Nils Weir – Bollard", None)
        (found,) = gigs.list_gigs(database.read())
        assert (found.facts.began.date(), found.facts.began.hour) == (on, 23)
        bollard = plays.list_plays(database.read(), gig)[-1]
        assert bollard.played_at == evening(on, 24 * 60 + 30, found.facts.zone)
        assert logbook.figures(database.read(), str(on), str(on)).months == {"2026-11": 4}
        with database.write("Later") as connection:
            gigs.change_gig(connection, gig, {"note": "Rain."})
        assert gigs.get_gig(database.read(), gig).facts.began.hour == 23


@pytest.fixture
def reader(database: Database, tmp_path: Path) -> Iterator[NightReader]:
    workers = Workers(1)
    yield NightReader(database, AllowedRoots([tmp_path]), workers)
    workers.stop()


def times(reader: NightReader, telling: Telling, given: Given) -> list[list[str | None]]:
    """The times that are read, night by night."""
    return [[play.played_at for play in night.plays] for night in reader.look(telling, given).nights]


def test_a_table_is_read_in_one_order_of_days_and_months(reader: NightReader, tmp_path: Path) -> None:
    table = Telling(path=tmp_path / "history.csv")
    lines = "Artist,Title,Played at\nKelp Union,One,11/12/2026 22:00\nKelp Union,Two,11/13/2026 22:10\n"
    with in_zone(NEW_YORK):
        (tmp_path / "history.csv").write_text(lines)
        assert times(reader, table, Given()) == [
            [evening(date(2026, 11, 12), 1320)],
            [evening(date(2026, 11, 13), 1330)],
        ]
        # A date without a time counts for the day, and gives none to the play.
        (tmp_path / "history.csv").write_text(lines.replace(" 22:00", "").replace(" 22:10", ""))
        told = reader.look(table, Given()).nights
        assert [str(night.facts.began.date()) for night in told] == ["2026-11-12", "2026-11-13"]
        assert times(reader, table, Given()) == [[None], [None]] and not told[0].facts.timed


def test_a_typed_night_that_begins_late_passes_midnight(reader: NightReader) -> None:
    on = date(2026, 11, 20)
    with in_zone(LONDON):
        typed = Telling(text="00:10 Anna Weir – Bollard\n00:20 Two")
        (night,) = reader.look(typed, Given(on, begins="23:30", ends="02:00")).nights
        assert [play.played_at for play in night.plays] == [evening(on, 1450), evening(on, 1460)]
        assert (night.facts.began_at, night.facts.ended_at) == (evening(on, 1410), evening(on, 1560))
