"""Background work without a server: importing, analysing, events."""

from __future__ import annotations

import asyncio
import os
import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from tests.running import wait_for
from tests.signals import RATE_HZ, drum_loop
from vinyl.core.analysis import Analysis
from vinyl.demo.seed import seed_library
from vinyl.jobs.analysing import Analyser
from vinyl.jobs.events import LONGEST_QUEUE, Broadcaster
from vinyl.jobs.importing import Importer
from vinyl.library import analyses, cues, imports, tracks
from vinyl.library.cues import Cue
from vinyl.library.database import Database
from vinyl.library.imports import ImportRun
from vinyl.library.tracks import Filter
from vinyl.library.waveforms import WaveformStore
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.files import AllowedRoots
from vinyl.media.tags import Tags, write_tags


class Rooms:
    """A library with an importer, and an analyser that is started when a test wants it."""

    def __init__(self, folder: Path) -> None:
        self.music = folder / "music"
        self.music.mkdir()
        self.database = Database(folder / "library.db")
        self.events = Broadcaster()
        self.waveforms = WaveformStore(folder / "waveforms")
        self.analyser = Analyser(self.database, self.waveforms, self.events, workers=1)
        self.importer = Importer(self.database, AllowedRoots((folder,)), self.events, self.analyser.added)

    def song(self, name: str, form: str = "mp3", bpm: float = 120.0) -> Path:
        path = self.music / f"{name}{ENCODINGS[form].suffix}"
        path.parent.mkdir(exist_ok=True, parents=True)
        encode(drum_loop(bpm, 0.3, 12.0, seed=len(name)), RATE_HZ, path, form)
        return path

    def bring_in(self) -> ImportRun:
        run_id = self.importer.add(self.music)
        wait_for(lambda: imports.get_run(self.database.read(), run_id).state != "running", "the import")
        return imports.get_run(self.database.read(), run_id)

    def reasons(self, run: ImportRun) -> dict[str, tuple[str, str]]:
        files = imports.list_files(self.database.read(), run.id, None, 0, 100)
        return {Path(file.path).name: (file.outcome, file.reason) for file in files}

    def titles(self) -> list[str]:
        read = self.database.read()
        return [tracks.get_track(read, i)["title"] for i in tracks.order(read, Filter(), "title")]


@pytest.fixture
def rooms(tmp_path: Path) -> Iterator[Rooms]:
    made = Rooms(tmp_path)
    made.importer.start()
    yield made
    made.importer.stop()


def test_every_file_gets_its_outcome_and_none_is_changed(rooms: Rooms) -> None:
    song = rooms.song("Foghorn")
    write_tags(song, Tags("Foghorn Romance", "Ilva Dune", rating=4))
    rooms.song("Kelp Union - Halyard", "wav", 126)
    (rooms.music / "Foghorn 1.mp3").write_bytes(song.read_bytes())
    (rooms.music / "cut.mp3").write_bytes(song.read_bytes()[: song.stat().st_size // 2])
    (rooms.music / "cover.jpg").write_bytes(b"\xff\xd8")
    (rooms.music / "words.mp3").write_text("23:00 Foghorn\n" * 50)
    secret = rooms.song("locked", "flac", 99)
    secret.chmod(0)
    before = {path: (path.stat().st_mtime_ns, path.stat().st_size) for path in rooms.music.iterdir()}
    run = rooms.bring_in()
    found = rooms.reasons(run)
    assert run.state == "done" and run.total == 7
    assert found["Foghorn.mp3"][0] == found["Kelp Union - Halyard.wav"][0] == "added"
    assert found["Foghorn 1.mp3"] == (
        "already here",
        "It holds the very same sound as Foghorn.mp3; noted as a copy of it.",
    )
    assert found["cut.mp3"][0] == "broken" and "cut off" in found["cut.mp3"][1]
    assert found["cover.jpg"][0] == found["words.mp3"][0] == "not audio"
    if os.geteuid() != 0:
        assert found["locked.flac"][0] == "broken" and "permissions" in found["locked.flac"][1]
    assert {path: (path.stat().st_mtime_ns, path.stat().st_size) for path in before} == before
    rows = {
        row["title"]: row
        for row in (
            tracks.get_track(rooms.database.read(), i) for i in tracks.order(rooms.database.read(), Filter())
        )
    }
    assert rows["Foghorn Romance"]["rating"] == 4
    assert rows["Halyard"]["artist"] == "Kelp Union", "named after its file"


def test_importing_again_finds_what_is_new_moved_and_the_same(rooms: Rooms) -> None:
    first, second = rooms.song("One"), rooms.song("Two", bpm=126)
    rooms.bring_in()
    with rooms.database.write() as connection:
        track = tracks.order(connection, Filter("two"))[0]
        cues.add_cue(connection, track, Cue(2.0, label="kept"))
    (rooms.music / "sorted").mkdir()
    second.rename(rooms.music / "sorted" / "Two, renamed.mp3")
    rooms.song("Three", bpm=90)
    found = rooms.reasons(rooms.bring_in())
    assert found["One.mp3"] == ("already here", "It was imported before and has not changed.")
    assert found["Three.mp3"][0] == "added"
    outcome, reason = found["Two, renamed.mp3"]
    assert outcome == "already here" and "moved here from" in reason
    assert rooms.titles() == ["One", "Three", "Two"]
    assert [cue.label for cue in cues.list_cues(rooms.database.read(), track)] == ["kept"]
    write_tags(first, Tags("One, with other tags"))
    assert rooms.reasons(rooms.bring_in())["One.mp3"] == ("already here", "It was imported before.")
    assert len(rooms.titles()) == 3


def test_a_folder_that_is_gone_fails_in_words(rooms: Rooms) -> None:
    run_id = rooms.importer.add(rooms.music / "nowhere")
    wait_for(lambda: imports.get_run(rooms.database.read(), run_id).state == "failed", "the import to fail")
    assert "is not there" in (imports.get_run(rooms.database.read(), run_id).error or "")


def test_a_link_to_outside_is_not_followed(rooms: Rooms, tmp_path_factory: pytest.TempPathFactory) -> None:
    song = rooms.song("Inside")
    outside = tmp_path_factory.mktemp("outside") / "secret.mp3"
    song.rename(outside)
    song.symlink_to(outside)
    outcome, reason = rooms.reasons(rooms.bring_in())["Inside.mp3"]
    assert outcome == "broken" and "outside the folders" in reason


def test_a_full_disk_stops_an_import_in_words_and_it_can_go_on(rooms: Rooms) -> None:
    rooms.song("One")
    full = pytest.MonkeyPatch()
    full.setattr("vinyl.library.imports.note_file", _disk_is_full)
    run = rooms.bring_in()
    assert (
        run.state == "failed"
        and "disk is full" in (run.error or "")
        and "import the folder again" in (run.error or "")
    )
    assert rooms.titles() == [], "a batch is written whole or not at all"
    full.undo()
    assert rooms.bring_in().outcomes["added"] == 1


def _disk_is_full(*arguments: object) -> None:
    raise sqlite3.OperationalError("database or disk is full")


def test_a_drive_that_is_away_is_noticed_and_comes_back(rooms: Rooms) -> None:
    song = rooms.song("One")
    rooms.bring_in()
    read = rooms.database.read()
    song.rename(song.with_suffix(".away"))
    imports.mark_away(rooms.database)
    assert [tracks.get_track(read, i)["away"] for i in tracks.order(read, Filter())] == [1]
    song.with_suffix(".away").rename(song)
    imports.mark_away(rooms.database)
    assert [tracks.get_track(read, i)["away"] for i in tracks.order(read, Filter())] == [0]


def test_analysis_pauses_resumes_and_tells_what_failed(rooms: Rooms) -> None:
    rooms.song("One")
    broken = rooms.song("Two", "flac", 126)
    rooms.bring_in()
    broken.write_bytes(broken.read_bytes()[:100])
    rooms.analyser.pause()
    rooms.analyser.start()
    assert rooms.analyser.progress().counts.paused == 2
    rooms.analyser.resume()
    wait_for(
        lambda: (c := rooms.analyser.progress().counts).failed == 1 and c.waiting == 0,
        "one done and one failed",
        60,
    )
    read = rooms.database.read()
    one, two = (tracks.get_track(read, i) for i in tracks.order(read, Filter(), "title"))
    assert one["bpm"] == pytest.approx(120, abs=0.05)
    assert rooms.waveforms.read(one["id"])[:2] == b"\x1f\x8b"
    assert two["analysis_state"] == "failed" and two["analysis_error"]
    rooms.analyser.stop()


def test_a_worker_that_dies_is_replaced_and_its_track_tried_again(
    rooms: Rooms, monkeypatch: pytest.MonkeyPatch
) -> None:
    rooms.song("One")
    rooms.bring_in()
    monkeypatch.setattr("vinyl.jobs.analysing.analyse_file", _die_once)
    monkeypatch.setenv("VINYL_TEST_MARK", str(rooms.music / "died"))
    rooms.analyser.start()
    wait_for(lambda: rooms.analyser.progress().counts.waiting == 0, "the second try", 60)
    assert (rooms.music / "died").exists()
    read = rooms.database.read()
    assert tracks.get_track(read, tracks.order(read, Filter())[0])["bpm"] == pytest.approx(120, abs=0.05)
    rooms.analyser.stop()


def _die_once(path: str) -> Analysis:
    from vinyl.jobs.worker import analyse_file

    mark = Path(os.environ["VINYL_TEST_MARK"])
    if not mark.exists():
        mark.touch()
        os._exit(9)
    return analyse_file(path)


def test_a_result_that_arrives_after_its_track_is_dropped_quietly(rooms: Rooms) -> None:
    from vinyl.core.analysis import analyse

    result = analyse(drum_loop(120, 0, 6.0))
    with rooms.database.write() as connection:
        analyses.store(connection, 99, result)
        assert connection.execute("SELECT count(*) FROM track_analysis").fetchone()[0] == 0


def test_events_reach_every_listener_and_a_slow_one_is_told_to_reload() -> None:
    async def listen() -> tuple[list[str], dict[str, object]]:
        events = Broadcaster()
        fast, slow = events.listen(), events.listen()
        thread = threading.Thread(
            target=lambda: [events.publish({"type": "import"}) for _ in range(LONGEST_QUEUE + 50)]
        )
        thread.start()
        got = [(await asyncio.wait_for(fast.get(), 5))["type"] for _ in range(20)]
        while thread.is_alive():
            await asyncio.sleep(0.001)
        await asyncio.sleep(0.05)
        events.leave(fast)
        events.publish({"type": "tracks"})
        await asyncio.sleep(0.01)
        assert all((fast.get_nowait())["type"] != "tracks" for _ in range(fast.qsize()))
        return got, slow.get_nowait()

    got, told = asyncio.run(listen())
    assert got == ["import"] * 20
    assert told == {"type": "reload"}


def test_a_seeded_library_is_large_and_the_same_each_time(tmp_path: Path) -> None:
    first, second = Database(tmp_path / "1.db"), Database(tmp_path / "2.db")
    for database in (first, second):
        seed_library(database, 3000)
    rows = [
        database.read().execute("SELECT title, bpm, key, added_at FROM shelf ORDER BY id").fetchall()
        for database in (first, second)
    ]
    assert [tuple(row) for row in rows[0]] == [tuple(row) for row in rows[1]]
    index = tracks.count_by(first.read(), Filter(bpm_from=120, bpm_to=130))
    assert sum(index.bpm.values()) == 3000 and sum(index.key.values()) < 3000, (
        "a picture leaves its own filter out"
    )
    ids = tracks.order(first.read(), Filter(key="A minor"), "key")
    keys = {tracks.get_track(first.read(), i)["key"] for i in ids}
    assert keys == {"A minor", "E minor", "D minor", "C major"}
    bpm = [
        tracks.get_track(first.read(), i)["bpm"]
        for i in tracks.order(first.read(), Filter(), "bpm", descending=True)[:50]
    ]
    assert np.all(np.diff(bpm) <= 0)
