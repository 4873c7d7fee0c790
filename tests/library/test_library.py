"""The library: undo, crates, cues, finding, and the queue."""

from __future__ import annotations

import sqlite3
import tempfile
from contextlib import closing, suppress
from importlib import resources
from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from vinyl.core.cues.routes import Jump
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.finishing import Part
from vinyl.library import analyses, crates, cues, grids, locks, routes, templates, tracks, undo
from vinyl.library.cues import Cue
from vinyl.library.database import Database, connect
from vinyl.library.errors import DamagedLibraryError, LibraryError, LockedError, NotFoundError
from vinyl.library.tracks import Filter, NewTrack, add_track


def new_track(
    name: str, artist: str = "Kelp Union", genre: str = "House", duration_s: float = 200.0
) -> NewTrack:
    return NewTrack(
        path=f"/music/{name}.mp3",
        size_bytes=1,
        modified_ns=1,
        audio_hash=name,
        codec="mp3",
        rate_hz=44100,
        channels=2,
        bit_rate=192000,
        trimmed_samples=1105,
        duration_s=duration_s,
        title=name,
        artist=artist,
        album="",
        genre=genre,
        label="",
        comment="",
        year=2024,
        file_key="",
        file_bpm=None,
        file_rating=3,
        has_picture=False,
    )


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database(tmp_path / "library.db")
    with made.write() as connection:
        for name in ("Anchor", "Buoy", "Cleat", "Dock", "Ebb"):
            analyses.enqueue(connection, add_track(connection, new_track(name)))
    return made


def dump(connection: sqlite3.Connection) -> list[list[tuple[object, ...]]]:
    """Everything that undo must restore."""
    return [
        sorted((tuple(row) for row in connection.execute(f"SELECT * FROM {table}")), key=repr)
        for table in undo.UNDOABLE
    ]


class UndoMachine(RuleBasedStateMachine):
    """Any edits, undone and redone in any order, lead to exactly the states that were there."""

    @initialize()
    def begin(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.database = Database(Path(self.folder.name) / "library.db")
        with self.database.write() as connection:
            self.tracks = [add_track(connection, new_track(f"T{i}")) for i in range(4)]
        self.past = [dump(self.database.read())]
        self.future: list[list[list[tuple[object, ...]]]] = []

    def changed(self) -> None:
        now = dump(self.database.read())
        if now != self.past[-1]:
            self.past.append(now)
            self.future.clear()
        elif undo.state(self.database.read()).redo is None:
            self.future.clear()

    @rule(name=st.sampled_from("ABCDEF"))
    def make_crate(self, name: str) -> None:
        try:
            with self.database.write("make") as connection:
                crates.make_crate(connection, name)
        except LibraryError:
            return
        self.changed()

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
            with self.database.write("put") as connection:
                crates.add_tracks(connection, crate, [self.tracks[i] for i in which], at)
            self.changed()

    @rule(number=st.integers(0, 9), which=st.integers(0, 3), to=st.integers(0, 4))
    def move(self, number: int, which: int, to: int) -> None:
        if (crate := self.some_crate(number)) is not None:
            with self.database.write("move") as connection:
                crates.move_tracks(connection, crate, [self.tracks[which]], to)
            self.changed()

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

    def teardown(self) -> None:
        self.folder.cleanup()


TestUndo = UndoMachine.TestCase
TestUndo.settings = settings(max_examples=25, stateful_step_count=25, deadline=None)


def test_undo_survives_a_restart_and_new_work_forgets_redo(database: Database) -> None:
    with database.write("Make A") as connection:
        crates.make_crate(connection, "A")
    again = Database(database.path)
    with again.write() as connection:
        assert undo.step_back(connection, "undo") == "Make A"
    assert undo.state(again.read()) == undo.UndoState(None, "Make A")
    with again.write("Make B") as connection:
        crates.make_crate(connection, "B")
    assert undo.state(again.read()) == undo.UndoState("Make B", None)
    with pytest.raises(LibraryError, match="nothing to redo"), again.write() as connection:
        undo.step_back(connection, "redo")


def test_a_failed_change_leaves_nothing(database: Database) -> None:
    with pytest.raises(LibraryError, match="already a crate"), database.write("two") as connection:
        crates.make_crate(connection, "Night")
        crates.make_crate(connection, "night")
    assert crates.list_crates(database.read()) == []
    assert undo.state(database.read()).undo is None


def test_crates_keep_their_order(database: Database) -> None:
    with database.write("x") as connection:
        crate = crates.make_crate(connection, "Night")
        assert crates.add_tracks(connection, crate, [1, 2, 3, 2]) == 3
        assert crates.add_tracks(connection, crate, [4, 1], at=1) == 1
        assert crates.crate_tracks(connection, crate) == [1, 4, 2, 3]
        crates.move_tracks(connection, crate, [1, 2], 2)
        assert crates.crate_tracks(connection, crate) == [4, 3, 1, 2]
        crates.remove_tracks(connection, crate, [3])
        assert tracks.order(connection, Filter(crate_id=crate), "crate") == [4, 1, 2]
        with pytest.raises(NotFoundError):
            crates.add_tracks(connection, crate, [999])


def test_pads_and_roles_belong_to_one_cue(database: Database) -> None:
    with database.write("x") as connection:
        first = cues.add_cue(connection, 1, Cue(10.0, role="main", pad=1))
        cues.add_cue(connection, 1, Cue(20.0, role="main", pad=1))
        assert cues.get_cue(connection, 1, first) == Cue(10.0, id=first)
        for wrong in (Cue(-1.0), Cue(250.0), Cue(190.0, 20.0)):
            with pytest.raises((LibraryError, sqlite3.IntegrityError)):
                cues.add_cue(connection, 1, wrong)


def test_the_hand_wins_over_analysis_and_can_be_taken_back(database: Database) -> None:
    with database.write("x") as connection:
        connection.execute(
            """INSERT INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, key, key_confidence, tuning_cents, grid_doubt,
                 grid_reasons, analysed_at)
               VALUES (1, 1, 120, '[{"time": 0.5, "beat": 0, "bpm": 120}]', 4, 'A minor', 0.8, 0, 0.4, '["x"]', '')"""
        )
        assert grids.edit_grid(connection, 1, lambda m: edits.shift(m, 0.01)).anchors[
            0
        ].time_s == pytest.approx(0.51)
        row = tracks.get_track(connection, 1)
        assert (row["bpm_source"], row["doubt"]) == ("by hand", 0.0)
        grids.drop_hand_grid(connection, 1)
        row = tracks.get_track(connection, 1)
        assert (row["bpm_source"], row["doubt"]) == ("analysis", 0.4)
        with pytest.raises(LibraryError, match="no beatgrid yet"):
            grids.edit_grid(connection, 2, lambda m: m)


def test_finding_and_sorting(tmp_path: Path) -> None:
    database = Database(tmp_path / "library.db")
    with database.write() as connection:
        for name, artist in (
            ("Café del Muelle", "Rosa Ostra"),
            ("灯台の朝", "潮見坂"),
            ("Крабовий Вальс", "Оркестр"),
            ("100% Sal_t", "Ångström"),
        ):
            add_track(connection, new_track(name, artist))
    read = database.read()

    def titles(words: str) -> list[str]:
        return [tracks.get_track(read, i)["title"] for i in tracks.order(read, Filter(words), "title")]

    assert titles("CAFE muelle") == titles("ostra caf") == ["Café del Muelle"]
    assert titles("台の") == ["灯台の朝"]
    assert titles("вальс") == ["Крабовий Вальс"]
    assert titles("angstrom 100%") == titles("l_t") == ["100% Sal_t"]
    assert titles("' OR 1=1 --") == []
    assert tracks.order(read, Filter(), "bpm") == tracks.order(read, Filter(), "bpm", descending=True), (
        "unknown tempi stay last, by title"
    )
    with pytest.raises(LibraryError, match="is not a key"):
        tracks.order(read, Filter(key="H minor"))


def test_the_queue_is_newest_first_and_gives_up_after_three_tries(database: Database) -> None:
    with database.write() as connection:
        connection.execute("UPDATE track SET added_at = '2030' WHERE id = 2")
        connection.execute("UPDATE track SET away = 1 WHERE id = 5")
        first = analyses.next_waiting(connection, set())
        assert first is not None and first.track_id == 2
        second = analyses.next_waiting(connection, {2})
        assert second is not None and second.track_id == 4
        for _ in range(3):
            analyses.fail(connection, 2, "crashed", final=False)
        analyses.fail(connection, 4, "no sound", final=True)
        assert analyses.counts(connection) == analyses.QueueCounts(waiting=3, paused=0, failed=2)
        analyses.pause_all(connection)
        assert analyses.next_waiting(connection, set()) is None
        analyses.resume_all(connection)
        assert analyses.counts(connection) == analyses.QueueCounts(waiting=5, paused=0, failed=0)


def test_a_damaged_library_is_said_to_be_so(tmp_path: Path) -> None:
    (tmp_path / "library.db").write_bytes(b"this is no database at all" * 100)
    with pytest.raises(DamagedLibraryError, match="cannot be opened"):
        Database(tmp_path / "library.db")


def test_a_migration_keeps_a_backup(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "library.db"
    with Database(path).write("x") as connection:
        crates.make_crate(connection, "Kept")
    monkeypatch.setattr(
        "vinyl.library.database._migrations",
        lambda: [(1, ""), (9, "ALTER TABLE crate ADD COLUMN note TEXT;")],
    )
    upgraded = Database(path)
    assert upgraded.read().execute("SELECT name, note FROM crate").fetchone()["name"] == "Kept"
    backup = connect(tmp_path / "library-before-0009.db")
    assert [row["name"] for row in backup.execute("SELECT * FROM crate")] == ["Kept"]
    assert backup.execute("PRAGMA user_version").fetchone()[0] == 3


def test_an_old_library_gets_its_tracks_analysed_anew(tmp_path: Path) -> None:
    path = tmp_path / "library.db"
    first = (resources.files("vinyl.library") / "migrations" / "0001_first.sql").read_text()
    with closing(connect(path)) as old:
        old.executescript(first + "PRAGMA user_version = 1;")
        old.execute("PRAGMA foreign_keys = OFF")
        old.execute(
            """INSERT INTO track (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, duration_s, title, artist,
                 album, genre, label, comment, file_key, search_text, added_at)
               VALUES (1, '/a', 1, 1, 'h', 'mp3', 44100, 2, 9, 'A', '', '', '', '', '', '', '', '')"""
        )
        old.execute(
            """INSERT INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, key, key_confidence, second_key, tuning_cents,
                 lufs, peak_db, grid_doubt, grid_reasons, analysed_at)
               VALUES (1, 1, 120, '[]', 4, 'A minor', 0.5, 'C major', 0, -9, -1, 0.1, '[]', '')"""
        )
    database = Database(path)
    row = tracks.get_track(database.read(), 1)
    assert (row["bpm"], row["runner_up_key"], row["second_key"], row["analysis_state"]) == (
        120,
        "C major",
        None,
        "waiting",
    )
    assert analyses.counts(database.read()).waiting == 1
