"""A library of an older version: nothing of the user's is lost on the way to the newest."""

from __future__ import annotations

import sqlite3
import stat
from contextlib import closing
from importlib import resources
from pathlib import Path

import pytest

from vinyl.core.rules.conditions import AllOf
from vinyl.library import crates, cues, grids, queue, tracks, undo, values
from vinyl.library.connections import connect
from vinyl.library.database import Database
from vinyl.library.errors import DamagedLibraryError
from vinyl.library.find import Order, find_ids
from vinyl.sticks import store

V3 = Path(__file__).with_name("home_v3.sql")


@pytest.fixture
def old(tmp_path: Path) -> Path:
    """A library file as version 3 wrote it, from a home that was worked in."""
    path = tmp_path / "library.db"
    with closing(sqlite3.connect(path)) as connection:
        connection.executescript(V3.read_text())
    return path


def test_keys_that_have_grown_long_are_made_anew_in_their_order(old: Path) -> None:
    before = Database.prepared(old)
    with before.write() as connection:
        connection.executemany(
            "UPDATE crate_place SET position = ? WHERE crate_id = 1 AND track_id = ?",
            [("z" * 400 + end, track) for end, track in (("1", 2), ("2", 1), ("3", 3))],
        )
        connection.execute("PRAGMA user_version = 18")
    read = Database.prepared(old).read()
    assert crates.crate_tracks(read, 1) == [2, 1, 3]
    assert max(len(row[0]) for row in read.execute("SELECT position FROM crate_place")) < 8


def test_a_stick_of_a_player_that_has_another_name_now_is_still_packed_for_it(old: Path) -> None:
    before = Database.prepared(old)
    with before.write() as connection:
        for table in ("stick", "stick_player"):
            connection.execute(f"UPDATE {table} SET profile = 'Capstan'")
        connection.execute("PRAGMA user_version = 21")
    (player,) = store.list_sticks(Database.prepared(old).read())[0].players
    assert player.profile.name == "Windlass"


def test_everything_of_the_users_is_there_after_the_migration(old: Path) -> None:
    read = (database := Database.prepared(old)).read()
    anchor, buoy, cleat, dock = (tracks.get_track(read, i) for i in (1, 2, 3, 4))
    assert [row["title"] for row in (anchor, buoy, cleat, dock)] == ["Anchor", "Buoy", "Cleat", "Dock"]
    assert (anchor["bpm"], anchor["bpm_source"], anchor["doubt"], anchor["locks"]) == (
        100.0,
        "by hand",
        0.0,
        "grid",
    )
    assert (buoy["rating"], set(buoy["locks"].split(",")), buoy["route_count"]) == (5, {"key", "tags"}, 1)
    assert (dock["bpm"], dock["bpm_source"], dock["analysis_state"]) == (99.0, "file tag", "waiting")
    assert [(cue.label, cue.role, cue.pad) for cue in cues.list_cues(read, 1)] == [
        ("verse", "main", 3),
        ("loop", None, None),
    ]
    assert [(crate.name, crate.tracks) for crate in crates.list_crates(read)] == [("Late", 1), ("Friday", 3)]
    assert crates.crate_tracks(read, 1) == [3, 1, 2]
    assert [tuple(row) for row in read.execute("SELECT stick_id, crate_id FROM stick_crate")] == [(1, 1)]
    grid = grids.get_grid(read, 1)
    assert grid is not None and grid.tempo_map.bpm == 100.0
    assert find_ids(read, AllOf(), Order("title")) == [1, 2, 3, 4]
    sources = {(each.field, each.source) for each in values.sources_of(read, 1)}
    assert {("grid", "by hand"), ("grid", "analysis"), ("title", "file tag")} <= sources
    assert queue.counts(read).waiting == 4, "all are heard again, for what is heard newly"
    with database.write("Rate") as connection:
        tracks.rate(connection, [1], 4)
    with database.write() as connection:
        undo.step_back(connection, "undo")
    assert tracks.get_track(read, 1)["rating"] == anchor["rating"]


def test_a_copy_of_the_old_file_is_kept_that_only_its_owner_can_read(old: Path) -> None:
    Database.prepared(old)
    backup = old.with_name("library-before-0004.db")
    with closing(connect(backup)) as kept:
        assert kept.execute("PRAGMA user_version").fetchone()[0] == 3
        assert kept.execute("SELECT count(*) FROM track").fetchone()[0] == 4
    assert {stat.S_IMODE(path.stat().st_mode) for path in (old, backup)} == {0o600}


def test_a_migration_that_fails_leaves_the_old_library_as_it_was(
    old: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    steps = [(4, "ALTER TABLE crate ADD COLUMN note TEXT; INSERT INTO nowhere VALUES (1);")]
    with monkeypatch.context() as patched:
        patched.setattr("vinyl.library.schema._migrations", lambda: steps)
        with pytest.raises(DamagedLibraryError, match="nowhere"):
            Database.prepared(old)
    assert tracks.get_track(Database.prepared(old).read(), 2)["rating"] == 5


def test_the_first_version_comes_all_the_way(tmp_path: Path) -> None:
    path = tmp_path / "library.db"
    path.touch()
    first = (resources.files("vinyl.library") / "migrations" / "0001_first.sql").read_text()
    with closing(connect(path)) as connection:
        connection.executescript(first + "PRAGMA user_version = 1;")
        connection.execute(
            """INSERT INTO track (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels,
              duration_s, title, artist,
                 album, genre, label, comment, file_key, search_text, added_at)
               VALUES (1, '/a', 1, 1, 'h', 'mp3', 44100, 2, 9, 'A', '', '', '', '', '', '', '', '')"""
        )
        connection.execute(
            """INSERT INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, key,
              key_confidence, second_key, tuning_cents,
                 lufs, peak_db, grid_doubt, grid_reasons, analysed_at)
               VALUES (1, 1, 120, '[{"time": 0.5, "beat": 0, "bpm": 120}]', 4, 'A minor', 0.5, 'C major',
                 0, -9, -1, 0.1, '[]', '')"""
        )
    row = tracks.get_track(Database.prepared(path).read(), 1)
    assert (row["title"], row["bpm"], row["key"], row["analysis_state"]) == ("A", 120.0, "A minor", "waiting")


# The log of undo as version 4 kept it, with a step that gave three stars, then five, in place of two.
V4_UNDO = """
INSERT INTO track
  (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, duration_s, added_at)
  VALUES (1, '/a', 1, 1, 'h', 'mp3', 44100, 2, 9, '');
INSERT INTO track_value VALUES (1, 'stars', 'by hand', '5', NULL, NULL, NULL, '2026');
CREATE TABLE undo_step (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, stack TEXT NOT NULL,
  row_count INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE TABLE undo_entry (id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES undo_step (id) ON DELETE CASCADE,
  table_name TEXT NOT NULL, row_key TEXT NOT NULL, before TEXT, track_id INTEGER) STRICT;
CREATE TABLE undo_recording (only_row INTEGER PRIMARY KEY, step_id INTEGER) STRICT;
CREATE TABLE undo_shape (table_name TEXT PRIMARY KEY, columns INTEGER NOT NULL) STRICT;
CREATE TRIGGER undo_cue_insert AFTER INSERT ON cue BEGIN DELETE FROM undo_entry WHERE false; END;
INSERT INTO undo_step VALUES (7, 'Rate', 'undo', 2);
INSERT INTO undo_entry VALUES
  (1, 7, 'track_value', '[1,"stars","by hand"]', '[1,"stars","by hand","2",null,null,null,"2026"]', 1),
  (2, 7, 'track_value', '[1,"stars","by hand"]', '[1,"stars","by hand","3",null,null,null,"2026"]', 1);
PRAGMA user_version = 4;
"""


def test_what_could_be_undone_in_version_4_still_can(tmp_path: Path) -> None:
    path = tmp_path / "library.db"
    folder = resources.files("vinyl.library") / "migrations"
    scripts = [file.read_text() for file in sorted(folder.iterdir(), key=str) if file.name < "0005"]
    path.touch()
    with closing(connect(path)) as connection:
        connection.executescript("".join(scripts) + V4_UNDO)
    database = Database.prepared(path)
    with database.write() as connection:
        assert undo.step_back(connection, "undo").name == "Rate"
    assert tracks.get_track(database.read(), 1)["rating"] == 2


def test_a_damaged_library_is_said_to_be_so(tmp_path: Path) -> None:
    (tmp_path / "library.db").write_bytes(b"this is no database at all" * 100)
    with pytest.raises(DamagedLibraryError, match="cannot be opened"):
        Database.prepared(tmp_path / "library.db")
