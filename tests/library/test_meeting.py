"""Where rooms meet in the library: undo beside other hands, references through merging and moving house, and
every table declared.
"""

from __future__ import annotations

import io
import json
import sqlite3
from pathlib import Path

import pytest

from tests.library.making import new_track
from vinyl.core.rules.conditions import FirstOf, InList, NeverAt, PlayedAt, Tagged
from vinyl.core.rules.notation import Rule
from vinyl.library import (
    crates,
    find,
    gigs,
    plays,
    references,
    rule_lists,
    series,
    tags,
    tracks,
    undo,
    venues,
)
from vinyl.library.database import Database
from vinyl.library.documents import read_document, restore, write_document
from vinyl.library.errors import NotFoundError
from vinyl.library.find import Order, find_ids
from vinyl.library.gigs import Facts
from vinyl.library.plays import Coming
from vinyl.library.tables import FAMILY, TABLES, UNDOABLE, named
from vinyl.library.taking_in import take_in
from vinyl.sticks import store

FRIDAY = "2026-11-20T21:{:02}:00.000+00:00"
# What SQLite and the search of full text make for themselves.
OF_SQLITE = ("sqlite_", "shelf_piece")


@pytest.fixture
def database(tmp_path: Path) -> Database:
    """Six tracks, a crate of four, a tag that two have."""
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        ids = [new_track(connection, f"Track {number}") for number in range(1, 7)]
        crates.add_tracks(connection, crates.make_crate(connection, "Pier"), ids[:4])
        family = tags.make_family(connection, "Weather", "blue")
        tags.give(connection, tags.make_tag(connection, family, "Fog"), ids[:2], True)
    return made


def back(database: Database, stack: undo.Stack = "undo", step: int | None = None) -> undo.TakenBack:
    with database.write() as connection:
        return undo.step_back(connection, stack, step)


def fog_of(database: Database) -> tuple[int, int]:
    """The tag that two tracks have, and its family."""
    row = database.read().execute("SELECT id, family_id FROM tag WHERE name = 'Fog'").fetchone()
    return row["id"], row["family_id"]


def inside(database: Database, list_id: int) -> list[int]:
    return find_ids(database.read(), InList(list_id), Order("title"))


def top(database: Database) -> int:
    step = undo.state(database.read()).undo
    assert step is not None
    return step.id


def test_every_table_of_the_library_is_declared_once(database: Database) -> None:
    rows = database.read().execute("SELECT name FROM sqlite_master WHERE type = 'table'")
    there = {row[0] for row in rows if not row[0].startswith(OF_SQLITE)}
    declared = [table.name for table in TABLES]
    assert len(declared) == len(set(declared))
    assert there == set(declared), "declare each table in vinyl.library.tables"
    for table in TABLES:
        columns = {row["name"] for row in database.read().execute(f"PRAGMA table_info({table.name})")}
        assert not table.identified or "gid" in columns
        assert {reference.column for reference in table.references} <= columns
        assert all(table.says) or not table.undoable, "what of it is left is said in words"


def test_a_stick_that_is_forgotten_does_not_stand_in_the_way_of_undo(database: Database) -> None:
    with database.write() as connection:
        stick = store.add_stick(connection, "Blue", Path("/sticks/blue"), "Quay One")
        store.choose_crates(connection, stick, [1])
    with database.write("Earlier") as connection:
        tracks.rate(connection, [1], 5)
    with database.write("Untick") as connection:
        store.choose_crates(connection, stick, [])
    with database.write() as connection:
        other = store.add_stick(connection, "Grey", Path("/sticks/grey"), "Quay One")
    with database.write("Tick") as connection:
        store.choose_crates(connection, other, [1])
    with database.write() as connection:
        store.forget_stick(connection, stick)
        store.forget_stick(connection, other)
    assert back(database) == undo.TakenBack("Tick", (undo.GONE,)), "that nothing was done is said"
    assert back(database) == undo.TakenBack(
        "Untick", ("a list on a stick was changed since and stays as it is",)
    )
    assert back(database).name == "Earlier"
    assert find.get_rows(database.read(), [1])[0]["rating"] == 3


def test_undo_of_a_mark_leaves_the_track_that_was_found_meanwhile(database: Database) -> None:
    with database.write("Night") as connection:
        told = [Coming(1), Coming(None, "Nils Weir", "Bollard")]
        gig = take_in(connection, told, Facts(FRIDAY.format(0)), "file").gig_id
    there = plays.list_plays(database.read(), gig)
    with database.write("Mark") as connection:
        plays.mark(connection, [play.id for play in there], {"went": "well"})
    with database.write(background=True) as connection:
        arrived = new_track(connection, "Bollard", artist="Nils Weir")
        assert plays.match_new(connection, [arrived]) == 1
    assert back(database).left == ()
    after = plays.list_plays(database.read(), gig)
    assert [(play.track_id, play.went) for play in after] == [(1, ""), (arrived, "")]
    assert back(database, "redo").left == ()
    assert [play.went for play in plays.list_plays(database.read(), gig)] == ["well", "well"]


def test_a_step_goes_column_by_column_and_says_what_it_leaves(database: Database) -> None:
    with database.write("Rename") as connection:
        crates.rename_crate(connection, 1, "Quay")
    mine = top(database)
    with database.write("Rename again") as connection:
        crates.rename_crate(connection, 1, "Harbour")
    left = back(database, step=mine)
    assert left.left == ("a list was changed since and stays as it is",)
    assert crates.get_crate(database.read(), 1).name == "Harbour"
    assert back(database).name == "Rename again"


def test_the_step_that_is_meant_is_taken_back_whatever_came_on_top(database: Database) -> None:
    with database.write("Rate") as connection:
        tracks.rate(connection, [1], 5)
    mine = top(database)
    with database.write("Of a job") as connection:
        tracks.rate(connection, [2], 1)
    assert back(database, step=mine).name == "Rate"
    assert [row["rating"] for row in find.get_rows(database.read(), [1, 2])] == [3, 1]
    with pytest.raises(NotFoundError, match="taken back already"):
        back(database, step=mine)
    assert back(database).name == "Of a job"


def test_a_step_that_cannot_be_taken_back_any_more_is_passed_and_not_in_the_way(database: Database) -> None:
    with database.write("Below") as connection:
        tracks.rate(connection, [3], 5)
    with database.write("Put in") as connection:
        crates.add_tracks(connection, 1, [5])
    with database.write() as connection:
        crates.delete_crate(connection, 1)
    back(database)
    assert back(database).name == "Below"
    assert find.get_rows(database.read(), [3])[0]["rating"] == 3


def test_what_a_later_step_works_on_stays_when_the_making_of_it_is_taken_back(database: Database) -> None:
    with database.write("Make") as connection:
        filled, named, idle = (crates.make_crate(connection, name) for name in ("Filled", "Named", "Idle"))
    mine = top(database)
    with database.write("Fill") as connection:
        crates.add_tracks(connection, filled, [1])
    with database.write("Name") as connection:
        crates.rename_crate(connection, named, "Other")
    assert back(database, step=mine).left == ("2 lists were changed since and stay as they are",)
    there = [crate.id for crate in crates.list_crates(database.read())]
    assert filled in there and named in there and idle not in there
    assert crates.crate_tracks(database.read(), filled) == [1]


def test_what_gave_its_name_to_another_in_one_step_has_it_again(database: Database) -> None:
    make = "INSERT INTO player_settings (name, told) VALUES (?, ?)"
    with database.write() as connection:
        connection.executemany(make, [("Mine", '{"old": 1}'), ("Other", "{}")])
    with database.write("Anew") as connection:
        connection.execute("DELETE FROM player_settings WHERE name = 'Mine'")
        connection.execute(make, ("Mine", '{"new": 1}'))
    assert back(database).left == ()
    rows = database.read().execute("SELECT name, told FROM player_settings ORDER BY id")
    assert [tuple(row) for row in rows] == [("Mine", '{"old": 1}'), ("Other", "{}")]


def test_a_night_comes_back_without_the_venue_that_is_gone_since(database: Database) -> None:
    with database.write() as connection:
        venue = venues.named(connection, "The Slipway")
        gig = gigs.make_gig(connection, Facts(FRIDAY.format(0), venue))
    with database.write("Delete") as connection:
        gigs.delete_gigs(connection, [gig])
    mine = top(database)
    with database.write() as connection:
        venues.delete_venue(connection, venue)
    assert back(database, step=mine).name == "Delete"
    assert gigs.get_gig(database.read(), gig).facts.venue_id is None


def test_folders_within_folders_come_back_whatever_was_made_first(database: Database) -> None:
    with database.write() as connection:
        inner = crates.make_crate(connection, "Inner")
        middle, outer, whole = (
            crates.make_crate(connection, name, is_folder=True) for name in ("Middle", "Outer", "Whole")
        )
        crates.add_tracks(connection, inner, [1, 2])
        for each, folder in ((inner, middle), (middle, outer), (outer, whole)):
            crates.put_into_folder(connection, each, folder)
    with database.write("Delete") as connection:
        crates.delete_crate(connection, whole)
    assert back(database).left == ()
    assert crates.crate_tracks(database.read(), inner) == [1, 2]
    assert crates.get_crate(database.read(), inner).folder_id == middle


@pytest.mark.parametrize("table", [table.name for table in UNDOABLE])
def test_every_undoable_table_is_undone_and_redone(database: Database, table: str) -> None:
    """Each row of it may go by hand, and comes back whole with all that hung on it."""
    with database.write() as connection:
        _fill(connection)
    whole = _all(database, table)
    assert whole, f"the test knows no {named(table).says[0]}"
    with database.write("Delete") as connection:
        connection.execute(f"DELETE FROM {table}")
    gone = _all(database, table)
    back(database)
    assert _all(database, table) == whole
    back(database, "redo")
    assert _all(database, table) == gone


def _all(database: Database, table: str) -> list[tuple[object, ...]]:
    """All rows, but for when they were set."""
    rows = database.read().execute(f"SELECT * FROM {table} ORDER BY 1, 2")
    return [tuple(row[name] for name in row.keys() if name != "changed_at") for row in rows]  # noqa: SIM118


def _fill(connection: sqlite3.Connection) -> None:
    """A row of each table that can be undone, with whatever its columns need."""
    store.add_stick(connection, "Blue", Path("/sticks/blue"), "Quay One")
    for table in UNDOABLE:
        if connection.execute(f"SELECT 1 FROM {table.name} LIMIT 1").fetchone():
            continue
        there = connection.execute(f"PRAGMA foreign_key_list({table.name})").fetchall()
        foreign = {row["from"]: row["table"] for row in there}
        given = {}
        for column in connection.execute(f"PRAGMA table_info({table.name})"):
            name = column["name"]
            if name in foreign:
                rows = connection.execute(f"SELECT rowid FROM {foreign[name]} LIMIT 1").fetchone()
                given[name] = rows[0] if rows else None
            elif column["notnull"] and column["dflt_value"] is None and name not in ("id", "gid"):
                given[name] = USUAL.get(name, 1 if column["type"] != "TEXT" else "{}")
        names = ", ".join(given)
        marks = ", ".join("?" * len(given))
        values = list(given.values())
        connection.execute(f"INSERT INTO {table.name} ({names}) VALUES ({marks})", values)


USUAL = {"part": "cues", "began_at": FRIDAY.format(1), "played_at": FRIDAY.format(2),
         "begins": "21:00", "rule": "[]", "profile": "Quay One", "field": "title", "source": "by hand",
         "colour": "ink", "state": "free"}  # fmt: skip


def test_what_asks_for_a_tag_asks_for_the_one_it_was_merged_into(database: Database) -> None:
    fog, family = fog_of(database)
    with database.write() as connection:
        mist = tags.make_tag(connection, family, "Mist")
        rule = Rule(Tagged(fog), (("title", False),))
        asks = crates.make_rule_crate(connection, "Foggy", rule)
        series.make_series(connection, "Per style", "style")
        per_weather = series.make_series(connection, "Per weather", f"{FAMILY}{family}")
    with database.write("Merge") as connection:
        tags.merge(connection, fog, mist)
    assert rule_lists.get_rule(database.read(), asks) == Rule(Tagged(mist), (("title", False),))
    assert len(inside(database, asks)) == 2
    assert references.leading_nowhere(database.read()) == []
    with database.write() as connection:
        series.bring_up(connection)
    (held,) = [each.id for each in crates.list_crates(database.read()) if each.folder_id == per_weather]
    assert len(inside(database, held)) == 2, "the list of the tag goes on as that of the other"
    back(database)
    assert rule_lists.get_rule(database.read(), asks) == rule


def test_a_rule_about_a_venue_asks_for_the_same_venue_in_another_library(tmp_path: Path) -> None:
    first = Database.prepared(tmp_path / "first.db")
    with first.write() as connection:
        for name in ("A first one", "The Slipway"):
            venue = venues.make_venue(connection, name)
        venues.delete_venue(connection, 1)
        ids = [new_track(connection, f"T{number}") for number in range(2)]
        take_in(connection, [Coming(ids[0])], Facts(FRIDAY.format(0), venue), "file")
        crates.make_rule_crate(connection, "There", Rule(PlayedAt(venue), (("title", False),)))
        crates.make_rule_crate(connection, "Never", Rule(NeverAt(venue), (("title", False),)))
    out = io.StringIO()
    write_document(first.read(), out)
    second = Database.prepared(tmp_path / "second.db")
    with second.write() as connection:
        venues.make_venue(connection, "Of another town")
        venues.delete_venue(connection, 1)
        restore(connection, read_document(out.getvalue().splitlines()), [])
    read = second.read()
    (there,) = [crate for crate in crates.list_crates(read) if crate.name == "There"]
    rule = rule_lists.get_rule(read, there.id)
    assert rule is not None and isinstance(rule.where, PlayedAt)
    assert venues.get_venue(read, rule.where.venue_id or 0).name == "The Slipway"
    assert (
        find_ids(read, rule.where, Order("title")) == find_ids(read, InList(there.id), Order("title")) != []
    )
    assert references.leading_nowhere(read) == []


def test_the_first_of_a_list_that_fills_itself_are_of_what_fills_it(database: Database) -> None:
    fog, _ = fog_of(database)
    with database.write() as connection:
        foggy = crates.make_rule_crate(connection, "Foggy", Rule(Tagged(fog), (("title", False),)))
        first = FirstOf(InList(foggy), (("title", True),), 1)
        last = crates.make_rule_crate(connection, "The last of them", Rule(first, (("title", False),)))
    assert inside(database, last) == [2]


def test_a_rule_that_names_no_venue_means_all_of_them(database: Database) -> None:
    rule = Rule(PlayedAt(None, 1, None), (("title", False),))
    with database.write() as connection:
        asks = crates.make_rule_crate(connection, "Played", rule)
        take_in(connection, [Coming(2)], Facts(FRIDAY.format(0)), "file")
    assert rule_lists.get_rule(database.read(), asks) == rule
    assert inside(database, asks) == [2]


def test_a_night_thrown_away_and_a_real_one_make_a_real_one(database: Database) -> None:
    with database.write() as connection:
        first = take_in(connection, [Coming(1)], Facts(FRIDAY.format(0)), "file").gig_id
        second = take_in(connection, [Coming(5)], Facts("2026-11-22T21:00:00.000+00:00"), "file").gig_id
        gigs.throw_away(connection, [first])
    with database.write("Join") as connection:
        joined = gigs.join_gigs(connection, [first, second])
    assert not gigs.get_gig(database.read(), joined).practice
    assert [row["plays"] for row in find.get_rows(database.read(), [1, 5])] == [1, 1]


def test_what_is_deleted_for_good_leaves_no_reference_that_leads_nowhere(database: Database) -> None:
    fog, _ = fog_of(database)
    with database.write() as connection:
        venue = venues.make_venue(connection, "The Slipway")
        crates.make_rule_crate(connection, "Foggy", Rule(Tagged(fog), (("title", False),)))
        crates.make_rule_crate(connection, "There", Rule(PlayedAt(venue), (("title", False),)))
    with database.write("Delete") as connection:
        tags.delete_tag(connection, fog)
        venues.delete_venue(connection, venue)
    assert references.leading_nowhere(database.read()) == []
    assert all(
        crates.crate_tracks(database.read(), crate.id) == []
        for crate in crates.list_crates(database.read())[1:]
    )
    kept = database.read().execute("SELECT rule FROM crate WHERE rule <> ''").fetchall()
    assert not any("_id" in json.dumps(json.loads(row[0])) for row in kept), "rules hold global ids alone"
    back(database)
    assert len(inside(database, 2)) == 2
