"""Sets hold what was put into them in its order, whatever is done, and undo brings all of it back."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.library.making import new_track
from vinyl.cli import main
from vinyl.core.planning.clearance import Ruling
from vinyl.core.planning.mixing import Settings
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.merging import Way
from vinyl.library import (
    chains,
    clearances,
    gigs,
    grids,
    mixes,
    plays,
    set_planning,
    sets,
    suggesting,
    tracks,
    undo,
    venues,
)
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.plays import Coming

TITLES = tuple(f"Track {number}" for number in range(12))


def _database(folder: Path) -> Database:
    database = Database.prepared(folder / "library.db")
    with database.write() as connection:
        for number, title in enumerate(TITLES):
            track_id = new_track(connection, title, artist=f"Artist {number}", key="A minor", energy="50")
            grids.set_grid(connection, track_id, TempoMap.steady(118.0 + number, 0.0))
    return database


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return _database(tmp_path)


def _make(database: Database, **facts: Any) -> int:
    with database.write("Make") as connection:
        return sets.make_set(connection, {"name": "Friday", **facts})


def _held(database: Database, set_id: int) -> tuple[list[int], list[int]]:
    entries = sets.list_entries(database.read(), set_id)
    return tuple(
        [each.track_id or 0 for each in entries if each.placed is placed] for placed in (True, False)
    )  # type: ignore[return-value]


class _Model:
    """What a set should hold: tracks of the running order and of the tray."""

    def __init__(self) -> None:
        self.order: list[int] = []
        self.tray: list[int] = []

    def put(self, ids: list[int], placed: bool, before: int | None) -> None:
        into, other = (self.order, self.tray) if placed else (self.tray, self.order)
        into[:] = [each for each in into if each not in ids]
        other[:] = [each for each in other if each not in ids]
        at = into.index(before) if before in into else len(into)
        into[at:at] = ids


@given(st.integers(0, 10**6))
@settings(deadline=None, max_examples=25)
def test_after_any_steps_the_order_is_as_it_was_asked_for_and_undo_brings_all_back(
    tmp_path_factory: pytest.TempPathFactory, seed: int
) -> None:
    rng = random.Random(seed)
    database = _database(tmp_path_factory.mktemp("sets"))
    set_id, model = _make(database), _Model()
    seen: list[tuple[list[int], list[int]]] = []
    for _ in range(12):
        before = _held(database, set_id)
        _step(database, set_id, model, rng)
        assert _held(database, set_id) == (model.order, model.tray)
        if _held(database, set_id) != before:
            seen.append(before)
    for state in reversed(seen):
        now = _held(database, set_id)
        # A track that was moved to where it stood is a step too.
        while _held(database, set_id) == now:
            with database.write() as connection:
                undo.step_back(connection, "undo")
        assert _held(database, set_id) == state


def _step(database: Database, set_id: int, model: _Model, rng: random.Random) -> None:
    """Something is added, moved, taken out, or ordered."""
    entries = {each.track_id: each.id for each in sets.list_entries(database.read(), set_id)}
    what = rng.choice(("add", "add", "move", "move", "remove", "reorder"))
    placed, some = rng.random() < 0.6, rng.sample(range(1, 13), rng.randint(1, 4))
    there = [each for each in some if each in entries]
    target = rng.choice([*(model.order if placed else model.tray), None])
    with database.write(what) as connection:
        if what == "add":
            come = [each for each in some if each not in entries or (placed and each in model.tray)]
            before = target if target not in come else None
            sets.add_tracks(connection, set_id, some, placed, entries.get(before) if before else None)
            model.put(come, placed, before)
        elif what == "move" and there:
            before = target if target not in there else None
            ids = [entries[each] for each in there]
            sets.move(connection, set_id, ids, placed, entries.get(before) if before else None)
            model.put(there, placed, before)
        elif what == "remove" and there:
            assert sets.remove(connection, set_id, [entries[each] for each in there]) == len(there)
            model.order = [each for each in model.order if each not in there]
            model.tray = [each for each in model.tray if each not in there]
        elif what == "reorder" and len(model.order) > 1:
            start = rng.randrange(len(model.order) - 1)
            stretch = model.order[start : start + rng.randint(2, 5)]
            mixed = rng.sample(stretch, len(stretch))
            sets.reorder(connection, set_id, [entries[each] for each in mixed])
            model.order[start : start + len(mixed)] = mixed


def test_only_one_opens_and_one_closes_and_what_is_no_pin_is_refused(database: Database) -> None:
    set_id = _make(database)
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [1, 2, 3], True)
        first, second, third = (each.id for each in sets.list_entries(connection, set_id))
        for entry, pin in ((first, "first"), (third, "first"), (second, "last")):
            sets.change_entry(connection, set_id, entry, {"pin": pin})
        assert [each.pin for each in sets.list_entries(connection, set_id)] == ["", "last", "first"]
        with pytest.raises(LibraryError):
            sets.change_entry(connection, set_id, first, {"pin": "middle"})
        with pytest.raises(NotFoundError):
            sets.change_entry(connection, set_id, 999, {"note": "x"})
        with pytest.raises(NotFoundError):
            sets.put_transition(connection, set_id, first, 999, sets.Said())
        with pytest.raises(LibraryError):
            sets.put_transition(connection, set_id, first, second, sets.Said(Settings(over_bars=1000)))
    ids, _ = set_planning.propose_order(database.read(), set_id, "tempo")
    assert ids == [third, first, second]
    stretch, _ = set_planning.propose_order(database.read(), set_id, "tempo", [first, second])
    assert stretch == [first, second], "what is pinned as the first of all binds no stretch that begins later"


def test_what_is_too_much_or_torn_apart_is_not_ordered(database: Database) -> None:
    set_id = _make(database)
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [1], True)
    with pytest.raises(LibraryError, match="two tracks or more"):
        set_planning.propose_order(database.read(), set_id, "all")
    with database.write() as connection:
        sets.add_tracks(connection, set_id, list(range(2, 13)), True)
        ids = [each.id for each in sets.list_entries(connection, set_id)]
        with pytest.raises(LibraryError, match="meanwhile"):
            sets.reorder(connection, set_id, [ids[0], ids[2]])
        more = [new_track(connection, f"More {number}") for number in range(set_planning.MOST_ORDERED)]
        sets.add_tracks(connection, set_id, more, True)
    with pytest.raises(LibraryError, match="one after the other"):
        set_planning.propose_order(database.read(), set_id, "all", [ids[0], ids[2]])
    with pytest.raises(LibraryError, match="choose a stretch"):
        set_planning.propose_order(database.read(), set_id, "all")


def test_of_twins_in_a_tray_one_stays_and_what_has_a_note_does_too(database: Database) -> None:
    set_id = _make(database)
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [1, 2, 3])
        noted = sets.list_entries(connection, set_id)[2]
        sets.change_entry(connection, set_id, noted.id, {"note": "the longer one"})
        sets.take_over(connection, 1, {2: None, 3: None})
    assert _held(database, set_id) == ([], [1, 1])
    assert [each.note for each in sets.list_entries(database.read(), set_id)] == ["", "the longer one"]


def test_joints_begin_at_the_same_sound_of_what_a_copy_gave_way_to(database: Database) -> None:
    set_id = _make(database)
    ways = {2: Way(Alignment(1.0, 1.5, 0.0), 300.0), 4: Way(Alignment(1.0, -90.0, 0.0), 300.0)}
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [1, 2, 4], True)
        first, second, third = (each.id for each in sets.list_entries(connection, set_id))
        sets.put_transition(connection, set_id, first, second, sets.Said(Settings(100.0, 10.0, 8), "late"))
        sets.put_transition(connection, set_id, second, third, sets.Said(Settings(200.0, 30.0, 8)))
        for out_id, in_id, works in ((1, 2, True), (3, 2, False), (2, 3, True), (2, 4, True)):
            mixes.say(connection, out_id, in_id, works)
        sets.take_over(connection, 3, ways)
        mixes.take_over(connection, 3, [2, 4])
    said = sets.list_transitions(database.read(), set_id)
    assert said[first, second] == sets.Said(Settings(100.0, 11.5, 8), "late")
    assert said[second, third] == sets.Said(Settings(201.5, None, 8)), "before the start of the kept file"
    assert mixes.verdicts(database.read(), range(9)) == {(1, 3): True}, "none of a track into itself"


def test_times_of_joints_flow_into_the_length_of_the_set(database: Database) -> None:
    set_id = _make(database)
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [1, 2], True)
        one, two = sets.list_entries(connection, set_id)
        sets.put_transition(connection, set_id, one.id, two.id, sets.Said(Settings(60.0, 20.0, 8)))
    plan = set_planning.read_plan(database.read(), set_id)
    assert [each.begins_s for each in plan.placed] == [0.0, 60.0]
    assert plan.lasts_s == 60.0 + two.duration_s - 20.0


def test_a_slot_over_midnight_is_as_long_as_it_is(database: Database) -> None:
    for begins, ends, hours in (("21:00", "00:00", 3), ("23:30", "04:00", 4.5), ("10:00", "10:00", 24)):
        found = sets.get_set(database.read(), _make(database, begins=begins, ends=ends))
        assert found.slot_s == hours * 3600
    assert sets.get_set(database.read(), _make(database, begins="21:00")).slot_s is None


def test_what_followed_at_nights_is_counted_with_how_it_went(database: Database) -> None:
    with database.write() as connection:
        venue_id = venues.named(connection, "The Slipway")
        for day, ids, went in ((6, (1, 2, 3), "well"), (13, (1, 2), "flat"), (20, (2, 1, 4), "well")):
            began_at = f"2026-11-{day:02}T21:00:00.000+00:00"
            gig_id = gigs.make_gig(connection, gigs.Facts(venue_id=venue_id, began_at=began_at))
            plays.add(connection, gig_id, [Coming(each) for each in ids], None, "by hand")
            plays.mark(connection, [play.id for play in plays.list_plays(connection, gig_id)], {"went": went})
        practice = gigs.make_gig(connection, gigs.Facts(began_at="2026-11-21T21:00:00.000+00:00"))
        plays.add(connection, practice, [Coming(1), Coming(9)], None, "by hand")
        gigs.throw_away(connection, [practice])
    found = suggesting.followed(database.read(), 1)
    assert {each: (one.together, one.went_well, one.fell_flat) for each, one in found.items()} == {
        2: (2, 1, 1),
        4: (1, 1, 0),
    }
    set_id = _make(database, venue_id=venue_id, on_day="2026-11-27")
    told = {each.track_id: each.suggestion for each in suggesting.suggestions(database.read(), set_id, 1)}
    assert "you played them together twice" in told[2].reasons and told[2].doubts == ("played here 20 Nov",)
    before = told[4].score
    with database.write() as connection:
        plays.mark(connection, [plays.list_plays(connection, gig_id)[0].id], {"never": "here"})
        tracks.rate(connection, [4], 5)
    told = {each.track_id: each.suggestion for each in suggesting.suggestions(database.read(), set_id, 1)}
    assert 2 not in told and 1 not in told and told[4].score > before


def test_sets_are_listed_shown_and_ordered_from_the_command_line(
    tmp_path: Path, database: Database, capsys: pytest.CaptureFixture[str]
) -> None:
    def run(*arguments: str) -> list[str]:
        assert main(["set", *arguments, "--home", str(tmp_path)]) == 0
        return capsys.readouterr().out.splitlines()

    assert run("list") == []
    set_id = _make(database, on_day="2026-12-04", begins="21:00")
    with database.write() as connection:
        sets.add_tracks(connection, set_id, [12, 3, 1], True)
        sets.add_tracks(connection, set_id, [5])
        last = sets.list_entries(connection, set_id)[0]
        sets.change_entry(connection, set_id, last.id, {"note": "loud", "pin": "last"})
    assert run("list") == [f"{set_id:6}  Friday  (2026-12-04; 3 placed, 1 in the tray)"]
    shown = run("show", "Friday")
    assert shown[2] == "  1  21:00  Artist 11 – Track 11 · 129.0 bpm · A minor · loud"
    assert "16 bars over" in shown[3] and shown[-1] == "tray  Artist 4 - Track 4"
    ordered = run("order", str(set_id), "--by", "tempo")
    assert [line.split(" - ")[1] for line in ordered[:3]] == ["Track 0", "Track 2", "Track 11"]
    assert [each.track_id for each in sets.list_entries(database.read(), set_id)] == [12, 3, 1, 5]
    with database.write() as connection:
        clearances.put(connection, {1: Ruling("blocked", ("Ostmark",)), 3: Ruling("free", source="a label")})
    assert run("clearance", "Friday") == [
        "May be published: not known; not in Ostmark; nothing known of one track",
        "! Artist 11 - Track 11: unknown",
        "  Artist 2 - Track 2: free · a label",
        "! Artist 0 - Track 0: blocked in Ostmark",
    ]
    assert main(["set", "show", "Nowhere", "--home", str(tmp_path)]) == 1
    assert "There is no set “Nowhere”" in capsys.readouterr().err


def _ways(database: Database, set_id: int) -> dict[int, tuple[int | None, int | None, str]]:
    steps = chains.list_steps(database.read(), set_id)
    return {each.id: (each.from_id, each.track_id, each.held) for each in steps}


def test_a_chain_goes_on_branches_and_is_taken_back_with_all_after_it(database: Database) -> None:
    set_id, other = _make(database), _make(database)
    with database.write() as connection:
        one = chains.go_on(connection, set_id, 1, None)
        two = chains.go_on(connection, set_id, 2, one)
        three = chains.go_on(connection, set_id, 3, two)
        four = chains.go_on(connection, set_id, 4, one)
        assert chains.go_on(connection, set_id, 2, one) == two, "the way that was gone before"
        sets.add_tracks(connection, set_id, [3])
        sets.add_tracks(connection, set_id, [4], True)
        for track_id, step in ((5, 99), (99, one)):
            with pytest.raises(NotFoundError):
                chains.go_on(connection, set_id, track_id, step)
        with pytest.raises(NotFoundError):
            chains.go_on(connection, other, 5, one)
    whole = {one: (None, 1, ""), two: (one, 2, ""), three: (two, 3, "tray"), four: (one, 4, "order")}
    assert _ways(database, set_id) == whole
    with database.write("Back") as connection:
        assert chains.take_back(connection, set_id, two) == 2
    assert _ways(database, set_id) == {one: whole[one], four: whole[four]}
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert _ways(database, set_id) == whole
    with database.write("Delete") as connection:
        sets.delete_set(connection, set_id)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert _ways(database, set_id) == whole, "a set comes back with its chain"
    with database.write() as connection:
        chains.take_over(connection, 1, [3])
    assert _ways(database, set_id)[three] == (two, 1, "")
