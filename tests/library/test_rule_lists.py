"""Crates that fill themselves: always up to date, counted line by line, never in a circle, and why."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.library.making import new_track
from vinyl.core.rules.conditions import AllOf, AnyOf, Between, InList, Lately, NoneOf, Tagged, TextIs, Words
from vinyl.core.rules.notation import Rule
from vinyl.library import crates, plays, rule_lists, tags, undo
from vinyl.library.clock import now
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.find import Order, find_ids

HOUSE, DISCO = TextIs("genre", "House"), TextIs("genre", "Disco")
RULE = AllOf((AnyOf((HOUSE, DISCO)), NoneOf((Lately("last_played", 30),)), Between("rating", 3, None)))


@pytest.fixture
def database(tmp_path: Path) -> Database:
    """Six tracks, three of them House, and a crate that fills itself."""
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for place, genre in enumerate(("House", "House", "House", "Disco", "Dub", "Dub")):
            new_track(connection, f"Track {place}", genre=genre)
        crates.make_rule_crate(connection, "Fresh", Rule(RULE, (("title", True),)))
    return made


def test_what_is_in_it_follows_every_change_and_goes_by_its_order(database: Database) -> None:
    read = database.read()
    assert crates.crate_tracks(read, 1) == [4, 3, 2, 1] and rule_lists.count_lists(read)[1][0] == 4
    with database.write("Play") as connection:
        plays.note(connection, [2, 3], now())
    assert crates.crate_tracks(read, 1) == [4, 1]
    assert rule_lists.fill_lists(read).lists_of([1, 2, 4, 6, 9_999]) == {1: [1], 4: [1]}
    with database.write("Limit") as connection:
        crates.change_rule(connection, 1, Rule(RULE, (("title", False),), limit=1))
    assert crates.crate_tracks(read, 1) == [1] and rule_lists.count_lists(read)[1] == (1, 200.0)
    with database.write() as connection:
        undo.step_back(connection, "undo")
        undo.step_back(connection, "undo")
    assert crates.crate_tracks(read, 1) == [4, 3, 2, 1]


def test_lists_ask_for_lists_but_never_for_themselves(database: Database) -> None:
    with database.write("More") as connection:
        rest = crates.make_rule_crate(connection, "Rest", Rule(NoneOf((InList(1),))))
        both = crates.make_rule_crate(connection, "Both", Rule(AnyOf((InList(1), InList(rest)))))
    read = database.read()
    assert set(crates.crate_tracks(read, rest)) == {5, 6} and len(crates.crate_tracks(read, both)) == 6
    circle = "This goes round in a circle: “Fresh”, which asks for “Both”, which asks for “Fresh”."
    with pytest.raises(LibraryError, match=circle), database.write("Circle") as connection:
        crates.change_rule(connection, 1, Rule(AllOf((HOUSE, InList(both)))))
    assert crates.crate_tracks(read, 1) == [4, 3, 2, 1]
    with database.write("Delete") as connection:
        crates.delete_crate(connection, 1)
    assert crates.crate_tracks(read, both) == crates.crate_tracks(read, rest) != []
    assert "gone" in rule_lists.said(read, NoneOf((InList(1),)))


def test_lists_that_ask_for_too_many_lists_are_refused_and_the_others_still_counted(
    database: Database,
) -> None:
    with database.write("Double") as connection:
        newest = 1
        for number in range(7):
            rule = Rule(AnyOf((InList(newest), InList(newest))))
            newest = crates.make_rule_crate(connection, f"Double {number}", rule)
    with pytest.raises(LibraryError, match="more than 500"), database.write("Too much") as connection:
        crates.make_rule_crate(connection, "Too much", Rule(AnyOf((InList(newest), InList(newest)))))
    with database.write("Widen") as connection:
        more = crates.make_rule_crate(connection, "More", Rule(HOUSE))
        crates.change_rule(connection, 1, Rule(AnyOf((InList(more), InList(more)))))
    counts = rule_lists.count_lists(database.read())
    assert counts[1] == (3, 600.0) and newest not in counts and len(counts) == 8


def test_each_line_is_counted_and_what_leaves_nothing_is_named(database: Database) -> None:
    read = database.read()
    counted = rule_lists.count_lines(read, RULE)
    told = {line.path: (line.words, line.alone, line.left) for line in counted.lines}
    assert told == {
        (0,): ("style House, or style Disco", 4, 4),
        (0, 0): ("style House", 3, None),
        (0, 1): ("style Disco", 1, None),
        (1,): ("not last played in the last 30 days", 6, 4),
        (1, 0): ("last played in the last 30 days", 0, None),
        (2,): ("stars from 3", 6, 4),
    }
    assert (counted.total, counted.library, counted.emptied_by) == (4, 6, None)
    empty = rule_lists.count_lines(read, AllOf((HOUSE, DISCO, Between("rating", 3, None))))
    assert (empty.total, empty.emptied_by, empty.without) == (0, 1, 3)


def test_why_tells_every_part_with_what_the_track_has(database: Database) -> None:
    with database.write("Tag") as connection:
        tags.give(connection, 1, [5], True)
    name = database.read().execute("SELECT name FROM tag WHERE id = 1").fetchone()[0]
    rule = AllOf((HOUSE, Tagged(1), Words("track 4"), NoneOf((Between("rating", 4, None),))))
    reasons = rule_lists.why(database.read(), rule, 5)
    assert [(reason.words, reason.holds, reason.has) for reason in reasons[1:]] == [
        ("style House", False, "Dub"),
        (f"tag {name}", True, None),
        ("“track 4” in its text", True, None),
        ("not stars from 4", True, None),
        ("stars from 4", False, "3"),
    ]
    assert not reasons[0].holds and rule_lists.why(database.read(), RULE, 1)[0].holds


def test_it_is_not_filled_by_hand_but_can_be_frozen(database: Database) -> None:
    changes = (
        lambda connection: crates.add_tracks(connection, 1, [6]),
        lambda connection: crates.remove_tracks(connection, 1, [4]),
        lambda connection: crates.move_tracks(connection, 1, [1], 0),
    )
    for change in changes:
        with (
            pytest.raises(LibraryError, match="“Fresh” fills itself"),
            database.write("Change") as connection,
        ):
            change(connection)
    with database.write("Freeze") as connection:
        frozen = crates.freeze(connection, 1, "Fresh, frozen")
        crates.move_tracks(connection, frozen, [1], 0)
    assert crates.crate_tracks(database.read(), frozen) == [1, 4, 3, 2]
    with pytest.raises(LibraryError, match="has no rule"), database.write("Rule") as connection:
        crates.change_rule(connection, frozen, Rule(HOUSE))
    with pytest.raises(LibraryError, match="cannot be sorted"), database.write("Rule") as connection:
        crates.change_rule(connection, 1, Rule(HOUSE, (("shoe size", False),)))
    assert find_ids(database.read(), InList(1), Order("crate", crate_id=frozen)) == [1, 4, 3, 2]


def test_folders_hold_folders_never_themselves_and_come_back_whole(database: Database) -> None:
    with database.write("Make") as connection:
        friday = crates.make_crate(connection, "Fridays", is_folder=True)
        inner = crates.make_crate(connection, "Inner", friday, is_folder=True)
        gig = crates.make_crate(connection, "Gig", inner)
        crates.add_tracks(connection, gig, [3, 1])
        crates.put_into_folder(connection, 1, inner)
    before = crates.list_crates(database.read())
    for wrong, words in ((inner, "into itself"), (friday, "into itself"), (gig, "folders only")):
        with pytest.raises(LibraryError, match=words), database.write("Wrong") as writing:
            crates.put_into_folder(writing, friday, wrong)
    with pytest.raises(LibraryError, match="is a folder"), database.write("Wrong") as writing:
        crates.add_tracks(writing, friday, [1])
    with database.write("Delete") as connection:
        crates.delete_crate(connection, friday)
    assert crates.list_crates(database.read()) == []
    again = Database.prepared(database.path)
    with again.write() as connection:
        undo.step_back(connection, "undo")
    assert crates.list_crates(again.read()) == before
    assert crates.crate_tracks(again.read(), gig) == [3, 1]
    assert crates.crate_tracks(again.read(), 1) == [4, 3, 2, 1]
