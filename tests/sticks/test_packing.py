"""Packing: the plan, verified writing, and what an interruption leaves."""

from __future__ import annotations

import hashlib
import io
import json
import os
import random
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.signals import RATE_HZ, click_track
from vinyl.core.analysis import analyse
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.waveform.summary import overview
from vinyl.core.waveform.summary import pack as pack_summary
from vinyl.jobs.converting import make_file
from vinyl.library import crates, cues, flat, grids, routes
from vinyl.library.database import Database
from vinyl.library.tracks import FileFacts, Said, add_track
from vinyl.library.waveforms import WaveformStore
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.errors import BrokenAudioError
from vinyl.media.pictures import small_jpeg
from vinyl.media.probe import probe
from vinyl.media.tags import read_tags
from vinyl.sticks import store
from vinyl.sticks.checking import check_files, damage_of
from vinyl.sticks.errors import (
    PackCancelledError,
    StickError,
    StickFullError,
    StickGoneError,
    StickReadOnlyError,
)
from vinyl.sticks.index import read_index
from vinyl.sticks.making import Making
from vinyl.sticks.medium import MEDIUM_FILE, Fault, StandIn, claim, flip, make_stand_in
from vinyl.sticks.names import distinct, safe_name
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import Plan, make_plan
from vinyl.sticks.writing import Converted, Packed, PackProgress, Tools, pack, packed_rows

FLIPS = 1000
FORMS = ("mp3", "aiff", "flac", "opus")


class Desk:
    """A library of four tracks, two crates and a stick."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.failed: list[tuple[str, str]] = []
        self.sleeve: Callable[[Path], bytes | None] = lambda source: None
        self.database = Database.prepared(folder / "library.db")
        with self.database.write() as connection:
            self.tracks = [self._add(connection, form, number) for number, form in enumerate(FORMS)]
            self.all = crates.make_crate(connection, "All: of/them?")
            crates.add_tracks(connection, self.all, self.tracks)
            self.two = crates.make_crate(connection, "Two")
            crates.add_tracks(connection, self.two, self.tracks[:2])
            grids.set_grid(connection, self.tracks[0], TempoMap.steady(120.0, 0.25))
            cues.add_cue(connection, self.tracks[0], Cue(2.25, 2.0, "Loop", None, "ochre", 3, True))
            make_stand_in(folder / "stick", 50_000_000)
            self.id = store.add_stick(connection, "Stick", folder / "stick", "Quay One")
        self.medium = StandIn(folder / "stick")
        self.waveforms = WaveformStore(folder / "waveforms")
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
        return add_track(connection, file, Said({"title": f"Song? {number}", "artist": "A/B: “C”"}, None))

    def choose(self, *crate_ids: int) -> None:
        with self.database.write() as connection:
            store.choose_crates(connection, self.id, crate_ids)

    def plan(self) -> Plan:
        read = self.database.read()
        return make_plan(read, store.get_stick(read, self.id), self.waveforms)

    def pack(
        self,
        on_progress: Callable[[PackProgress], None] = lambda p: None,
        cancelled: Callable[[], bool] = lambda: False,
        make: Callable[[Path, Path, Making], None] = make_file,
    ) -> Packed:
        own = OwnFiles(self.database, self.id)

        def made(source: Path, made_from: str, making: Making) -> Converted:
            suffix = ENCODINGS[making.form].suffix if making.form else source.suffix
            path = self.folder / f"made {hashlib.sha256(made_from.encode()).hexdigest()}{suffix}"
            make(source, path, making)
            facts = probe(path)
            return Converted(path, facts.trimmed_samples, facts.rate_hz, read_tags(path).gain_db)

        tools = Tools(
            made,
            lambda source, _: self.sleeve(source),
            self.waveforms.overview,
            lambda item, why: self.failed.append((item, why)),
        )
        read = self.database.read()
        stick, library = store.get_stick(read, self.id), store.library_gid(read)
        packed = pack(stick, library, own, self.plan(), tools, on_progress, cancelled)
        with self.database.write() as connection:
            store.keep_packed(connection, self.id, packed_rows(packed.index))
        return packed

    def actions(self) -> list[str]:
        return [file.action for file in self.plan().files]

    def check_whole(self) -> list[str]:
        """Every file the index names is there, byte for byte as it says; returns their names."""
        index, _ = read_index(self.medium.folder)
        assert index is not None
        for entry in index.files:
            data = (self.medium.folder / entry.file).read_bytes()
            assert (len(data), hashlib.sha256(data).hexdigest()) == (entry.bytes, entry.sha256)
        files = {entry.file for entry in index.files}
        for player in index.players:
            assert {track.file for track in player.tracks} <= files
            for each in player.lists:
                playlist = self.medium.folder / each.playlist
                for line in playlist.read_text(encoding="utf-8").splitlines():
                    assert line.startswith("#") or (playlist.parent / line).resolve().is_file()
        return [entry.file for entry in index.files]

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
    assert desk.actions() == ["copy", "convert", "copy", "convert"]
    desk.pack()
    files = desk.check_whole()
    assert sorted(files) == desk.audio_files()
    assert all(file.startswith("Music/A-B- “C”/Song- ") for file in files)
    index = json.loads((desk.medium.folder / "vinyl-stick.json").read_text())
    entry = next(entry for entry in index["players"][0]["tracks"] if entry["cues"])
    assert next(f for f in index["files"] if f["file"] == entry["file"])["padding_samples"] == 1105
    assert len(entry["cues"][0].pop("id")) == 32
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
    assert desk.actions() == ["keep"] * 4 and desk.plan().is_empty


def test_a_new_cue_is_an_update_and_a_changed_file_is_written_again(desk: Desk) -> None:
    desk.pack()
    with desk.database.write() as connection:
        cues.add_cue(connection, desk.tracks[2], Cue(1.0))
        os.utime(desk.folder / "song 0.mp3", ns=(5, 5))
        connection.execute("UPDATE track SET modified_ns = 5 WHERE id = ?", (desk.tracks[0],))
    assert desk.actions() == ["copy", "keep", "keep", "keep"]
    changed = list(desk.plan().players[0].changes.values())
    assert sorted(changed) == [("cues",), ("file",)]
    desk.pack()
    assert desk.plan().is_empty


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
    # What was written already when it was cancelled is read back and counts.
    whole = 3 if stop == "cancel" else 2
    assert len(desk.audio_files()) == whole
    assert desk.actions() == ["keep"] * whole + ["copy", "convert"][whole - 2 :]
    desk.pack()
    assert len(desk.check_whole()) == 4
    assert not list(desk.medium.folder.rglob("*.part"))


def test_a_small_stick_is_refused_before_anything_is_written(desk: Desk) -> None:
    desk.medium._write({"capacity_bytes": 400_000, "plugged_in": True})
    assert desk.plan().missing_bytes > 0
    with pytest.raises(StickFullError, match="The stick is full"):
        desk.pack()
    assert desk.audio_files() == []


FAULTS_OF_ALL = {"full": StickFullError, "read-only": StickReadOnlyError, "torn out": StickGoneError}


@settings(deadline=None, max_examples=24, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(["full", "read-only", "torn out", "write error"]), st.floats(0, 1))
def test_whatever_a_stick_does_at_any_moment_all_is_old_or_new_and_the_next_packing_finishes(
    desk: Desk, fault: Fault, moment: float
) -> None:
    """On the way from one list to another, that has two tracks more."""
    desk.medium.set_fault("", 0)
    desk.choose(desk.two)
    desk.pack()
    old, _ = read_index(desk.medium.folder)
    desk.choose(desk.all)
    total = sum(file.size_bytes for file in desk.plan().files if file.action != "keep")
    desk.medium.set_fault(fault, int(moment * total))
    with suppress(StickError):
        desk.pack()
    desk.medium.set_in(True)
    index, _ = read_index(desk.medium.folder)
    desk.check_whole()
    assert old is not None and index is not None
    assert index == old or len(index.files) == 4, "old or new"
    desk.medium.set_fault("", 0)
    desk.pack()
    assert len(desk.check_whole()) == 4 and desk.plan().is_empty
    assert not list(desk.medium.folder.rglob("*.part"))


def test_what_a_stick_refuses_as_a_whole_ends_packing_and_what_one_file_does_not(desk: Desk) -> None:
    for fault, kind in FAULTS_OF_ALL.items():
        desk.medium.set_fault(fault, 500)  # type: ignore[arg-type]
        with pytest.raises(kind):
            desk.pack()
        desk.medium.set_in(True)
    desk.medium.set_fault("", 0)
    assert desk.pack().written == 4


def test_a_check_finds_every_bit_that_has_turned_over_and_packing_mends_it(desk: Desk) -> None:
    desk.pack()
    medium, rng = desk.medium, random.Random(5)
    own = OwnFiles(desk.database, desk.id)
    files = [each for each in own.all().values() if each.sha256]
    assert {each.path for each in files} == {
        path.relative_to(medium.folder).as_posix()
        for path in medium.folder.rglob("*")
        if path.is_file() and path.name != MEDIUM_FILE
    }, "all that stands on the stick is known at home"
    assert not dict(check_files(medium, files, lambda done, path: None))
    for _ in range(FLIPS):
        each, where = rng.choice(files), rng.random()
        flip(medium.folder / each.path, where)
        assert damage_of(medium, each) == "it is not what was written"
        flip(medium.folder / each.path, where)
    broken = rng.sample(files, 3)
    for each in broken:
        flip(medium.folder / each.path, rng.random())
    found = dict(check_files(medium, files, lambda done, path: None))
    assert set(found) == {each.path for each in broken}
    own.note_damage(found)
    assert set(desk.plan().damaged) == set(found)
    desk.pack()
    assert not dict(check_files(medium, list(own.all().values()), lambda done, path: None))
    assert desk.plan().is_empty


def test_what_reads_back_differently_is_not_accepted(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("vinyl.sticks.writing.sha256_of", lambda path: "0" * 64)
    desk.choose(desk.two)
    desk.pack()
    assert [name for name, _ in desk.failed] == ["Song- 0.mp3", "Song- 1.flac"]
    assert desk.failed[0][1].startswith("Song- 0.mp3 reads back differently")
    assert not any("Song- 0" in file for file in desk.audio_files())


def test_a_track_that_is_away_is_left_out_by_name(desk: Desk) -> None:
    (desk.folder / "song 2.flac").rename(desk.folder / "elsewhere.flac")
    plan = desk.plan()
    assert len(plan.files) == 3
    assert [(each.title, each.kind) for each in plan.problems if each.kind == "away"] == [("Song? 2", "away")]


def test_what_is_on_the_stick_stays_while_its_file_is_away(desk: Desk) -> None:
    desk.pack()
    (desk.folder / "song 2.flac").rename(desk.folder / "elsewhere.flac")
    with desk.database.write() as connection:
        cues.add_cue(connection, desk.tracks[2], Cue(1.0))
    assert desk.actions() == ["keep"] * 4 and not [p for p in desk.plan().problems if p.kind == "away"]
    desk.pack()
    assert len(desk.check_whole()) == 4 and desk.plan().is_empty


def test_a_damaged_index_is_written_anew(desk: Desk) -> None:
    desk.pack()
    (desk.medium.folder / "vinyl-stick.json").write_text(json.dumps({"format": "other"}))
    desk.pack()
    assert len(desk.check_whole()) == 4


def test_one_file_that_cannot_be_converted_is_told_and_the_rest_is_packed(desk: Desk) -> None:
    def fail(source: Path, target: Path, making: Making) -> None:
        if "song 1" in source.name:
            raise BrokenAudioError("The file is damaged.")
        make_file(source, target, making)

    packed = desk.pack(make=fail)
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
    index, _ = read_index(desk.medium.folder)
    assert index is not None and desk.check_whole()
    assert [bool(entry.picture) for entry in index.players[0].tracks] == [True, False, False, False]
    assert desk.failed == [
        ("The sleeve of Song? 1", "The picture is damaged, or of a kind that Vinyl does not know.")
    ]


def picture() -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", (300, 200), "olive").save(buffer, "PNG")
    return buffer.getvalue()


def test_levelled_copies_are_as_loud_as_wished_and_peaks_hold_them_back(desk: Desk) -> None:
    """One is 4 dB too loud, one has room for 1 dB only, the others are as they should be."""
    told = {0: (-6.0, -0.2), 1: (-14.0, -2.0), 2: (-10.2, -3.0), 3: (-10.0, 0.0)}
    with desk.database.write() as connection:
        for number, (lufs, peak_db) in told.items():
            connection.execute(
                "INSERT INTO track_analysis (track_id, version, analysed_at, lufs, true_peak_db) "
                "VALUES (?, 1, '2026-11-20', ?, ?)",
                (desk.tracks[number], lufs, peak_db),
            )
        flat.settle(connection, desk.tracks)
        store.choose_options(connection, desk.id, store.Options(level_lufs=-10.0))
    assert [(file.making.form, file.making.gain_db) for file in desk.plan().files] == [
        ("flac", -4.0), ("flac", 1.0), ("", 0.0), ("flac", 0.0),
    ]  # fmt: skip
    desk.pack()
    index, _ = read_index(desk.medium.folder)
    assert index is not None and desk.plan().is_empty
    after = np.abs(decode(desk.medium.folder / index.files[0].file).samples).max()
    before = np.abs(decode(desk.folder / "song 0.mp3").samples).max()
    assert 20 * np.log10(after / before) == pytest.approx(-4.0, abs=0.1)
    assert [track.lufs for track in index.players[0].tracks] == [-10.0, -13.0, -10.2, -10.0]


def test_files_tell_their_loudness_and_their_sound_stays_as_it_is(desk: Desk) -> None:
    """In each kind's own tag, and only where the loudness is known."""
    heard = analyse(click_track(np.arange(0.25, 8, 0.5), 8.0)).waveform
    for track in desk.tracks[1:3]:
        desk.waveforms.store(track, heard)
    with desk.database.write() as connection:
        for track in desk.tracks[1:]:
            connection.execute(
                "INSERT INTO track_analysis (track_id, version, analysed_at, lufs) "
                "VALUES (?, 1, '2026-11-20', -9.0)",
                (track,),
            )
        flat.settle(connection, desk.tracks)
        store.choose_options(connection, desk.id, store.Options(loudness_tags=True))
        store.choose_players(connection, desk.id, {"Fairlead": ("", None)})
    desk.pack()
    index, _ = read_index(desk.medium.folder)
    assert index is not None and desk.plan().is_empty and not desk.failed
    told = [read_tags(desk.medium.folder / file.file).gain_db for file in index.files]
    assert told == [None, -9.0, -9.0, -9.0] == [file.gain_db for file in index.files]
    for number, file in enumerate(index.files):
        path = desk.folder / f"song {number}{ENCODINGS[FORMS[number]].suffix}"
        assert np.array_equal(decode(path).samples, decode(desk.medium.folder / file.file).samples)
    waveforms = [track.waveform for track in index.players[0].tracks]
    assert waveforms[0] is None and waveforms[3] is None
    for each in waveforms[1:3]:
        assert (desk.medium.folder / str(each)).read_bytes() == overview(pack_summary(heard))


def test_routes_as_files_of_their_own_stand_behind_their_track(desk: Desk) -> None:
    """As long as the route, with the cues that it passes and the grid that still fits; clicks are on it."""
    with desk.database.write() as connection:
        cues.add_cue(connection, desk.tracks[0], Cue(5.25, None, "Late", "out"))
        routes.save_route(connection, desk.tracks[0], "short", [Jump(2.25, 5.25)])
        routes.save_route(connection, desk.tracks[0], "broken", [Jump(7.0, 7.5)])
        connection.execute("UPDATE route SET jumps = '[[90, 1]]' WHERE name = 'broken'")
        crates.add_tracks(connection, desk.all, desk.tracks)
        store.choose_options(connection, desk.id, store.Options(route_files=True))
    plan = desk.plan()
    assert [each.says[:30] for each in plan.problems if each.kind == "route"] == [
        "has a route “broken” that cann"
    ]
    desk.pack()
    index, _ = read_index(desk.medium.folder)
    assert index is not None and len(desk.check_whole()) == 5 and desk.plan().is_empty
    whole, short = index.players[0].tracks[:2]
    assert index.players[0].lists[0].tracks[:2] == [whole.id, short.id]
    assert short.id.startswith(f"{whole.id}/")
    assert short.title == "Song? 0 (short)" and short.duration_s == pytest.approx(5.0, abs=0.01)
    assert [(cue.label, round(cue.position_s, 3), cue.id) for cue in short.cues] == [("Late", 2.25, "")]
    assert short.anchors == whole.anchors
    heard = np.abs(decode(desk.medium.folder / short.file).samples[0])
    loud = np.flatnonzero(heard > heard.max() / 3) / RATE_HZ
    clicks = loud[np.r_[True, np.diff(loud) > 0.2]]
    assert clicks == pytest.approx(np.arange(0.25, 5.0, 0.5), abs=0.005)
    with desk.database.write() as connection:
        store.choose_options(connection, desk.id, store.Options())
    desk.pack()
    assert len(desk.check_whole()) == 4 and not (desk.medium.folder / short.file).exists()


def test_what_is_not_vinyls_stays_as_it_was(desk: Desk) -> None:
    """A file of the user's under a name that Vinyl would use, and hidden parts of other programs."""
    mine = desk.medium.folder / desk.plan().files[0].entry.file
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
    index["players"][0]["tracks"][0]["file"] = index["files"][0]["file"] = path
    (desk.medium.folder / "vinyl-stick.json").write_text(json.dumps(index))
    there, left_out = read_index(desk.medium.folder)
    assert there is not None and path not in there.model_dump_json() and len(left_out) == 2
    desk.choose()
    desk.pack()
    assert (desk.medium.folder / "holiday.jpg").read_bytes() == b"mine"
    assert desk.database.path.is_file()


@pytest.mark.parametrize("folder", ["Music", "Crates", "Pictures", "Waveforms"])
def test_a_linked_folder_on_the_stick_is_not_written_through(desk: Desk, tmp_path: Path, folder: str) -> None:
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    (desk.medium.folder / folder).symlink_to(elsewhere)
    desk.sleeve = lambda source: b"a picture"
    with suppress(StickError):
        desk.pack()
    assert list(elsewhere.rglob("*.*")) == []


def test_a_list_of_the_users_own_keeps_its_file_and_its_name(desk: Desk) -> None:
    own = desk.medium.folder / "Crates" / "All- of-them-.m3u8"
    own.parent.mkdir()
    own.write_text("mine")
    for _ in range(2):
        desk.pack()
        desk.check_whole()
        assert own.read_text() == "mine"
    assert {each.name for each in own.parent.iterdir()} == {own.name, "All- of-them- (2).m3u8"}
    assert desk.plan().is_empty


def test_a_stick_that_was_taken_out_is_not_called_full(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(StandIn, "free_bytes", lambda self: 0)
    desk.medium.set_in(False)
    with pytest.raises(StickGoneError, match="not in the computer"):
        claim(desk.medium, 1)


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
