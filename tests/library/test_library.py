"""The library: crates, cues, grids, values and the queue."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.library.making import new_track
from vinyl.core.cues.bounds import CueError
from vinyl.core.cues.cue import Cue
from vinyl.core.rhythm import edits
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.conditions import AllOf
from vinyl.library import crates, cues, find, grids, locks, queue, repairs, tracks, undo, values
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.find import Order, find_ids
from vinyl.library.flat import settle
from vinyl.library.values import RuleChange, Source, Value


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for name in ("Anchor", "Buoy", "Cleat", "Dock", "Ebb"):
            queue.enqueue(connection, [new_track(connection, name)])
    return made


def test_any_number_of_ids_goes_into_one_statement(database: Database) -> None:
    """A stock SQLite takes 32,766 parameters: lists of ids must never become so many."""
    many = range(1, 40_001)
    with database.write("All at once") as connection:
        tracks.rate(connection, many, 4)
        locks.set_lock(connection, many, "tags", True)
    read = database.read()
    rows = find.get_rows(read, list(many))
    assert [(row["rating"], row["locks"]) for row in rows] == [(4, "tags")] * 5
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert {row["rating"] for row in find.get_rows(read, list(many))} == {3}


def test_crates_keep_their_order(database: Database) -> None:
    with database.write("x") as connection:
        crate = crates.make_crate(connection, "Night")
        assert crates.add_tracks(connection, crate, [1, 2, 3, 2]) == 3
        assert crates.add_tracks(connection, crate, [4, 1], at=1) == 1
        assert crates.crate_tracks(connection, crate) == [1, 4, 2, 3]
        crates.move_tracks(connection, crate, [1, 2], 2)
        assert crates.crate_tracks(connection, crate) == [4, 3, 1, 2]
        crates.remove_tracks(connection, crate, [3])
        assert find_ids(connection, AllOf(), Order("crate", crate_id=crate)) == [4, 1, 2]
        with pytest.raises(NotFoundError):
            crates.add_tracks(connection, crate, [999])


def test_pads_and_roles_belong_to_one_cue(database: Database) -> None:
    with database.write("x") as connection:
        first = cues.add_cue(connection, 1, Cue(10.0, role="main", pad=1))
        cues.add_cue(connection, 1, Cue(20.0, role="main", pad=1))
        assert cues.get_cue(connection, 1, first) == Cue(10.0, id=first)
        for wrong in (Cue(-1.0), Cue(250.0), Cue(190.0, 20.0)):
            with pytest.raises(CueError):
                cues.add_cue(connection, 1, wrong)


def test_the_hand_wins_over_analysis_and_can_be_taken_back(database: Database) -> None:
    with database.write("x") as connection:
        analysed = grids.grid_value(TempoMap.steady(120, 0.5), 0.4, ("x",))
        values.put(connection, [1], "analysis", {"grid": analysed, "tempo": Value("120")})
        settle(connection, [1])
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


def test_the_queue_is_newest_first_and_gives_up_after_three_tries(database: Database) -> None:
    with database.write() as connection:
        connection.execute("UPDATE track SET added_at = '2030' WHERE id = 2")
        connection.execute("UPDATE track SET away = 1 WHERE id = 5")
        first = queue.next_waiting(connection, set())
        assert first is not None and first.track_id == 2
        second = queue.next_waiting(connection, {2})
        assert second is not None and second.track_id == 4
        for _ in range(3):
            queue.fail(connection, 2, "crashed", final=False)
        queue.fail(connection, 4, "no sound", final=True)
        assert queue.counts(connection) == queue.QueueCounts(waiting=2, paused=0, failed=2)
        queue.pause_all(connection)
        assert queue.next_waiting(connection, set()) is None
        queue.resume_all(connection)
        assert queue.counts(connection) == queue.QueueCounts(waiting=4, paused=0, failed=0)


def test_sources_stay_side_by_side_and_the_order_of_a_field_says_who_wins(database: Database) -> None:
    with database.write() as connection:
        values.put(connection, [1], "another library", {"genre": Value("Deep")})
        settle(connection, [1])
        assert tracks.get_track(connection, 1)["genre"] == "House", "for texts the file comes first"
        order: tuple[Source, ...] = ("another library", "file tag", "analysis", "file name")
        count, shown = values.preview_rule(connection, "genre", order, 5)
        assert (count, shown) == (1, [RuleChange("Anchor", "House", "Deep")])
        changed = values.set_rule(connection, "genre", order)
        assert values.preview_rule(connection, "genre", order, 5) == (0, [])
        settle(connection, [1], changed)
        assert tracks.get_track(connection, 1)["genre"] == "Deep"
        values.put(connection, [1], "by hand", {"genre": Value("Breaks")})
        settle(connection, [1])
        sources = [(each.source, each.wins) for each in values.sources_of(connection, 1, ("genre",))]
        assert sources == [("by hand", True), ("another library", False), ("file tag", False)]
        with pytest.raises(LibraryError):
            values.set_rule(connection, "genre", ("locked", "file tag"))  # type: ignore[arg-type]


def test_what_a_lock_holds_outlives_new_tags_and_comes_free_again(database: Database) -> None:
    with database.write() as connection:
        tracks.rate(connection, [1], 5)
        locks.set_lock(connection, [1], "tags", True)
        said = tracks.Said({"title": "Other", "artist": "Else", "stars": "1"}, None)
        tracks.keep_said(connection, 1, said)
        held = tracks.get_track(connection, 1)
        assert (held["title"], held["artist"], held["rating"]) == ("Anchor", "Kelp Union", 5)
        locks.set_lock(connection, [1], "tags", False)
        free = tracks.get_track(connection, 1)
        assert (free["title"], free["artist"], free["rating"]) == ("Other", "Else", 5)


def test_texts_in_a_wrong_encoding_are_repaired_by_hand_in_one_step(database: Database) -> None:
    wrong = {
        "title": "灯台の朝".encode().decode("latin-1"),
        "artist": "Хвилі".encode("cp1251").decode("latin-1"),
    }
    with database.write() as connection:
        one, locked = (new_track(connection, name, **wrong) for name in ("One", "Two"))  # type: ignore[arg-type]
        locks.set_lock(connection, [locked], "tags", True)
    with database.write("Repair") as connection:
        found = repairs.find_repairs(connection, [1, one, locked, 999])
        assert [(each.track_id, each.field, each.after, each.encoding) for each in found] == [
            (one, "artist", "Хвилі", "Windows-1251"),
            (one, "title", "灯台の朝", "UTF-8"),
        ]
        repairs.keep_repairs(connection, found)
        assert repairs.find_repairs(connection, [one]) == []
    assert (row := tracks.get_track(database.read(), one))["title"] == "灯台の朝" and row["artist"] == "Хвилі"
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert tracks.get_track(database.read(), one)["title"] == wrong["title"]
