"""Files put aside on their own drive, copies of files too, and back; whatever is in the way is said."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.library.making import new_track
from tests.patience import wait_for
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.putting_aside import ON_A_DRIVE, AsidePutter
from vinyl.jobs.runner import Runner
from vinyl.library import imports, jobs, off_shelf
from vinyl.library.database import Database
from vinyl.media.files import AllowedRoots, walk_files

SHARED_MEMORY = Path("/dev/shm")  # a drive of its own


class Home:
    """A library with one track, whose file and copies lie in a folder that may be read."""

    def __init__(self, folder: Path, music: Path) -> None:
        self.database = Database.prepared(folder / "home" / "library.db")
        self.music, self.aside = music, folder / "home" / "put aside"
        self.runner = Runner(self.database, Broadcaster())
        self.putter = AsidePutter(self.database, AllowedRoots((music,)), self.aside)
        self.putter.register(self.runner)
        self.runner.start()
        with self.database.write() as connection:
            self.track = new_track(connection, "Tide")
            path = self.file("a/Tide.mp3")
            connection.execute("UPDATE track SET path = ? WHERE id = ?", (str(path), self.track))

    def file(self, name: str) -> Path:
        path = self.music / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(name.encode())
        return path

    def copy(self, name: str) -> Path:
        path = self.file(name)
        with self.database.write() as connection:
            imports.note_copy(connection, self.track, str(path), path.stat().st_size, 1)
        return path

    def move(self) -> list[str]:
        """Have files moved; returns what could not be."""
        self.putter.begin()
        wait_for(lambda: not self.runner.open_jobs("put aside"), "the end of moving")
        read = self.database.read()
        newest = jobs.list_jobs(read, ("put aside",), 1)
        return [failure.reason for job in newest for failure in jobs.list_failures(read, job.id)]

    def kept(self) -> dict[str, str]:
        rows = self.database.read().execute("SELECT path, kept FROM put_aside")
        return {Path(row[0]).relative_to(self.music).as_posix(): row[1] for row in rows}


@pytest.fixture
def home(tmp_path: Path) -> Iterator[Home]:
    (tmp_path / "home").mkdir()
    made = Home(tmp_path, tmp_path / "music")
    yield made
    made.runner.stop()


@pytest.fixture
def drive() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(dir=SHARED_MEMORY))
    yield folder
    shutil.rmtree(folder)


def _copies_off(connection: sqlite3.Connection, *paths: Path) -> None:
    off_shelf.take_copies_off(connection, [str(path) for path in paths], "the very sound of Tide.mp3")


def test_copies_go_aside_and_back_each_for_itself_though_all_have_one_name(home: Home) -> None:
    paths = [home.copy(f"{folder}/Tide again.mp3") for folder in ("b", "c")]
    with home.database.write("Settle") as connection:
        _copies_off(connection, *paths)
    assert home.move() == []
    kept = home.kept()
    assert set(kept) == {"b/Tide again.mp3", "c/Tide again.mp3"} and len(set(kept.values())) == 2
    assert all(Path(each).read_bytes() == name.encode() for name, each in kept.items())
    assert not any(path.exists() for path in paths) and (home.music / "a/Tide.mp3").exists()
    with home.database.write() as connection:
        off_shelf.bring_copies_back(connection, [str(paths[0])])
    assert home.move() == [] and paths[0].read_bytes() == b"b/Tide again.mp3" and not paths[1].exists()
    freed, problems = home.putter.throw_away([], [str(paths[1])])
    assert (freed, problems, home.kept()) == (len(b"c/Tide again.mp3"), [], {})
    read = home.database.read()
    assert imports.list_copies(read, home.track) == [str(paths[0])] and not off_shelf.list_off(read)


def test_a_copy_that_is_gone_is_forgotten_and_one_in_whose_place_another_lies_stays_aside(home: Home) -> None:
    gone, replaced = home.copy("b/Tide 1.mp3"), home.copy("b/Tide 2.mp3")
    gone.unlink()
    with home.database.write() as connection:
        _copies_off(connection, gone, replaced)
    assert home.move() == [] and set(home.kept()) == {"b/Tide 2.mp3"}
    home.file("b/Tide 2.mp3").write_bytes(b"another")
    with home.database.write() as connection:
        off_shelf.bring_copies_back(connection, [str(replaced)])
    (reason,) = home.move()
    assert "another file is in its place" in reason and replaced.read_bytes() == b"another"
    assert Path(home.kept()["b/Tide 2.mp3"]).read_bytes() == b"b/Tide 2.mp3"
    assert imports.list_copies(home.database.read(), home.track) == [str(replaced)]


def test_files_of_another_drive_stay_on_it_where_no_import_looks(tmp_path: Path, drive: Path) -> None:
    if drive.stat().st_dev == tmp_path.stat().st_dev:
        pytest.skip("there is one drive only")
    (tmp_path / "home").mkdir()
    home = Home(tmp_path, drive)
    try:
        copy = home.copy("b/Tide 1.mp3")
        with home.database.write("Settle") as connection:
            off_shelf.take_off(connection, [home.track], aside=True, why="a copy of Pier.flac")
            _copies_off(connection, copy)
        assert home.move() == []
        assert all(Path(each).is_relative_to(drive / ON_A_DRIVE) for each in home.kept().values())
        assert len(home.kept()) == 2 and list(walk_files(drive)) == []
        with home.database.write() as connection:
            off_shelf.bring_back(connection, [home.track])
            off_shelf.bring_copies_back(connection, [str(copy)])
        assert home.move() == [] and home.kept() == {}
        assert [path.name for path in walk_files(drive)] == ["Tide.mp3", "Tide 1.mp3"]
    finally:
        home.runner.stop()
