"""The Logbook in the library: taking in, counting once, practice, marks, finding, the next list, undo."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from tests.library.making import new_track
from vinyl.core.rules.conditions import AllOf, LastPlayedAt, NeverAt, PlayedAt
from vinyl.demo.nights import make_nights
from vinyl.library import gigs, logbook, next_lists, plays, taking_in, undo, values, venues
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.find import Order, find_ids, find_window, get_rows
from vinyl.library.gigs import Facts
from vinyl.library.named import MANY, Names
from vinyl.library.plays import Coming
from vinyl.library.taking_in import Told, take_in_told
from vinyl.library.values import Value

FRIDAY = "2026-11-20T21:{:02}:00.000+00:00"


@pytest.fixture
def database(tmp_path: Path) -> Database:
    """Twenty tracks and a venue."""
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for number in range(1, 21):
            track = new_track(connection, f"Track {number}", artist="Kelp Union")
            values.put(connection, [track], "by hand", {"tempo": Value("124"), "energy": Value("60")})
            plays.flat.settle(connection, [track])
        venues.make_venue(connection, "The Slipway")
    return made


def of_stick(tracks: range, sticks: str = "one", step: int = 3) -> list[Told]:
    return [
        Told(Coming(track, played_at=FRIDAY.format(place * step), heard_s=150.0), f"{sticks} {track}")
        for place, track in enumerate(tracks)
    ]


def counts(database: Database, *tracks: int) -> list[int]:
    return [row["plays"] for row in get_rows(database.read(), list(tracks))]


def undone(database: Database) -> str:
    with database.write() as connection:
        return undo.step_back(connection, "undo").name


def test_the_same_night_by_stick_and_by_file_counts_once(database: Database) -> None:
    with database.write("Stick") as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 11)))
    listed = [Coming(track) for track in range(1, 11) if track != 4] + [Coming(None, "Nils Weir", "Bollard")]
    facts = Facts("2026-11-20T12:00:00.000+00:00", 1, kind="weekly", timed=False)
    with database.write("File") as connection:
        joined = taking_in.take_in(connection, listed, facts, "file")
    assert (joined.gig_id, joined.was_there, joined.shared, joined.added) == (taken.gig_id, True, 9, 1)
    (gig,) = gigs.list_gigs(database.read())
    assert (gig.facts.venue_id, gig.facts.kind, gig.tracks, gig.not_here) == (1, "weekly", 11, 1)
    assert counts(database, 1, 4, 11) == [1, 1, 0]
    assert [play.title for play in plays.list_plays(database.read(), gig.id)][-1] == "Bollard"
    # The same stick put in again, and the spare one of the second player.
    with database.write("Again") as connection:
        assert take_in_told(connection, of_stick(range(1, 11))) == []
        (spare,) = take_in_told(connection, of_stick(range(9, 13), "spare", 9))
    assert (spare.gig_id, spare.was_there) == (taken.gig_id, True)
    assert undone(database) == "Again"
    assert undone(database) == "File"
    assert (counts(database, 1), gigs.list_gigs(database.read())[0].tracks) == ([1], 10)
    assert undone(database) == "Stick" and counts(database, 1) == [0]
    with database.write("Once more") as connection:
        assert take_in_told(connection, of_stick(range(1, 11)))[0].added == 10


def test_a_title_alone_is_found_only_while_one_artist_has_it(database: Database) -> None:
    with database.write("Night") as connection:
        told = [Coming(None, "", "Intro"), Coming(None, "Nils Weir", "Intro"), Coming(None, "", "Bollard")]
        gig = taking_in.take_in(connection, told, Facts(FRIDAY.format(0)), "file").gig_id
    with database.write("Import") as connection:
        arrived = [
            new_track(connection, f"Intro {who}", title="Intro", artist=who)
            for who in ("Ilva Dune", "Nils Weir")
        ]
        arrived.append(new_track(connection, "Bollard", artist=""))
        assert plays.match_new(connection, arrived) == 2
    matched = [play.track_id for play in plays.list_plays(database.read(), gig)]
    assert matched == [None, arrived[1], arrived[2]]


def test_practice_does_not_count_and_comes_back(database: Database) -> None:
    with database.write("Stick") as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 4), step=1))
    (gig,) = gigs.list_gigs(database.read())
    assert gig.looks_like_practice == ("3 tracks", "4 min long")
    with database.write("Throw away") as connection:
        gigs.throw_away(connection, [gig.id])
    assert counts(database, 1, 2) == [0, 0] and gigs.list_gigs(database.read()) == []
    assert find_ids(database.read(), PlayedAt(), Order("title")) == []
    assert undone(database) == "Throw away" and counts(database, 1, 2) == [1, 1]
    with database.write("Delete") as connection:
        gigs.delete_gigs(connection, [taken.gig_id])
    assert counts(database, 1) == [0]
    with database.write("Stick again") as connection:
        assert take_in_told(connection, of_stick(range(1, 4), step=1)) == [], "what was deleted stays away"
    assert undone(database) == "Delete" and counts(database, 1) == [1]


def test_nights_are_split_joined_and_moved(database: Database) -> None:
    with database.write() as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 11)))
    there = plays.list_plays(database.read(), taken.gig_id)
    with database.write("Split") as connection:
        new = gigs.split_gig(connection, taken.gig_id, there[4].id)
        assert [len(plays.list_plays(connection, each)) for each in (taken.gig_id, new)] == [4, 6]
    with database.write("Join") as connection:
        assert gigs.join_gigs(connection, [new, taken.gig_id]) == taken.gig_id
    assert [play.track_id for play in plays.list_plays(database.read(), taken.gig_id)] == list(range(1, 11))
    with database.write("Date") as connection:
        gigs.change_gig(connection, taken.gig_id, {"began_at": "2026-11-13T21:00:00.000+00:00"})
    assert get_rows(database.read(), [2])[0]["last_played"] == "2026-11-13"
    with database.write("Order") as connection:
        plays.move(connection, [there[9].id], there[0].id)
        plays.remove(connection, [there[1].id])
    assert [play.track_id for play in plays.list_plays(database.read(), taken.gig_id)][:3] == [10, 1, 3]
    assert [undone(database) for _ in range(4)] == ["Order", "Date", "Join", "Split"]
    assert plays.list_plays(database.read(), taken.gig_id) == there
    with pytest.raises(LibraryError, match="nothing to split"), database.write() as connection:
        gigs.split_gig(connection, taken.gig_id, there[0].id)


def test_marks_and_what_was_played_at_a_venue_are_found(database: Database) -> None:
    with database.write() as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 11)))
        gigs.change_gig(connection, taken.gig_id, {"venue_id": 1})
        there = [play.id for play in plays.list_plays(connection, taken.gig_id)]
        plays.mark(connection, there[:2], {"went": "well", "asked": True})
        plays.mark(connection, there[2:3], {"never": "here", "note": "words"})
    with database.write("Never") as connection:
        plays.mark(connection, there[3:4], {"never": "everywhere"})
    read = database.read()

    def found(condition: object) -> list[int]:
        return sorted(find_ids(read, AllOf((condition,)), Order("title")))  # type: ignore[arg-type]

    assert found(PlayedAt(1)) == list(range(1, 11)) and found(PlayedAt(1, None, 0)) == list(range(11, 21))
    assert found(PlayedAt(1, 1, None, 1)) == [] or date.today() <= date(2026, 11, 22)
    assert found(PlayedAt(1, 2)) == [] and found(PlayedAt(2)) == []
    assert found(LastPlayedAt(1, "2026-11", "2026-11-20")) == list(range(1, 11))
    assert found(NeverAt(1)) == [3, 4] and found(NeverAt(2)) == [4]
    assert logbook.never_at(read, 1, [1, 3, 4]) == {3: "never again at The Slipway", 4: "never again"}
    assert [get_rows(read, [1])[0][name] for name in ("went_well", "asked_for", "fell_flat")] == [1, 1, 0]
    last = Order("last_at", True, venue_id=1)
    assert find_ids(read, AllOf(), last)[:3] == [10, 9, 8] and len(find_ids(read, AllOf(), last)) == 20
    windows = [find_window(read, AllOf(), last, start, 7).rows for start in (0, 7, 14)]
    assert [row["id"] for rows in windows for row in rows] == find_ids(read, AllOf(), last)
    (third,) = [each for each in logbook.history(read, 3) if each.note == "words"]
    assert (third.before, third.after, third.venue) == ("Track 2", "Track 4", "The Slipway")
    undone(database)
    assert found(NeverAt(2)) == []


def test_texts_are_matched_when_their_tracks_arrive(database: Database) -> None:
    text = Coming(None, "Ilva Dune", "Sluice (original mix)", FRIDAY.format(0))
    with database.write() as connection:
        gig = taking_in.take_in(connection, [text], Facts(FRIDAY.format(0)), "by hand").gig_id
        plays.mark(connection, [plays.list_plays(connection, gig)[0].id], {"never": "everywhere"})
        arrived = new_track(connection, "Sluice", artist="Ilva Dune")
        assert plays.match_new(connection, [arrived]) == 1
    (play,) = plays.list_plays(database.read(), gig)
    assert (play.track_id, play.never, counts(database, arrived)) == (arrived, "everywhere", [1])
    with database.write("Another") as connection:
        plays.match(connection, play.id, 1)
    assert counts(database, arrived, 1) == [0, 1]
    undone(database)
    assert counts(database, arrived, 1) == [1, 0], "both tracks are told anew"


def test_the_next_list_is_made_of_the_last(database: Database) -> None:
    with database.write() as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 11)))
        gigs.change_gig(connection, taken.gig_id, {"venue_id": 1})
        there = [play.id for play in plays.list_plays(connection, taken.gig_id)]
        plays.mark(connection, there[:1], {"went": "well"})
        plays.mark(connection, there[1:2], {"went": "flat"})
        plays.mark(connection, there[2:3], {"never": "here"})
    places = next_lists.plan(database.read(), taken.gig_id, date(2026, 11, 27), 0.2, 4)
    fates = [place.fate for place in places]
    assert fates[:3] == ["keep", "replace", "drop"] and fates.count("replace") == 2
    offered = [place.candidates[0] for place in places if place.fate == "replace"]
    assert len({each.track_id for each in offered}) == 2 and all(each.track_id > 10 for each in offered)
    assert all("never played here" in each.reasons for each in offered)
    with database.write("Next") as connection:
        crate, warned = next_lists.make_list(connection, taken.gig_id, "The Slipway, Fri 27 Nov", [1, 3, 11])
    assert warned == {3: "never again at The Slipway"} and crate > 0


def test_a_venue_may_go_and_come_back(database: Database) -> None:
    with database.write() as connection:
        (taken,) = take_in_told(connection, of_stick(range(1, 11)))
        gigs.change_gig(connection, taken.gig_id, {"venue_id": 1})
    with pytest.raises(LibraryError, match="already"), database.write() as connection:
        venues.make_venue(connection, "the SLIPWAY")
    with database.write("Delete the venue") as connection:
        venues.delete_venue(connection, 1)
    assert gigs.get_gig(database.read(), taken.gig_id).facts.venue_id is None
    undone(database)
    assert gigs.get_gig(database.read(), taken.gig_id).facts.venue_id == 1


def test_the_demo_year_is_thirty_nights_at_three_venues_and_some_practice(tmp_path: Path) -> None:
    made = Database.prepared(tmp_path / "demo.db")
    make_nights(made, date(2026, 11, 26))
    found = gigs.list_gigs(made.read())
    practice = [gig for gig in found if gig.looks_like_practice]
    assert (len(practice), len(found) - len(practice), len(venues.list_venues(made.read()))) == (5, 30, 3)
    assert (
        sum(gig.facts.venue_id is None for gig in found) == 8
        and sum(not gig.facts.timed for gig in found) == 3
    )


def test_names_are_found_alike_one_by_one_and_all_at_once(database: Database) -> None:
    with database.write() as connection:
        new_track(connection, "Sluice (Original Mix)", artist="Ilva Dune")
        for title, artist in (("Weir", ""), ("Ebb", "One"), ("ebb", "Two")):
            new_track(connection, title, artist=artist)
    asked = {
        ("Ilva Dune", "sluice"): 21, ("", "Sluice"): 21, ("Somebody", "Weir"): 22, ("", "weir"): 22,
        ("", "Ebb"): None, ("Two", "EBB"): 24, ("Nobody", "Ebb"): None, ("", "Track 3"): 3, ("", "!"): None,
        ("", ""): None, ("Kelp Union", "Track 99"): None,
    }  # fmt: skip
    for names in (Names(database.read()), Names(database.read(), MANY + 1)):
        assert {each: names.find(*each) for each in asked} == asked


def test_what_is_typed_of_a_night_that_is_there_is_kept_beside_what_it_says(database: Database) -> None:
    coming = [Coming(track) for track in range(1, 6)]
    told = [("Spring tide", "Rain."), ("Full moon", "Rain."), ("Spring tide", "Sold out."), ("Full moon", "")]
    for name, note in told:
        with database.write("Type") as connection:
            facts = Facts(FRIDAY.format(0), name=name, note=note, timed=False)
            taken = taking_in.take_in(connection, coming, facts, "by hand")
    facts = gigs.get_gig(database.read(), taken.gig_id).facts
    assert (facts.name, facts.note) == ("Spring tide", "Rain.\nAlso called “Full moon”.\nSold out.")
