"""Settling random groups of twins: nothing that was done on any is lost, and undo restores everything."""

from __future__ import annotations

import sqlite3
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.library.making import new_track
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.likeness.compare import Match
from vinyl.core.planning.clearance import BY_HAND, Ruling
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import Pair
from vinyl.library import (
    clearances,
    crates,
    cues,
    grids,
    locks,
    off_shelf,
    plays,
    routes,
    tags,
    tracks,
    twin_pairs,
    undo,
)
from vinyl.library.database import Database
from vinyl.library.twin_carrying import carry_over, plan_carrying, said

DURATION_S = 200.0
NO_ATTACKS = lambda track_id: None  # noqa: E731


@dataclass(frozen=True)
class Made:
    """What was done on a track."""

    cues: list[tuple[float, int | None]]
    plays: int
    lists: list[int]
    tags: list[int]
    stars: int
    grid: float | None
    lock: bool
    route: bool


made = st.builds(
    Made,
    cues=st.lists(st.tuples(st.floats(5, 195), st.none() | st.integers(1, 8)), max_size=4),
    plays=st.integers(0, 3),
    lists=st.lists(st.integers(0, 2), max_size=3),
    tags=st.lists(st.integers(0, 3), max_size=3, unique=True),
    stars=st.integers(0, 5),
    grid=st.none() | st.sampled_from([120.0, 124.0]),
    lock=st.booleans(),
    route=st.booleans(),
)
COUNTED = "SELECT (SELECT count(*) FROM play), (SELECT count(*) FROM play WHERE track_id IS NULL)"


class Library:
    """A library with lists, one of which may hold a track twice, and tags."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self.connection = connection
        self.lists = [crates.make_crate(connection, f"List {place}") for place in range(3)]
        crates.allow_repeats(connection, self.lists[2], True)
        family = tags.make_family(connection, "Mood", "violet")
        self.tags = [tags.make_tag(connection, family, f"Tag {place}") for place in range(4)]

    def add(self, name: str, done: Made) -> int:
        connection = self.connection
        track = new_track(connection, name, duration_s=DURATION_S, stars=str(done.stars))
        for position_s, pad in done.cues:
            cues.add_cue(connection, track, Cue(position_s, pad=pad))
        for hour in range(done.plays):
            plays.note(connection, [track], f"2026-11-20T2{hour}:00:00+00:00")
        for place in done.lists:
            crates.add_tracks(connection, self.lists[place], [track])
        for place in done.tags:
            tags.give(connection, self.tags[place], [track], True)
        if done.grid:
            grids.set_grid(connection, track, TempoMap.steady(done.grid, 0.5))
        if done.route:
            routes.save_route(connection, track, "Short", [Jump(30.0, 60.0)])
        if done.lock:
            locks.set_lock(connection, [track], "cues", True)
        return track


def _aligned(first: int, second: int, offset_s: float) -> Pair:
    match = Match("same", offset_s, 1.0, 0.02)
    return Pair(first, second, frozenset({"sound"}), match, Alignment(1.0, offset_s, 0.0), 0.1)


def _snapshot(connection: sqlite3.Connection) -> dict[str, list[tuple[object, ...]]]:
    names = (
        "cue",
        "play",
        "crate_place",
        "track_tag",
        "track_value",
        "track_lock",
        "route",
        "off_shelf",
        "shelf",
    )
    return {
        name: sorted(
            (
                tuple(value for key, value in dict(row).items() if key != "changed_at")
                for row in connection.execute(f"SELECT * FROM {name}")
            ),
            key=repr,
        )
        for name in names
    }


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(st.lists(made, min_size=2, max_size=4), st.integers(0, 3), st.floats(-2, 2))
def test_nothing_that_was_done_is_lost_and_undo_restores_it(
    tmp_path_factory: pytest.TempPathFactory, done: list[Made], keep: int, offset_s: float
) -> None:
    database = Database.prepared(tmp_path_factory.mktemp("twins") / "library.db")
    with database.write() as connection:
        library = Library(connection)
        ids = [library.add(f"Tide {place}", each) for place, each in enumerate(done)]
        library.add("Other", Made([(9.0, None)], 1, [0, 1, 2], [0], 3, None, False, False))
        pairs = [_aligned(one, two, offset_s) for at, one in enumerate(ids) for two in ids[at + 1 :]]
        twin_pairs.keep(connection, pairs, ids)
    read, kept = database.read(), ids[keep % len(ids)]
    copies = [each for each in ids if each != kept]
    before, plan = _snapshot(read), plan_carrying(read, NO_ATTACKS, kept, copies)
    asked = "SELECT DISTINCT crate_id FROM crate_place WHERE track_id = ?"
    in_lists = {each: {row[0] for row in read.execute(asked, (each,))} for each in ids}
    with database.write("Settle") as connection:
        carry_over(connection, plan, aside=False)

    assert read.execute(COUNTED).fetchone()[:] == (1 + sum(each.plays for each in done), 0)
    row = tracks.get_track(read, kept)
    assert row["plays"] == sum(each.plays for each in done) and row["rating"] == max(
        each.stars for each in done
    )
    held = {library.tags[place] for each in done for place in each.tags}
    assert set(map(int, filter(None, row["tags"].split(",")))) == held
    now = Counter(
        row[0] for row in read.execute("SELECT crate_id FROM crate_place WHERE track_id = ?", (kept,))
    )
    assert set(now) == set().union(*in_lists.values())
    assert all(count == 1 for crate, count in now.items() if crate != library.lists[2])
    there = [cue.position_s for cue in cues.list_cues(read, kept)]
    locked = "cues" in locks.locks_of(read, kept) and done[keep % len(done)].lock
    for track in copies:
        way = offset_s if track > kept else -offset_s
        for cue in cues.list_cues(read, track):
            # Times of the copy are those of the kept file and the offset, or the other way round.
            at_s = cue.position_s - way
            assert locked or any(abs(at_s - each) <= 0.02 for each in there), (cue, there)
    assert bool(plan.lost) is False or any("cues are locked" in each for each in plan.lost)
    assert row["bpm"] is not None or not any(each.grid for each in done)
    assert read.execute("SELECT count(*) FROM off_shelf WHERE twin_of = ?", (kept,)).fetchone()[0] == len(
        copies
    )

    after = _snapshot(read)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert _snapshot(read) == before
    with database.write() as connection:
        undo.step_back(connection, "redo")
    assert {name: rows for name, rows in _snapshot(read).items() if name != "off_shelf"} == {
        name: rows for name, rows in after.items() if name != "off_shelf"
    }


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database.prepared(tmp_path / "library.db")


def test_what_contradicts_is_told_and_chosen_and_what_has_no_place_is_lost_with_a_word(
    database: Database,
) -> None:
    nothing = Made([], 0, [], [], 0, None, False, False)
    with database.write() as connection:
        library = Library(connection)
        kept = library.add("Kept", replace(nothing, grid=120.0))
        copy = library.add("Copy", replace(nothing, grid=124.0, cues=[(0.2, None), (50.0, 3)], stars=4))
        twin_pairs.keep(connection, [_aligned(kept, copy, 0.5)], [kept, copy])
    read = database.read()
    plan = plan_carrying(read, NO_ATTACKS, kept, [copy])
    (grid,) = [each for each in plan.differs if each.field == "grid"]
    assert (grid.kept, grid.other, grid.carried, grid.by_hand) == ("120.00 bpm", "124.00 bpm", False, True)
    assert not plan.is_clean and plan.grid is None and plan.lost == ["1 cue outside the kept file"]
    assert "1 cue (moved by -0.50 s)" in said(plan) and "stars 4" in said(plan)
    chosen = plan_carrying(read, NO_ATTACKS, kept, [copy], {"grid": copy})
    assert chosen.grid is not None and chosen.grid.bpm == pytest.approx(124.0)
    assert float(chosen.grid.time_at(0)) == pytest.approx(0.0)
    with database.write() as connection:
        twin_pairs.say_no_twins(connection, [kept, copy])
        connection.execute("DELETE FROM twin_pair")
    unknown = plan_carrying(read, NO_ATTACKS, kept, [copy])
    assert len(unknown.lost) == 2 and "known" in unknown.lost[0] and unknown.values == {"stars": "4"}


def test_a_clearance_by_hand_is_never_lost_and_what_contradicts_is_chosen(database: Database) -> None:
    with database.write() as connection:
        kept, copy, third = (new_track(connection, title, duration_s=DURATION_S) for title in "ABC")
        twin_pairs.keep(connection, [_aligned(kept, copy, 0.0)], [kept, copy])
        listed, by_hand = Ruling("free", source="a register"), Ruling("blocked", ("Ostmark",), "", BY_HAND)
        clearances.put(connection, {kept: listed, copy: by_hand, third: replace(by_hand, state="muted")})
    read, copies = database.read(), [copy, third]

    def planned(*ids: int, **choices: int) -> Ruling | None:
        return plan_carrying(read, NO_ATTACKS, ids[0], ids[1:], choices).clearance

    assert planned(kept, copy) == by_hand, "by hand beats a register"
    assert planned(copy, kept) is None, "and stays"
    assert planned(kept, copy, clearance=kept) is None
    plan = plan_carrying(read, NO_ATTACKS, kept, copies)
    told = [each for each in plan.differs if each.field == "clearance"]
    assert [(each.other, each.carried, each.by_hand) for each in told] == [
        ("blocked in Ostmark", True, False),
        ("muted in Ostmark", False, True),
    ], "two by hand contradict each other"
    assert not plan.is_clean
    assert planned(kept, *copies, clearance=third) == replace(by_hand, state="muted")
    with database.write("Settle") as connection:
        carry_over(connection, plan, aside=False)
    assert clearances.clearances(read, [kept])[kept] == by_hand
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert clearances.clearances(read, [kept])[kept] == listed


def test_the_kept_file_stands_for_those_that_gave_way_to_it(database: Database) -> None:
    nothing = Made([], 0, [], [], 0, None, False, False)
    with database.write() as connection:
        library = Library(connection)
        ids = [library.add(f"Tide {place}", nothing) for place in range(3)]
    for kept, copy in ((ids[1], ids[0]), (ids[2], ids[1])):
        with database.write("Settle") as connection:
            carry_over(connection, plan_carrying(connection, NO_ATTACKS, kept, [copy]), aside=True)
    read = database.read()
    assert tracks.meant_by(read, ["Tide 0", "Tide 1", "Tide 2"]) == dict.fromkeys(
        ("Tide 0", "Tide 1", "Tide 2"), ids[2]
    )
    assert {each.why for each in off_shelf.list_off(read)} == {"a copy of Tide 1.mp3", "a copy of Tide 2.mp3"}
