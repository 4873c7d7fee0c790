"""What the resident of the Slipway Bar has made of the music: crates, rules, tags, cues, sticks, a destination."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from datetime import timedelta
from pathlib import Path
from typing import Any

from vinyl.core.cues.cue import Cue
from vinyl.core.rules.conditions import AllOf, AnyOf, Between, InList, Lately, NoneOf, TextIs
from vinyl.core.rules.notation import Rule
from vinyl.demo.nights import SLIPWAY
from vinyl.demo.scenario import SONGS, Song
from vinyl.demo.styles import STYLES
from vinyl.library import crates, cues, destinations, dividers, find, sets, styles, tags, venues
from vinyl.library.clock import today
from vinyl.library.database import Database
from vinyl.sticks import store
from vinyl.sticks.medium import make_stand_in

FOLDER = "Slipway Fridays"
WARM_UP, MAIN, LATE = "Slipway Friday, warm-up", "Slipway Friday, main", "After hours"
CRATES: Mapping[str, tuple[str, ...]] = {
    MAIN: (
        "Copper Tide", "Lantern Weather", "Nine Steps to the Water", "Foghorn Romance", "Breakwater", "Paraffin",
        "Salt Arithmetic", "Pilot Light",
    ),
    WARM_UP: (
        "灯台の朝", "Slow Ferry (Dub)", "Warm Engine Room", "Ballroom on the Pier", "Harbour Clock",
        "Ultramarine Hours", "Last Boat Home",
    ),
    LATE: ("Ånd i Tåken", "Bilge Echo", "Customs House Version"),
}  # fmt: skip
# Set once the crate is full: the place of each, its name, sign and colour.
DIVIDERS = {MAIN: ((0, "First hour", "›", "blue"), (3, "Past one", "☾", "violet"))}
NOTE = "The lamps go down at two; nothing over 128 before."
TAGGED: Mapping[str, tuple[str, tuple[str, ...]]] = {
    "Strings": ("Make-up", ("Copper Tide", "Lantern Weather", "Foghorn Romance", "Harbour Clock")),
    "Vocal": ("Make-up", ("Foghorn Romance", "Harbour Clock", "Sea Glass Letters")),
    "Warm": ("Make-up", ("Copper Tide", "Warm Engine Room", "Ultramarine Hours")),
    "Percussive": ("Make-up", ("Salt Arithmetic", "Breakwater", "Rope & Tar")),
    "Opener": ("Moment", ("Warm Engine Room", "Ultramarine Hours")),
    "Peak": ("Moment", ("Copper Tide", "Salt Arithmetic", "Breakwater")),
    "Closing": ("Moment", ("Last Boat Home",)),
}
# Tracks whose cues are set already; the others have what analysis proposes.
CUED = frozenset((*CRATES[MAIN], *CRATES[LATE]))
PLACES = {"main": "Main", "break": "Break", "build": "Build", "outro": "Loop to mix out"}
COLOURS = {"main": "vermilion", "break": "blue", "build": "green", "outro": "ochre"}
STICKS = (("Slipway Friday", "Fairlead", 1000), ("Spare", "Windlass", 500))
DESTINATION = "The Slipway’s PC"
# The next Friday: its running order so far, its arc, a pin and what is noted of it.
SET, FRIDAY = "Slipway Friday", 4
SET_ORDER = (*CRATES[WARM_UP], *CRATES[MAIN][:6])
SET_ARC = ((0.0, 30.0), (0.45, 52.0), (0.85, 62.0), (1.0, 45.0))
SET_NOTES = {"灯台の朝": ("first", "lamps still on"), "Copper Tide": ("", "keep: loved last time")}


def in_order() -> list[Song]:
    """The songs in the order in which a person sees them: crate by crate, then the rest."""
    first = [title for titles in CRATES.values() for title in titles]
    return sorted(SONGS, key=lambda song: first.index(song.title) if song.title in first else len(first))


def prepare_rooms(database: Database, home: Path) -> None:
    """Make all that needs no track: crates and rules, tags, sticks and a destination, unless that was done."""
    with database.write() as connection:
        if connection.execute("SELECT 1 FROM crate WHERE name = ? AND is_folder", (FOLDER,)).fetchone():
            return
        folder = crates.make_crate(connection, FOLDER, is_folder=True)
        ids = [crates.make_crate(connection, name, folder) for name in (WARM_UP, MAIN, LATE)]
        crates.change_looks(connection, ids[1], "violet", "☾", NOTE)
        for name, rule in _rules(ids[2]):
            crates.make_rule_crate(connection, name, rule, folder)
        for name, (family, _) in TAGGED.items():
            tags.make_tag(connection, _family(connection, family), name)
        _make_destination(connection, home, ids)
        _make_set(connection)
        for name, player, size_mb in STICKS:
            _make_stick(connection, home, name, player, size_mb, ids[:2])


def describe_track(
    connection: sqlite3.Connection, song: Song, track_id: int, truth: Mapping[str, Any]
) -> None:
    """Put a track where the resident has it, and give it its tags and cues, unless that was done."""
    for name, titles in CRATES.items():
        crate_id = _crate(connection, name)
        if song.title in titles and crate_id is not None:
            _put_in(connection, crate_id, name, titles, song.title, track_id)
    _plan(connection, song.title, track_id)
    for name, (family, titles) in TAGGED.items():
        if song.title in titles:
            tags.give(
                connection, tags.make_tag(connection, _family(connection, family), name), [track_id], True
            )
    if song.tags == "full":
        genre = STYLES[song.style].genre
        styles.take(connection, _family(connection, "Style"), {genre: genre})
    if song.title in CUED and not cues.list_cues(connection, track_id):
        cues.add_cues(connection, track_id, _cues(truth))


def _make_set(connection: sqlite3.Connection) -> None:
    """The set of the next Friday; it is filled as its tracks come."""
    day = today() + timedelta(days=(FRIDAY - today().weekday()) % 7 or 7)
    venue_id = venues.named(connection, SLIPWAY)
    facts = {"name": SET, "venue_id": venue_id, "on_day": str(day), "begins": "22:00", "ends": "23:00"}
    sets.set_arc(connection, sets.make_set(connection, facts), SET_ARC)


def _plan(connection: sqlite3.Connection, title: str, track_id: int) -> None:
    """Put a track into that set: at its place in the running order, or into the tray."""
    found = next((each for each in sets.list_sets(connection) if each.name == SET), None)
    if found is None or title not in (*SET_ORDER, *CRATES[MAIN], *CRATES[LATE]):
        return
    placed = title in SET_ORDER
    there = [each for each in sets.list_entries(connection, found.id) if each.placed]
    after = SET_ORDER[SET_ORDER.index(title) + 1 :] if placed else ()
    later = [each.id for each in there if each.title in after]
    sets.add_tracks(connection, found.id, [track_id], placed, later[0] if later else None)
    pin, note = SET_NOTES.get(title, ("", ""))
    for entry in sets.list_entries(connection, found.id):
        if entry.track_id == track_id and note:
            sets.change_entry(connection, found.id, entry.id, {"pin": pin, "note": note})


def _rules(late: int) -> Iterator[tuple[str, Rule]]:
    house = AnyOf((TextIs("genre", "House"), TextIs("genre", "Disco")))
    slow = Between("bpm", 116, 126)
    yield (
        "Fresh and steady",
        Rule(AllOf((house, slow, NoneOf((InList(late),)))), (("bpm", False), ("key", False))),
    )
    yield "New this week", Rule(AllOf((Lately("added_at", 7),)))
    yield "Loved", Rule(AllOf((Between("rating", 4, None),)), (("rating", True),))


def _put_in(
    connection: sqlite3.Connection, crate_id: int, name: str, titles: Sequence[str], title: str, track_id: int
) -> None:
    """At its place among those that are there; the dividers come with the last."""
    there = _titles(connection, crate_id)
    if title in there:
        return
    at = sum(titles.index(each) < titles.index(title) for each in there if each in titles)
    crates.add_tracks(connection, crate_id, [track_id], at)
    if {*there, title} >= set(titles):
        for place, words, sign, colour in DIVIDERS.get(name, ()):
            dividers.add_divider(connection, crate_id, words, place, sign, colour)


def _titles(connection: sqlite3.Connection, crate_id: int) -> list[str]:
    return [row["title"] for row in find.get_rows(connection, crates.crate_tracks(connection, crate_id))]


def _cues(truth: Mapping[str, Any]) -> list[Cue]:
    """In, out and the sections between them, on pads in their order."""
    sections = [(start, label) for start, label in truth["sections"] if label in PLACES]
    first = truth["anchors"][0]["time"]
    found = [Cue(max(first, 0.0), label="In", role="in")]
    for pad, (start, label) in enumerate(sections, 1):
        role = "main" if label == "main" and pad == 1 else None
        length_s = 16 * 60 / truth["bpm"] if label == "outro" else None
        found.append(Cue(start, length_s, PLACES[label], role, COLOURS[label], pad if pad <= 8 else None))
    return [*found, Cue(max(truth["duration_s"] - 12.0, first), label="Out", role="out")]


def _crate(connection: sqlite3.Connection, name: str) -> int | None:
    """A crate of the resident, unless it is gone meanwhile."""
    row = connection.execute("SELECT id FROM crate WHERE name = ? AND NOT is_folder", (name,)).fetchone()
    return row[0] if row else None


def _family(connection: sqlite3.Connection, name: str) -> int:
    row = connection.execute("SELECT id FROM tag_family WHERE name = ?", (name,)).fetchone()
    return int(row[0]) if row else tags.make_family(connection, name, "violet")


def _make_destination(connection: sqlite3.Connection, home: Path, lists: Sequence[int]) -> None:
    place = home / "demo" / "Reedbank"
    place.mkdir(parents=True, exist_ok=True)
    told = {
        "target": "reedbank", "place": str(place), "system": "windows", "lists": list(lists),
        "mappings": [{"here": str(home / "demo" / "music"), "there": "D:/Music"}],
    }  # fmt: skip
    destinations.save_destination(connection, DESTINATION, "reedbank", told)


def _make_stick(
    connection: sqlite3.Connection, home: Path, name: str, player: str, size_mb: int, lists: Sequence[int]
) -> None:
    folder = home / "sticks" / name
    if not folder.exists():  # a start that was ended has made it
        make_stand_in(folder, size_mb * 1_000_000)
    store.choose_crates(connection, store.add_stick(connection, name, folder, player), lists)
