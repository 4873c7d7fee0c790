"""Undo and redo: any edits, any order, and the log's own limits."""

from __future__ import annotations

import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.library.making import new_track
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.conditions import InList, NoneOf
from vinyl.core.rules.finishing import Part
from vinyl.core.rules.notation import Rule
from vinyl.library import (
    backings,
    combining,
    crates,
    cues,
    describing,
    dividers,
    flat,
    grids,
    list_documents,
    locks,
    mixes,
    plays,
    routes,
    series,
    tags,
    templates,
    tracks,
    undo,
)
from vinyl.library.connections import connect
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, LockedError
from vinyl.library.tables import UNDOABLE


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for name in ("Anchor", "Buoy", "Cleat", "Dock", "Ebb"):
            new_track(connection, name)
    return made


def dump(connection: sqlite3.Connection) -> list[list[tuple[object, ...]]]:
    """Everything that undo must restore; when a value was changed is now, also by undo."""
    return [
        sorted(
            (
                tuple(row[name] for name in row.keys() if name != "changed_at")  # noqa: SIM118
                for row in connection.execute(f"SELECT * FROM {table.name}")
            ),
            key=repr,
        )
        for table in UNDOABLE
    ]


def named(database: Database) -> tuple[str | None, str | None]:
    """What could be undone and redone, by name."""
    state = undo.state(database.read())
    return state.undo and state.undo.name, state.redo and state.redo.name


class _TakeBackError(Exception):
    """Ends a transaction without a trace."""


class UndoMachine(RuleBasedStateMachine):
    """Any edits, undone and redone in any order, lead to exactly the states that were there."""

    @initialize()
    def begin(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.database = Database.prepared(Path(self.folder.name) / "library.db")
        with self.database.write() as connection:
            self.tracks = [new_track(connection, f"T{i}") for i in range(4)]
        self.past = [dump(self.database.read())]
        self.future: list[list[list[tuple[object, ...]]]] = []

    def changed(self) -> None:
        now = dump(self.database.read())
        if now != self.past[-1]:
            self.past.append(now)
            self.future.clear()
        elif undo.state(self.database.read()).redo is None:
            self.future.clear()

    def try_to(self, change: Callable[[sqlite3.Connection], object]) -> None:
        """A change of crates, unless it makes no sense."""
        try:
            with self.database.write("change") as connection:
                change(connection)
        except LibraryError:
            return
        self.changed()

    @rule(name=st.sampled_from("ABCDEF"), number=st.none() | st.integers(0, 9), folder=st.booleans())
    def make_crate(self, name: str, number: int | None, folder: bool) -> None:
        within = None if number is None else self.some_crate(number)
        self.try_to(lambda connection: crates.make_crate(connection, name, within, folder))

    @rule(name=st.sampled_from("ABCDEF"), number=st.integers(0, 9))
    def make_rule_crate(self, name: str, number: int) -> None:
        asked = InList(self.some_crate(number) or 99)
        self.try_to(lambda connection: crates.make_rule_crate(connection, name, Rule(NoneOf((asked,)))))

    @rule(number=st.integers(0, 9), into=st.none() | st.integers(0, 9))
    def put_into_folder(self, number: int, into: int | None) -> None:
        if (crate := self.some_crate(number)) is not None:
            folder = None if into is None else self.some_crate(into)
            self.try_to(lambda connection: crates.put_into_folder(connection, crate, folder))

    @rule(number=st.integers(0, 9), other=st.integers(0, 9), how=st.integers(0, 8), at=st.integers(0, 4))
    def change_whole_list(self, number: int, other: int, how: int, at: int) -> None:
        one, two = self.some_crate(number) or 99, self.some_crate(other) or 99
        changes: list[Callable[[sqlite3.Connection], object]] = [
            lambda c: dividers.add_divider(c, one, "Late", at, "☾", "blue"),
            lambda c: dividers.divide_by(c, one, ("", "key", "month")[at % 3]),
            lambda c: dividers.keep_dividers(c, one),
            lambda c: combining.combine(c, one, two, ("merge", "subtract", "intersect")[at % 3]),  # type: ignore[arg-type]
            lambda c: combining.arrange(c, one, ("shuffle", "reverse")[at % 2], seed=at),  # type: ignore[arg-type]
            lambda c: list_documents.delete_list(c, one),
            lambda c: list_documents.bring_back(c, at),
            lambda c: series.make_series(c, f"Row {at}", ("month", "tags 2")[at % 2]),
            lambda c: crates.order_by_name(c, None),
        ]
        self.try_to(changes[how])

    def some_crate(self, number: int) -> int | None:
        found = crates.list_crates(self.database.read())
        return found[number % len(found)].id if found else None

    @rule(
        number=st.integers(0, 9),
        which=st.lists(st.integers(0, 3), min_size=1, max_size=4),
        at=st.integers(0, 4),
    )
    def put_in(self, number: int, which: list[int], at: int) -> None:
        if (crate := self.some_crate(number)) is not None:
            ids = [self.tracks[i] for i in which]
            self.try_to(lambda connection: crates.add_tracks(connection, crate, ids, at))

    @rule(number=st.integers(0, 9), which=st.integers(0, 3), to=st.integers(0, 4))
    def move(self, number: int, which: int, to: int) -> None:
        if (crate := self.some_crate(number)) is not None:
            self.try_to(lambda connection: crates.move_tracks(connection, crate, [self.tracks[which]], to))

    @rule(number=st.integers(0, 9))
    def delete_crate(self, number: int) -> None:
        if (crate := self.some_crate(number)) is not None:
            with self.database.write("delete") as connection:
                crates.delete_crate(connection, crate)
            self.changed()

    @rule(
        which=st.integers(0, 3),
        position=st.floats(0, 190),
        role=st.sampled_from((None, "in", "main")),
        label=st.text(max_size=5),
    )
    def set_cue(self, which: int, position: float, role: str | None, label: str) -> None:
        with suppress(LockedError), self.database.write("cue") as connection:
            cues.add_cue(connection, self.tracks[which], Cue(position, None, label.replace("\x00", ""), role))
        self.changed()

    @rule(which=st.integers(0, 3), bpm=st.floats(60, 180), stars=st.integers(0, 5))
    def grid_and_stars(self, which: int, bpm: float, stars: int) -> None:
        with suppress(LockedError), self.database.write("grid") as connection:
            grids.set_grid(connection, self.tracks[which], TempoMap.steady(bpm, 0.1))
            tracks.rate(connection, [self.tracks[which]], stars)
        self.changed()

    @rule(which=st.integers(0, 3), part=st.sampled_from(("cues", "tags")), locked=st.booleans())
    def lock(self, which: int, part: Part, locked: bool) -> None:
        with self.database.write("lock") as connection:
            locks.set_lock(connection, [self.tracks[which]], part, locked)
        self.changed()

    @rule(which=st.integers(0, 3), leaves=st.floats(10, 90), name=st.text("abc", min_size=1, max_size=3))
    def route_and_template(self, which: int, leaves: float, name: str) -> None:
        with self.database.write("route") as connection:
            routes.save_route(connection, self.tracks[which], name, [Jump(leaves, 100.0)])
            templates.save_template(connection, name, [TemplateCue("main", leaves)])
        self.changed()

    @rule(which=st.lists(st.integers(0, 3), min_size=1, max_size=4), tag=st.integers(0, 9), on=st.booleans())
    def tag(self, which: list[int], tag: int, on: bool) -> None:
        there = [each.id for family in tags.list_families(self.database.read()) for each in family.tags]
        with suppress(LockedError), self.database.write("tag") as connection:
            tags.give(connection, there[tag % len(there)], [self.tracks[i] for i in which], on)
        self.changed()

    @rule(tag=st.integers(0, 9), name=st.sampled_from(("Hush", "Roll", "Peak")), how=st.integers(0, 3))
    def change_tags(self, tag: int, name: str, how: int) -> None:
        there = [each.id for family in tags.list_families(self.database.read()) for each in family.tags]
        one, other = there[tag % len(there)], there[(tag + 3) % len(there)]
        with suppress(LibraryError), self.database.write("tags") as connection:
            if how == 0:
                tags.make_tag(connection, 1 + tag % 3, name)
            elif how == 1:
                tags.change_tag(connection, one, {"name": name, "to": 0, "letter": name[0].lower()})
            elif how == 2 and len(there) > 6:
                tags.merge(connection, one, other)
            else:
                tags.change_family(connection, 1 + tag % 3, {"retired": bool(tag % 2), "to": tag % 3})
        self.changed()

    @rule(which=st.lists(st.integers(0, 3), min_size=1, max_size=3), text=st.sampled_from(("Å", "b c", "")))
    def describe(self, which: list[int], text: str) -> None:
        ids = [self.tracks[i] for i in which]
        with suppress(LockedError), self.database.write("describe") as connection:
            describing.edit(connection, ids, {"artist": text or None, "marks": text, "never again": "yes"})
            plays.note(connection, ids, "2026-11-20T22:00:00+00:00")
        self.changed()

    @rule(which=st.lists(st.integers(0, 3), min_size=1, max_size=3), apart=st.booleans())
    def backing(self, which: list[int], apart: bool) -> None:
        ids = [self.tracks[i] for i in which]
        with self.database.write("backing") as connection:
            if apart:
                backings.take_apart(connection, ids)
            else:
                backings.put_together(connection, ids, "Tide")
        self.changed()

    @precondition(lambda self: undo.state(self.database.read()).undo is not None)
    @rule()
    def undo_one(self) -> None:
        with self.database.write() as connection:
            undo.step_back(connection, "undo")
        self.future.append(self.past.pop())
        assert dump(self.database.read()) == self.past[-1]

    @precondition(lambda self: undo.state(self.database.read()).redo is not None)
    @rule()
    def redo_one(self) -> None:
        with self.database.write() as connection:
            undo.step_back(connection, "redo")
        self.past.append(self.future.pop())
        assert dump(self.database.read()) == self.past[-1]

    @invariant()
    def stacks_agree(self) -> None:
        count = dict(
            self.database.read().execute("SELECT stack, count(*) FROM undo_step GROUP BY stack").fetchall()
        )
        assert count.get("undo", 0) == len(self.past) - 1

    @invariant()
    def sizes_are_right(self) -> None:
        """How much is in each list is what would be counted anew."""
        counted = """SELECT crate_id, count(track_id), count(wanted_id),
              coalesce(sum(CAST(round(1000 * duration_s) AS INTEGER)), 0)
            FROM crate_place LEFT JOIN track ON track.id = track_id GROUP BY crate_id ORDER BY crate_id"""
        kept = "SELECT * FROM crate_size WHERE tracks OR wanted OR duration_ms ORDER BY crate_id"
        read = self.database.read()
        assert [tuple(row) for row in read.execute(kept)] == [tuple(row) for row in read.execute(counted)]

    @invariant()
    def lists_show_what_is(self) -> None:
        """The flat table is what it would be if it were made anew."""
        with suppress(_TakeBackError), self.database.write() as connection:
            shown = [tuple(row) for row in connection.execute("SELECT * FROM shelf ORDER BY id")]
            flat.settle_all(connection)
            assert [tuple(row) for row in connection.execute("SELECT * FROM shelf ORDER BY id")] == shown
            raise _TakeBackError

    def teardown(self) -> None:
        self.folder.cleanup()


TestUndo = UndoMachine.TestCase
TestUndo.settings = settings(max_examples=4, stateful_step_count=200, deadline=None)


def test_undo_survives_a_restart_and_new_work_forgets_redo(database: Database) -> None:
    with database.write("Make A") as connection:
        crates.make_crate(connection, "A")
    again = Database.prepared(database.path)
    with again.write() as connection:
        assert undo.step_back(connection, "undo").name == "Make A"
    assert named(again) == (None, "Make A")
    with again.write("Make B") as connection:
        crates.make_crate(connection, "B")
    assert named(again) == ("Make B", None)
    with pytest.raises(LibraryError, match="nothing to redo"), again.write() as connection:
        undo.step_back(connection, "redo")


def test_a_failed_change_leaves_nothing(database: Database) -> None:
    with pytest.raises(LibraryError, match="already a crate"), database.write("two") as connection:
        crates.make_crate(connection, "Night")
        crates.make_crate(connection, "night")
    assert crates.list_crates(database.read()) == []
    assert undo.state(database.read()).undo is None


def test_taking_back_a_deleted_crate_puts_it_on_its_sticks_again(database: Database) -> None:
    with database.write() as connection:
        crate = crates.make_crate(connection, "Gig")
        crates.add_tracks(connection, crate, [1, 2])
        connection.execute("INSERT INTO stick (id, name, folder, profile) VALUES (1, 'Blue', 'blue', '{}')")
        connection.execute("INSERT INTO stick_crate (stick_id, crate_id) VALUES (1, ?)", (crate,))
    with database.write("Delete the crate") as connection:
        crates.delete_crate(connection, crate)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    read = database.read()
    assert [tuple(row) for row in read.execute("SELECT * FROM stick_crate")] == [(1, crate)]
    assert crates.crate_tracks(read, crate) == [1, 2]


def test_a_change_that_changes_nothing_keeps_what_can_be_redone(database: Database) -> None:
    with database.write("Rate") as connection:
        tracks.rate(connection, [1], 5)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    with database.write("Open") as connection:
        locks.set_lock(connection, [1], "cues", False)
    assert named(database) == (None, "Rate")


@pytest.mark.parametrize("before", ["this version", "versions before"])
def test_a_row_that_a_step_deletes_and_makes_again_is_given_back(database: Database, before: str) -> None:
    with database.write() as connection:
        ids = [new_track(connection, title) for title in ("A", "B")]
    for works in (True, False):
        with database.write(f"It works: {works}") as connection:
            mixes.say(connection, ids[0], ids[1], works)
    if before == "versions before":
        with database.write() as connection:
            connection.execute("UPDATE undo_entry SET after = 'made'")
    with database.write() as connection:
        assert undo.step_back(connection, "undo").left == ()
    assert mixes.verdicts(database.read(), ids) == {(ids[0], ids[1]): True}
    with database.write() as connection:
        undo.step_back(connection, "redo")
    assert mixes.verdicts(database.read(), ids) == {(ids[0], ids[1]): False}


def test_steps_outlive_a_column_that_is_renamed(database: Database) -> None:
    with database.write("Make A") as connection:
        crate = crates.make_crate(connection, "A")
    with database.write("Rename") as connection:
        crates.rename_crate(connection, crate, "B")
    with closing(connect(database.path)) as connection:
        connection.execute("ALTER TABLE cue_template RENAME COLUMN name TO called")
        connection.execute("ALTER TABLE cue_template RENAME COLUMN called TO name")
    again = Database.prepared(database.path)
    with again.write() as connection:
        assert undo.step_back(connection, "undo").name == "Rename"
    assert crates.get_crate(again.read(), crate).name == "A"


def test_old_steps_go_when_the_budget_of_rows_is_spent(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(undo, "KEPT_ROWS", 6)
    for stars in (1, 2, 4):
        with database.write(f"Rate {stars}") as connection:
            tracks.rate(connection, [1, 2, 3, 4], stars)
    steps = [row["name"] for row in database.read().execute("SELECT name FROM undo_step ORDER BY id")]
    assert steps == ["Rate 4"], "the newest stays, however large it is"


def test_steps_go_whose_kept_rows_have_more_columns_than_their_table_now(database: Database) -> None:
    with database.write("Rate") as connection:
        tracks.rate(connection, [1], 3)
    with database.write("Make A") as connection:
        crates.make_crate(connection, "A")
    with database.write() as connection:
        connection.execute("UPDATE undo_shape SET columns = columns + 1 WHERE table_name = 'crate'")
        connection.execute("UPDATE undo_shape SET columns = columns - 1 WHERE table_name = 'track_value'")
        undo.follow_columns(connection)
    top = undo.state(database.read()).undo
    assert top is not None and top.name == "Rate", "a table that has grown keeps its steps"


def test_a_step_is_gone_on_with_only_as_long_as_no_other_came_between(database: Database) -> None:
    with database.write("Rate") as connection:
        tracks.rate(connection, [1], 1)
        step = undo.recorded_step(connection)
    with database.write("Rate", onto=step) as connection:
        tracks.rate(connection, [2], 2)
    with database.write("Make A") as connection:
        crates.make_crate(connection, "A")
    with database.write("Rate", onto=step) as connection:
        tracks.rate(connection, [3], 5)
    names = database.read().execute("SELECT name FROM undo_step ORDER BY id").fetchall()
    assert [row[0] for row in names] == ["Rate", "Make A", "Rate"]
    with database.write() as connection:
        undo.step_back(connection, "undo")
    rated = database.read().execute("SELECT rating FROM shelf ORDER BY id LIMIT 3").fetchall()
    assert [row[0] for row in rated] == [1, 2, 3], "the file's own word counts again"
