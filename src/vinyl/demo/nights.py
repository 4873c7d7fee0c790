"""The Logbook of the resident of the Slipway Bar: a year of nights as a DJ leaves them, some of them
untidy.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from vinyl.core.logbook.recurring import next_date
from vinyl.demo.scenario import SONGS, Song
from vinyl.library import gigs, plays, taking_in, venues
from vinyl.library.clock import evening, from_seconds, seconds
from vinyl.library.database import Database
from vinyl.library.gigs import Facts
from vinyl.library.plays import Coming, PlaySource
from vinyl.library.venues import Recurring

FRIDAY, SATURDAY, SUNDAY = 4, 5, 6
SLIPWAY, BOATHOUSE, HALL = "The Slipway", "Boathouse Bar", "Lantern Hall"
# Weeks before the last Friday at which the resident played where, and a wedding now and then.
FRIDAYS = (0, 1, 2, 3, 4, 5, 7, 8, 10, 12, 14, 17, 20, 24, 30, 37)
SUNDAYS = (1, 3, 6, 9, 13, 18, 26, 33)
WEDDINGS = (6, 15, 22, 28, 41, 50)
# What was played once and is not on the Shelf.
GUESTS = (("Harbour Choir", "Sailmaker (unreleased)"), ("", "that edit from Maren"), ("Nils Weir", "Bollard"))
# Styles in the order of an evening.
ARCS: dict[str, Sequence[str]] = {
    SLIPWAY: ("dub", "downtempo", "disco-live", "disco", "house", "house", "techno", "breaks", "house"),
    BOATHOUSE: ("downtempo", "dub", "dembow", "disco-live", "disco", "downtempo"),
    HALL: ("waltz", "disco-live", "disco", "house", "dembow", "house"),
}
BEGINS = {SLIPWAY: 21 * 60, BOATHOUSE: 17 * 60, HALL: 19 * 60 + 30}
KINDS = {SLIPWAY: "weekly", BOATHOUSE: "weekly", HALL: "wedding"}
LENGTHS = {SLIPWAY: 18, BOATHOUSE: 12, HALL: 16}
MINUTES = (6, 9)


def make_nights(database: Database, today: date, seed: int = 3) -> None:
    """Fill an empty Logbook; titles are kept as text and are matched when the demo music comes in."""
    random = np.random.default_rng(seed)
    with database.write() as connection:
        ids = {name: venues.named(connection, name) for name in (SLIPWAY, BOATHOUSE, HALL)}
        venues.change_venue(connection, ids[SLIPWAY], {"players": "Quay One, two of them"})
        venues.say_recurring(connection, ids[SLIPWAY], [_weekly(ids[SLIPWAY], FRIDAY, "21:00", "23:30")])
        venues.say_recurring(connection, ids[BOATHOUSE], [_weekly(ids[BOATHOUSE], SUNDAY, "17:00", None)])
        venues.change_venue(connection, ids[HALL], {"clean_words": True, "note": "Families until ten."})
        for place, (name, on) in enumerate(_calendar(today)):
            coming, facts = _night(random, name, on, ids[name])
            facts, source = _untidy(place, facts)
            made = [replace(play, played_at=None) for play in coming] if not facts.timed else coming
            gig_id = taking_in.take_in(connection, made, facts, source).gig_id
            if facts.venue_id:
                _mark(connection, random, gig_id)
        for days in (2, 9, 11, 23, 40):
            coming, facts = _practice(random, today - timedelta(days))
            taking_in.take_in(connection, coming, facts, "player")
        # Where the music came first, as after a start that was broken off, nothing new is to come.
        there = [row[0] for row in connection.execute("SELECT id FROM track")]
        plays.match_new(connection, there)


def _weekly(venue_id: int, weekday: int, begins: str, ends: str | None) -> Recurring:
    return Recurring(None, venue_id, weekday, begins, ends, "weekly")


def _calendar(today: date) -> list[tuple[str, date]]:
    """The thirty nights, the newest first."""
    nights = []
    for name, weekday, weeks in (
        (SLIPWAY, FRIDAY, FRIDAYS),
        (BOATHOUSE, SUNDAY, SUNDAYS),
        (HALL, SATURDAY, WEDDINGS),
    ):
        last = next_date(weekday, today) - timedelta(7)
        last -= timedelta(7) if last == today else timedelta(0)
        nights += [(name, last - timedelta(7 * back)) for back in weeks]
    return sorted(nights, key=lambda night: night[1], reverse=True)


def _night(random: np.random.Generator, name: str, on: date, venue_id: int) -> tuple[list[Coming], Facts]:
    songs = _songs(random, name)
    at = seconds(evening(on, BEGINS[name] + int(random.integers(0, 12))))
    coming = []
    for song in songs:
        length_s = 60.0 * float(random.uniform(*MINUTES))
        coming.append(Coming(None, song.artist, song.title, from_seconds(at), round(length_s)))
        at += length_s - 20.0
    if random.random() < 0.3:
        artist, title = GUESTS[int(random.integers(len(GUESTS)))]
        place = int(random.integers(3, len(coming)))
        coming[place] = replace(coming[place], artist=artist, title=title)
    facts = Facts(coming[0].played_at or "", venue_id, kind=KINDS[name], ended_at=from_seconds(at))
    return coming, facts


def _songs(random: np.random.Generator, name: str) -> list[Song]:
    """Songs along the arc of an evening there, none of them twice."""
    held = [song for song in SONGS if song.title and song.artist]
    chosen: list[Song] = []
    arc = ARCS[name]
    for place in range(LENGTHS[name]):
        style = arc[place * len(arc) // LENGTHS[name]]
        free = [song for song in held if song not in chosen]
        fitting = [song for song in free if song.style == style] or free
        chosen.append(fitting[int(random.integers(len(fitting)))])
    return chosen


def _untidy(place: int, facts: Facts) -> tuple[Facts, PlaySource]:
    """Some nights came from a stick and were never named, some are lists of which only the date is known."""
    if place in (1, 4, 8):
        return replace(facts, venue_id=None, kind="", came_from="a stick"), "player"
    if place in (13, 21, 27):
        on = evening(date.fromisoformat(facts.began_at[:10]), 12 * 60)
        return replace(facts, began_at=on, ended_at=None, timed=False, came_from="a list"), "file"
    if place == 16:
        return replace(facts, kind="", note="Left early: the sound man had the flu."), "by hand"
    return facts, "player"


def _practice(random: np.random.Generator, on: date) -> tuple[list[Coming], Facts]:
    """A few tracks at home in the morning."""
    at = seconds(evening(on, 11 * 60 + int(random.integers(0, 120))))
    coming = []
    for song in random.choice(len(SONGS), int(random.integers(2, 5)), replace=False):
        heard_s = float(random.uniform(30, 150))
        chosen = SONGS[int(song)]
        coming.append(Coming(None, chosen.artist, chosen.title, from_seconds(at), round(heard_s)))
        at += heard_s + 5.0
    return coming, Facts(coming[0].played_at or "", ended_at=from_seconds(at), came_from="a stick")


def _mark(connection: sqlite3.Connection, random: np.random.Generator, gig_id: int) -> None:
    """What went well and what did not, as it was noted on the way home; not every night."""
    if random.random() < 0.25:
        return
    there = [play.id for play in plays.list_plays(connection, gig_id)]
    drawn = random.permutation(there).tolist()
    plays.mark(connection, drawn[:4], {"went": "well"})
    plays.mark(connection, drawn[4:5], {"went": "flat", "note": "floor emptied"})
    if random.random() < 0.4:
        plays.mark(connection, drawn[5:6], {"asked": True})
    if random.random() < 0.2:
        plays.mark(connection, drawn[6:7], {"never": "here", "note": "words"})


def has_nights(database: Database) -> bool:
    """Whether anything is in the Logbook, or ever was."""
    read = database.read()
    used = read.execute("SELECT 1 FROM sqlite_sequence WHERE name = 'gig' AND seq > 0").fetchone()
    return used is not None or bool(gigs.list_gigs(read, None))
