"""Lists by hand under whatever is done to them: order, dividers, merging, deleting, series, carrying away."""

from __future__ import annotations

import json
import random
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.library.making import new_track
from vinyl.core.rules.conditions import AllOf, InList, Tagged
from vinyl.core.rules.notation import Rule
from vinyl.library import (
    combining,
    crates,
    describing,
    dividers,
    list_documents,
    places,
    rule_lists,
    series,
    tags,
    undo,
    wanted,
)
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.identity import last_change
from vinyl.library.references import id_of
from vinyl.library.wanted import WantedEntry

TRACKS = 12
LOST = WantedEntry("Tern Logic", "Not yet", "", "a playlist")


@pytest.fixture
def database(tmp_path: Path) -> Database:
    """Twelve tracks of 200 s; a crate of the first six with a wanted entry among them, and another."""
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for place in range(TRACKS):
            new_track(connection, f"Track {place}", genre=("House", "Disco", "Dub")[place % 3])
        one, two = crates.make_crate(connection, "One"), crates.make_crate(connection, "Two")
        wanted.append(connection, one, [1, 2, 3, LOST, 4, 5, 6])
        wanted.append(connection, two, [5, 6, 7, 8])
    return made


def told(database: Database, crate_id: int = 1) -> list[object]:
    """What stands in a list, in order: ids of tracks, names of dividers, a star for what is wanted."""
    listed = list_documents.document_of(database.read(), crate_id)["places"]
    ids = {row["gid"]: row["id"] for row in database.read().execute("SELECT id, gid FROM track")}
    kinds = {"track": lambda place: ids[place["gid"]], "divider": lambda place: place["title"]}
    return [kinds.get(place["kind"], lambda _: "*")(place) for place in listed]


def test_tracks_move_between_dividers_and_what_is_wanted_stays(database: Database) -> None:
    with database.write("Divide") as connection:
        dividers.add_divider(connection, 1, "First", 0)
        late = dividers.add_divider(connection, 1, "Late", 4)
    assert told(database) == ["First", 1, 2, 3, "*", 4, "Late", 5, 6]
    steps = (
        (([6], 4, True), ["First", 1, 2, 3, "*", 4, 6, "Late", 5]),
        (([6], 4, False), ["First", 1, 2, 3, "*", 4, "Late", 6, 5]),
        (([1, 2], 4, False), ["First", 3, "*", 4, "Late", 6, 5, 1, 2]),
        (([5], 0, False), ["First", 5, 3, "*", 4, "Late", 6, 1, 2]),
    )
    for (ids, to, behind), after in steps:
        with database.write("Move") as connection:
            crates.move_tracks(connection, 1, ids, to, behind)
        assert told(database) == after
    sections = dividers.list_sections(database.read(), 1)
    assert [(s.name, s.at, s.tracks, s.duration_s) for s in sections] == [
        ("First", 0, 3, 600.0),
        ("Late", 3, 3, 600.0),
    ]
    with database.write("Turn round") as connection:
        combining.arrange(connection, 1, "reverse")
        dividers.move_divider(connection, late, 1)
    assert told(database) == ["First", 2, "Late", 1, "*", 6, 4, 3, 5]
    with database.write() as connection:
        while undo.state(connection).undo:
            undo.step_back(connection, "undo")
    assert told(database) == [1, 2, 3, "*", 4, 5, 6] and dividers.list_sections(database.read(), 1) == []


def names(database: Database) -> list[int]:
    return list(places.list_places(database.read(), 1).names)


def test_a_track_stands_more_than_once_where_that_is_allowed(database: Database) -> None:
    with database.write("Put in") as connection:
        assert crates.add_tracks(connection, 1, [2, 7]) == 1
        crates.allow_repeats(connection, 1, True)
        assert crates.add_tracks(connection, 1, [2, 4], at=1) == 2
        dividers.add_divider(connection, 1, "Again", 2)
    assert told(database) == [1, 2, "Again", 4, 2, 3, "*", 4, 5, 6, 7]
    assert crates.get_crate(database.read(), 1).tracks == 9
    _, again, fourth, *_ = names(database)
    assert again < 0 and fourth < 0 and names(database)[3:] == [2, 3, 4, 5, 6, 7]
    with database.write("Note") as connection:
        places.put_note(connection, 1, [again], " mix out early ")
        crates.move_tracks(connection, 1, [again, 6], 0)
        crates.take_out(connection, 1, [4])
    assert told(database) == [2, 6, 1, "Again", 4, 2, 3, "*", 5, 7]
    # Without the place that bore its id, the other one does.
    assert names(database) == [again, 6, 1, 4, 2, 3, 5, 7]
    assert places.list_notes(database.read(), 1) == {again: "mix out early"}
    kept = list_documents.document_of(database.read(), 1)
    with database.write("Delete") as connection:
        combining.arrange(connection, 1, "as sorted", [("title", False)])
        assert [each for each in told(database) if isinstance(each, int)] == [1, 2, 2, 3, 4, 5, 6, 7]
        made = list_documents.make_of(connection, kept)
        crates.remove_tracks(connection, 1, [2])
        assert combining.combine(connection, 1, 2, "merge") == 1
    assert told(database, made.crate_id) == [2, 6, 1, "Again", 4, 2, 3, "*", 5, 7]
    assert list(places.list_notes(database.read(), made.crate_id).values()) == ["mix out early"]
    assert 2 not in told(database) and 8 in told(database)
    with database.write() as connection:
        while undo.state(connection).undo:
            undo.step_back(connection, "undo")
    assert told(database) == [1, 2, 3, "*", 4, 5, 6] and names(database) == [1, 2, 3, 4, 5, 6]
    assert crates.get_crate(database.read(), 1).tracks == 6


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(st.tuples(st.integers(0, 6), st.integers(0, 8), st.booleans()), max_size=25), st.integers(0, 99)
)
def test_no_move_loses_or_doubles_anything(
    tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[int, int, bool]], seed: int
) -> None:
    database = Database.prepared(tmp_path_factory.mktemp("moves") / "library.db")
    draw = random.Random(seed)
    with database.write() as connection:
        for place in range(7):
            new_track(connection, f"Track {place}")
        crates.make_crate(connection, "One")
        wanted.append(connection, 1, [1, 2, LOST, 3, 4, 5, 6])
    model: list[object] = [1, 2, "*", 3, 4, 5, 6]
    for number, to, behind in steps:
        with database.write("Step") as connection:
            if number == 0:
                at = min(to, sum(isinstance(each, int) for each in model))
                dividers.add_divider(connection, 1, f"D{len(model)}", at)
                model.insert(_index(model, at, False), f"D{len(model)}")
                continue
            moved = sorted(draw.sample(range(1, 7), min(number, 3)))
            crates.move_tracks(connection, 1, moved, to, behind)
            moving = [each for each in model if each in moved]
            rest = [each for each in model if each not in moved]
            at = min(to, sum(isinstance(each, int) for each in rest))
            place = _index(rest, at, behind)
            model = [*rest[:place], *moving, *rest[place:]]
        assert told(database) == model


def _index(model: list[object], at: int, behind: bool) -> int:
    """Where the ``at``-th track stands, or right behind the one before it."""
    tracks = [place for place, each in enumerate(model) if isinstance(each, int)]
    if behind and at > 0:
        return tracks[at - 1] + 1
    return tracks[at] if at < len(tracks) else len(model)


def test_lists_are_merged_subtracted_and_kept_as_sorted(database: Database) -> None:
    with database.write("Merge") as connection:
        assert combining.combine(connection, 1, 2, "merge") == 2
    assert told(database) == [1, 2, 3, "*", 4, 5, 6, 7, 8]
    with database.write("Subtract") as connection:
        rule = crates.make_rule_crate(connection, "Fives", Rule(InList(2)))
        assert combining.combine(connection, 1, rule, "subtract") == 4
    assert told(database) == [1, 2, 3, "*", 4]
    with database.write("Intersect") as connection:
        crates.add_tracks(connection, 1, [5])
        assert combining.combine(connection, 1, 2, "intersect") == 4
        crates.add_tracks(connection, 1, [9, 7, 12])
        combining.arrange(connection, 1, "as sorted", [("title", True)])
        combining.arrange(connection, 2, "shuffle", seed=1)
    assert told(database) == ["*", 9, 7, 5, 12] and sorted(told(database, 2)) == [5, 6, 7, 8]
    for wrong in (
        lambda c: combining.combine(c, 1, 1, "merge"),
        lambda c: combining.arrange(c, 1, "as sorted"),
    ):
        with pytest.raises(LibraryError), database.write("Wrong") as connection:
            wrong(connection)


def test_a_list_stands_under_dividers_by_value_until_they_are_kept(database: Database) -> None:
    with database.write("Divide") as connection:
        dividers.divide_by(connection, 1, "style")
        combining.arrange(connection, 1, "as sorted", [("genre", False), ("title", False)])
    names = lambda: [(s.name, s.at, s.tracks) for s in dividers.list_sections(database.read(), 1)]  # noqa: E731
    assert names() == [("Disco", 0, 2), ("Dub", 2, 2), ("House", 4, 2)]
    with database.write("Edit") as connection:
        describing.edit(connection, [2], {"genre": "Dub"})
    assert names() == [("Dub", 0, 1), ("Disco", 1, 1), ("Dub", 2, 2), ("House", 4, 2)]
    with database.write("Keep") as connection:
        kept = names()
        dividers.keep_dividers(connection, 1)
        describing.edit(connection, [2], {"genre": "House"})
    assert names() == kept
    named = {}
    for by in ("tempo", "energy", "key", "month", "backing", "tags 1"):
        with database.write("Divide") as connection:
            connection.execute("UPDATE shelf SET bpm = 118.5, energy = 61, key = 'A minor' WHERE id <= 3")
            dividers.divide_by(connection, 1, by)
        named[by] = [
            (s.name, s.tracks) for s in dividers.list_sections(database.read(), 1, [("title", False)])
        ]
    assert named["tempo"][0] == ("115 to 120", 3) and named["energy"][0] == ("60 to 69", 3)
    assert named["key"] == [("A minor", 3), ("", 3)] and named["tags 1"] == [("", 6)]
    with pytest.raises(LibraryError, match="not by “weather”"), database.write("Wrong") as connection:
        dividers.divide_by(connection, 1, "weather")


def test_a_deleted_folder_comes_back_after_any_number_of_steps(database: Database) -> None:
    with database.write("Fill") as connection:
        folder = crates.make_crate(connection, "Nights", is_folder=True)
        crates.put_into_folder(connection, 1, folder)
        rule = crates.make_rule_crate(connection, "Both", Rule(InList(1)), folder)
        dividers.add_divider(connection, 1, "Late", 2, "☾", "blue")
        crates.change_looks(connection, 1, "violet", "§", "for the harbour")
    before = list_documents.document_of(database.read(), folder)
    with database.write("Delete") as connection:
        list_documents.delete_list(connection, folder)
    (deleted,) = list_documents.list_deleted(database.read())
    assert (deleted.name, deleted.lists, deleted.places) == ("Nights", 2, 7)
    with database.write() as connection:
        connection.execute("DELETE FROM undo_step")
        crates.make_crate(connection, "Nights")
        made = list_documents.bring_back(connection, deleted.id)
    assert (made.tracks, made.wanted, made.problems) == (6, 1, [])
    after = list_documents.document_of(database.read(), made.crate_id)
    assert after["name"] == "Nights 2" and list_documents.list_deleted(database.read()) == []
    assert after["lists"] == before["lists"], "global ids and all"
    counts = rule_lists.count_lists(database.read())
    assert rule not in counts and counts[id_here(database, after["lists"][1])] == (6, 1200.0), (
        "its rule asks for the new one"
    )


def id_here(database: Database, document: dict[str, Any]) -> int:
    """The id of the list that a document was made of, or made."""
    return id_of(database.read(), "crate", document["gid"])


def test_lists_travel_to_another_library(database: Database, tmp_path: Path) -> None:
    with database.write("Fill") as connection:
        folder = crates.make_crate(connection, "Nights", is_folder=True)
        crates.put_into_folder(connection, 1, folder)
        warm = tags.make_tag(connection, 1, "Warm")
        crates.make_rule_crate(connection, "Both", Rule(AllOf((InList(1), Tagged(warm)))), folder)
        crates.make_rule_crate(connection, "Odd", Rule(InList(2)), folder)
    document = json.loads(json.dumps(list_documents.document_of(database.read(), folder)))
    other = Database.prepared(tmp_path / "other.db")
    with other.write() as connection:
        for place in (4, 2, 3):
            new_track(connection, f"Track {place}")
        tags.make_tag(connection, 1, "Other")
        tags.make_tag(connection, 1, "Warm")
        made = list_documents.make_of(connection, document)
    assert (made.tracks, made.wanted) == (3, 4)
    assert made.problems == ["“Odd” came without its rule: it asks for the crate “Two”, which is not here."]
    again = list_documents.document_of(other.read(), made.crate_id)
    titles = [place["title"] for place in again["lists"][0]["places"]]
    assert titles == [place["title"] for place in document["lists"][0]["places"]]
    rule = rule_lists.get_rule(other.read(), id_here(other, again["lists"][1]))
    assert rule and "tag Warm" in rule_lists.said(other.read(), rule.where)
    odd = {"format": "vinyl list", "name": "Odd rule", "rule": {"where": {"kind": "between", "field": "bpm"}}}
    for value in ("ten", [1], True, {}):
        odd["rule"] = {"where": {"kind": "between", "field": "bpm", "low": value}}
        with other.write() as connection:
            made = list_documents.make_of(connection, odd)
        assert "cannot be" in made.problems[0], value
    odd["rule"] = {"where": {"kind": "tagged", "tag_id": [7]}}
    with other.write() as connection:
        assert "which is not here" in list_documents.make_of(connection, odd).problems[0]
    for wrong in ({}, {"format": "vinyl list"}, {**document, "lists": [3]}, {**document, "lists": [{}]}):
        with pytest.raises(LibraryError), other.write() as connection:
            list_documents.make_of(connection, wrong)


def test_a_series_has_a_list_for_each_value_and_gets_more(database: Database) -> None:
    with database.write("Make") as connection:
        folder = series.make_series(connection, "By style", "style")
    inside = lambda: [c.name for c in crates.list_crates(database.read()) if c.folder_id == folder]  # noqa: E731
    assert inside() == ["Disco", "Dub", "House"] and not series.lacking(database.read())
    with database.write("Edit") as connection:
        describing.edit(connection, [1], {"genre": "Electro"})
    assert series.lacking(database.read())
    with database.write() as connection:
        series.bring_up(connection)
    assert inside() == ["Disco", "Dub", "Electro", "House"]
    counts = rule_lists.count_lists(database.read())
    made = {c.name: c.id for c in crates.list_crates(database.read())}
    assert counts[made["Electro"]] == (1, 200.0) and counts[folder] == (TRACKS, 200.0 * TRACKS)
    with database.write("Delete") as connection:
        list_documents.delete_list(connection, made["Dub"])
    assert inside() == ["Disco", "Electro", "House"] and not series.lacking(database.read())
    for by in ("tempo", "energy", "key", "month", "tags 1"):
        with database.write("More") as connection:
            series.make_series(connection, f"By {by}", by)
    with pytest.raises(LibraryError, match="not by “weather”"), database.write("Wrong") as connection:
        series.make_series(connection, "Wrong", "weather")


def test_a_folder_that_holds_what_asks_for_it_is_refused(database: Database) -> None:
    with database.write("Make") as connection:
        folder = crates.make_crate(connection, "Nights", is_folder=True)
        rule = crates.make_rule_crate(connection, "All nights", Rule(InList(folder)))
    with pytest.raises(LibraryError, match="round in a circle"), database.write("Move") as connection:
        crates.put_into_folder(connection, rule, folder)
    with database.write("Move") as connection:
        crates.put_into_folder(connection, 2, folder)
        crates.put_into_folder(connection, 1, folder, before_id=2)
    assert set(crates.crate_tracks(database.read(), rule)) == {1, 2, 3, 4, 5, 6, 7, 8}
    with database.write("Order") as connection:
        crates.rename_crate(connection, 1, "10 late")
        crates.rename_crate(connection, 2, "9 early")
        crates.order_by_name(connection, folder)
    inside = [c.name for c in crates.list_crates(database.read()) if c.folder_id == folder]
    assert inside == ["9 early", "10 late"]


def test_the_size_of_a_list_is_right_after_anything(database: Database) -> None:
    def sizes() -> None:
        for crate in crates.list_crates(database.read()):
            if not crate.fills_itself and not crate.is_folder:
                held = crates.crate_tracks(database.read(), crate.id)
                assert (crate.tracks, crate.duration_s) == (len(held), 200.0 * len(held)), crate

    sizes()
    with database.write("Change") as connection:
        crates.remove_tracks(connection, 1, [1, 2])
        connection.execute("DELETE FROM track WHERE id = 5")
    sizes()
    with database.write("Delete") as connection:
        list_documents.delete_list(connection, 1)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    sizes()
    assert crates.get_crate(database.read(), 1).wanted == 1


WORKING = """
import random, sys
from pathlib import Path
from vinyl.library import combining, crates, list_documents
from vinyl.library.database import Database
database, draw = Database.prepared(Path(sys.argv[1])), random.Random()
print("begun", flush=True)
while True:
    with database.write("Move") as connection:
        moved, to = draw.sample(range(1, 41), 3), draw.randrange(38)
        crates.move_tracks(connection, 1, moved, to, behind=draw.random() < 0.5)
    for how in ("merge", "subtract"):
        with database.write(how) as connection:
            combining.combine(connection, 3, 2, how)
    with database.write("Delete") as connection:
        name = "Carried"
        made = next(c.id for c in crates.list_crates(connection) if c.name == name)
        list_documents.delete_list(connection, made)
    with database.write("Back") as connection:
        list_documents.bring_back(connection, list_documents.list_deleted(connection)[0].id)
"""


def test_a_kill_in_the_middle_neither_loses_nor_doubles_places(tmp_path: Path) -> None:
    path, draw = tmp_path / "library.db", random.Random(3)
    database = Database.prepared(path)
    with database.write() as connection:
        for place in range(60):
            new_track(connection, f"Track {place}")
        for name, first, last in (("Moved", 1, 40), ("Other", 41, 60), ("Both", 1, 10), ("Carried", 1, 30)):
            crates.add_tracks(connection, crates.make_crate(connection, name), range(first, last + 1))
    for _ in range(8):
        child = subprocess.Popen([sys.executable, "-c", WORKING, str(path)], stdout=subprocess.PIPE)
        assert child.stdout and child.stdout.readline() == b"begun\n"
        time.sleep(draw.uniform(0.0, 0.3))  # a power cut waits for no condition
        child.send_signal(signal.SIGKILL)
        child.wait()
        child.stdout.close()
        read = Database.prepared(path).read()
        there = {crate.name: crate for crate in crates.list_crates(read)}
        held = {name: crates.crate_tracks(read, crate.id) for name, crate in there.items()}
        assert sorted(held["Moved"]) == list(range(1, 41))
        assert held["Both"] in (list(range(1, 11)), [*range(1, 11), *range(41, 61)])
        deleted = list_documents.list_deleted(read)
        assert [each.places for each in deleted] == ([] if "Carried" in held else [30])
        assert held.get("Carried", list(range(1, 31))) == list(range(1, 31))
        assert all(there[name].tracks == len(tracks) for name, tracks in held.items())
        double = "SELECT 1 FROM crate_place GROUP BY crate_id, position HAVING count(*) > 1"
        assert read.execute(double).fetchone() is None


def test_nothing_is_kept_of_places_that_are_gone_and_little_of_lists(database: Database) -> None:
    def kept() -> int:
        return int(database.read().execute("SELECT count(*) FROM value_time").fetchone()[0])

    with database.write("Make") as connection:
        crate = crates.make_crate(connection, "Pier")
        tracks = [new_track(connection, f"New {n}") for n in range(40)]
    before = kept()
    for _ in range(3):
        with database.write("Put in and out") as connection:
            crates.add_tracks(connection, crate, tracks)
            crates.remove_tracks(connection, crate, tracks)
    assert kept() <= before + 2
    with database.write("Delete") as connection:
        gid = connection.execute("SELECT gid FROM crate WHERE id = ?", (crate,)).fetchone()[0]
        crates.delete_crate(connection, crate)
    assert set(last_change(database.read(), gid)) == {"deleted"}
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert set(last_change(database.read(), gid)) == {"made"}, "what is there again was never deleted"
