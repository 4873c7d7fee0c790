"""Packing: the plan, verified writing, and what an interruption leaves."""

from __future__ import annotations

import hashlib
import io
import json
import os
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.signals import RATE_HZ, click_track
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import crates, cues, flat, grids
from vinyl.library.cues import Cue
from vinyl.library.database import Database
from vinyl.library.tracks import FileFacts, Said, add_track
from vinyl.media.encode import ENCODINGS, convert, encode
from vinyl.media.errors import BrokenAudioError
from vinyl.media.pictures import small_jpeg
from vinyl.media.probe import probe
from vinyl.sticks import store
from vinyl.sticks.errors import PackCancelledError, StickError, StickFullError, StickGoneError
from vinyl.sticks.index import read_index
from vinyl.sticks.journal import JOURNAL_FILE
from vinyl.sticks.medium import Medium, make_medium
from vinyl.sticks.names import distinct, safe_name
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import Plan, make_plan
from vinyl.sticks.writing import Packed, PackProgress, Tools, pack

FORMS = ("mp3", "aiff", "flac", "opus")


class Desk:
    """A library of four tracks, two crates and a stick."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.failed: list[tuple[str, str]] = []
        self.sleeve: Callable[[Path], bytes | None] = lambda source: None
        self.database = Database(folder / "library.db")
        with self.database.write() as connection:
            self.tracks = [self._add(connection, form, number) for number, form in enumerate(FORMS)]
            self.all = crates.make_crate(connection, "All: of/them?")
            crates.add_tracks(connection, self.all, self.tracks)
            self.two = crates.make_crate(connection, "Two")
            crates.add_tracks(connection, self.two, self.tracks[:2])
            grids.set_grid(connection, self.tracks[0], TempoMap.steady(120.0, 0.25))
            cues.add_cue(connection, self.tracks[0], Cue(2.25, 2.0, "Loop", None, "ochre", 3, True))
            make_medium(folder / "stick", 50_000_000)
            self.id = store.add_stick(connection, "Stick", folder / "stick", "Quay One")
        self.medium = Medium(folder / "stick")
        self.choose(self.all)

    def _add(self, connection: sqlite3.Connection, form: str, number: int) -> int:
        path = self.folder / f"song {number}{ENCODINGS[form].suffix}"
        encode(click_track(np.arange(0.25, 8, 0.5), 8.0 + number), RATE_HZ, path, form)
        facts, stat = probe(path), path.stat()
        file = FileFacts(
            path=str(path),
            size_bytes=stat.st_size,
            modified_ns=stat.st_mtime_ns,
            audio_hash=facts.audio_hash,
            codec=facts.codec,
            rate_hz=facts.rate_hz,
            channels=facts.channels,
            bit_rate=facts.bit_rate,
            trimmed_samples=facts.trimmed_samples,
            duration_s=facts.duration_s,
            has_picture=False,
        )
        return add_track(connection, file, Said({"title": f"Song? {number}", "artist": "A/B: “C”"}, {}))

    def choose(self, *crate_ids: int) -> None:
        with self.database.write() as connection:
            store.choose_crates(connection, self.id, crate_ids)

    def plan(self) -> Plan:
        return make_plan(self.database.read(), store.get_stick(self.database.read(), self.id))

    def pack(
        self,
        on_progress: Callable[[PackProgress], None] = lambda p: None,
        cancelled: Callable[[], bool] = lambda: False,
        convert: Callable[[Path, Path], None] = lambda source, target: convert(source, target, "flac"),
    ) -> Packed:
        own = OwnFiles(self.database, self.id)
        tools = Tools(convert, self.sleeve, lambda item, reason: self.failed.append((item, reason)))
        stick = store.get_stick(self.database.read(), self.id)
        return pack(stick, own, self.plan(), tools, on_progress, cancelled)

    def check_whole(self) -> list[str]:
        """Every file the index names is there, byte for byte as it says; returns their names."""
        index = read_index(self.medium.folder)
        assert index is not None
        for entry in index.tracks:
            data = (self.medium.folder / entry.file).read_bytes()
            assert (len(data), hashlib.sha256(data).hexdigest()) == (entry.bytes, entry.sha256)
        for crate in index.crates:
            for line in (self.medium.folder / crate.playlist).read_text(encoding="utf-8").splitlines():
                assert line.startswith("#") or (self.medium.folder / "Crates" / line).resolve().is_file()
        return [entry.file for entry in index.tracks]

    def audio_files(self) -> list[str]:
        return sorted(
            path.relative_to(self.medium.folder).as_posix()
            for path in self.medium.folder.glob("Music/**/*")
            if path.is_file()
        )


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    return Desk(tmp_path)


def test_a_packed_stick_is_whole_and_a_second_packing_writes_nothing(desk: Desk) -> None:
    assert [track.action for track in desk.plan().tracks] == ["copy", "convert", "copy", "convert"]
    desk.pack()
    files = desk.check_whole()
    assert sorted(files) == desk.audio_files()
    assert all(file.startswith("Music/A-B- “C”/Song- ") for file in files)
    index = json.loads((desk.medium.folder / "vinyl-stick.json").read_text())
    entry = next(entry for entry in index["tracks"] if entry["cues"])
    assert entry["padding_samples"] == 1105
    assert entry["anchors"] == [{"time": 0.25, "beat": 0.0, "bpm": 120.0}]
    assert entry["cues"] == [
        {
            "position_s": 2.25,
            "length_s": 2.0,
            "label": "Loop",
            "role": None,
            "colour": "ochre",
            "pad": 3,
            "engages": True,
        }
    ]
    plan = desk.plan()
    assert {track.action for track in plan.tracks} == {"keep"}
    assert plan.write_bytes == 0 and not plan.removed


def test_a_new_cue_is_an_update_and_a_changed_file_is_written_again(desk: Desk) -> None:
    desk.pack()
    with desk.database.write() as connection:
        cues.add_cue(connection, desk.tracks[2], Cue(1.0))
        os.utime(desk.folder / "song 0.mp3", ns=(5, 5))
        connection.execute("UPDATE track SET modified_ns = 5 WHERE id = ?", (desk.tracks[0],))
    assert [track.action for track in desk.plan().tracks] == ["copy", "keep", "update", "keep"]
    desk.pack()
    assert {track.action for track in desk.plan().tracks} == {"keep"}


def test_taking_a_crate_off_removes_only_its_own_files(desk: Desk) -> None:
    desk.pack()
    (desk.medium.folder / "holiday.jpg").write_bytes(b"mine")
    desk.choose(desk.two)
    assert len(desk.plan().removed) == 2
    desk.pack()
    assert sorted(desk.check_whole()) == desk.audio_files()
    assert len(desk.audio_files()) == 2
    assert [path.name for path in desk.medium.folder.glob("Crates/*")] == ["Two.m3u8"]
    assert (desk.medium.folder / "holiday.jpg").read_bytes() == b"mine"


@pytest.mark.parametrize("stop", ["cancel", "pull"])
def test_an_interrupted_packing_goes_on_where_it_stopped(desk: Desk, stop: str) -> None:
    done: list[int] = []

    def watch(progress: PackProgress) -> None:
        done.append(progress.done_files)
        if stop == "pull" and progress.done_files == 2:
            desk.medium.set_in(False)

    kind = PackCancelledError if stop == "cancel" else StickGoneError
    with pytest.raises(kind):
        desk.pack(watch, lambda: stop == "cancel" and bool(done) and done[-1] == 2)
    desk.medium.set_in(True)
    assert len(desk.audio_files()) == 2
    assert (desk.medium.folder / JOURNAL_FILE).exists()
    assert [track.action for track in desk.plan().tracks] == ["keep", "keep", "copy", "convert"]
    desk.pack()
    assert len(desk.check_whole()) == 4
    assert not (desk.medium.folder / JOURNAL_FILE).exists()
    assert not list(desk.medium.folder.rglob("*.part"))


def test_a_small_stick_is_refused_before_anything_is_written(desk: Desk) -> None:
    desk.medium._write({"capacity_bytes": 400_000, "plugged_in": True})
    assert desk.plan().missing_bytes > 0
    with pytest.raises(StickFullError, match="The stick is full"):
        desk.pack()
    assert desk.audio_files() == []


def test_a_stick_that_fills_up_meanwhile_keeps_what_is_whole(desk: Desk) -> None:
    def fill(progress: PackProgress) -> None:
        if progress.done_files == 1:
            (desk.medium.folder / "other.bin").write_bytes(bytes(desk.medium.free_bytes() - 1000))

    with pytest.raises(StickFullError):
        desk.pack(fill)
    assert len(desk.audio_files()) == 1
    (desk.medium.folder / "other.bin").unlink()
    desk.pack()
    assert len(desk.check_whole()) == 4


def test_what_reads_back_differently_is_not_accepted(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("vinyl.sticks.writing._sha256", lambda path: "0" * 64)
    desk.choose(desk.two)
    desk.pack()
    assert [name for name, _ in desk.failed] == ["Song- 0.mp3"]
    assert desk.failed[0][1].startswith("Song- 0.mp3 reads back differently")
    assert not any("Song- 0" in file for file in desk.audio_files())


def test_a_track_that_is_away_is_left_out_by_name(desk: Desk) -> None:
    (desk.folder / "song 2.flac").rename(desk.folder / "elsewhere.flac")
    plan = desk.plan()
    assert len(plan.tracks) == 3
    assert "“Song? 2” is away" in plan.left_out[0]


def test_a_damaged_index_or_journal_is_written_anew(desk: Desk) -> None:
    desk.pack()
    (desk.medium.folder / "vinyl-stick.json").write_text(json.dumps({"format": "other"}))
    (desk.medium.folder / JOURNAL_FILE).write_text('{"file": "cut o')
    desk.pack()
    assert len(desk.check_whole()) == 4


def test_one_file_that_cannot_be_converted_is_told_and_the_rest_is_packed(desk: Desk) -> None:
    def fail(source: Path, target: Path) -> None:
        if "song 1" in source.name:
            raise BrokenAudioError("The file is damaged.")
        convert(source, target, "flac")

    packed = desk.pack(convert=fail)
    assert packed.written == 3 and len(desk.check_whole()) == 3
    assert desk.failed == [("Song- 1.flac", "The file is damaged.")]
    assert desk.pack().written == 1


def test_a_damaged_sleeve_is_told_and_its_track_is_packed_without(desk: Desk) -> None:
    with desk.database.write() as connection:
        connection.execute("UPDATE track SET has_picture = 1 WHERE id IN (?, ?)", desk.tracks[:2])
        flat.settle(connection, desk.tracks)
    whole, damaged = picture(), picture()[:40]
    desk.sleeve = lambda source: small_jpeg(damaged if "song 1" in source.name else whole, 100)
    assert desk.pack().written == 4
    index = read_index(desk.medium.folder)
    assert index is not None and desk.check_whole()
    assert [bool(entry.picture) for entry in index.tracks] == [True, False, False, False]
    assert desk.failed == [
        ("The sleeve of Song? 1", "The picture is damaged, or of a kind that Vinyl does not know.")
    ]


def picture() -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", (300, 200), "olive").save(buffer, "PNG")
    return buffer.getvalue()


def test_what_is_not_vinyls_stays_as_it_was(desk: Desk) -> None:
    """A file of the user's under a name that Vinyl would use, and hidden parts of other programs."""
    mine = desk.medium.folder / desk.plan().tracks[0].entry.file
    mine.parent.mkdir(parents=True)
    mine.write_bytes(b"mine")
    part = desk.medium.folder / ".holiday.jpg.part"
    part.write_bytes(b"half")
    desk.pack()
    desk.choose()
    desk.pack()
    assert (mine.read_bytes(), part.read_bytes()) == (b"mine", b"half")


@pytest.mark.parametrize("path", ["../library.db", "/etc/passwd", "Music/../../library.db", "holiday.jpg"])
def test_a_hostile_index_reaches_nothing_outside_its_folders(desk: Desk, path: str) -> None:
    desk.pack()
    (desk.medium.folder / "holiday.jpg").write_bytes(b"mine")
    index = json.loads((desk.medium.folder / "vinyl-stick.json").read_text())
    index["tracks"][0]["file"] = path
    (desk.medium.folder / "vinyl-stick.json").write_text(json.dumps(index))
    assert read_index(desk.medium.folder) is None
    desk.choose()
    desk.pack()
    assert (desk.medium.folder / "holiday.jpg").read_bytes() == b"mine"
    assert desk.database.path.is_file()


def test_a_linked_folder_on_the_stick_is_not_written_through(desk: Desk, tmp_path: Path) -> None:
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (desk.medium.folder / "Music").symlink_to(elsewhere)
    with suppress(StickError):
        desk.pack()
    assert list(elsewhere.rglob("*.*")) == []


def test_names_are_safe_everywhere() -> None:
    assert safe_name("AC/DC: *live*?", 80, "x") == "AC-DC- -live--"
    assert safe_name(" .. ", 80, "Unknown") == "Unknown"
    assert safe_name("NUL", 80, "x") == "NUL-"
    assert safe_name("../../etc/passwd", 80, "x") == "-..-etc-passwd"
    assert len(safe_name("x" * 300, 80, "x")) == 80
    taken: set[str] = set()
    assert [distinct(name, taken) for name in ("a/B.mp3", "A/b.mp3", "a/B.mp3")] == [
        "a/B.mp3",
        "A/b (2).mp3",
        "a/B (3).mp3",
    ]
