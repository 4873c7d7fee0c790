"""On every player, from every format: cues stand on the attacks that are heard from the stick's own files."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from tests.signals import RATE_HZ, click_track
from vinyl.core.cues.cue import Cue
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.jobs.converting import make_file
from vinyl.library import crates, cues, grids
from vinyl.library.database import Database
from vinyl.library.tracks import FileFacts, Said, add_track
from vinyl.library.waveforms import WaveformStore
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.probe import probe
from vinyl.standin_libraries.sound import attack_near
from vinyl.sticks import store
from vinyl.sticks.index import FileEntry, StickIndex, TrackEntry
from vinyl.sticks.making import Making
from vinyl.sticks.medium import make_stand_in
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import make_plan
from vinyl.sticks.profiles import PROFILES
from vinyl.sticks.writing import Converted, Tools, pack

ATTACKS_S = np.array([1.0, 1.5, 4.0, 6.0])
PLAYERS = {(name, form) for name, profile in PROFILES.items() for form in profile.converts_to}
WITHIN_S = 0.001


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A library of the same clicks in every format, each with its cues and a steady grid, in a list."""
    return clicks(tmp_path_factory.mktemp("sounds"))


def clicks(folder: Path) -> Path:
    """The same in a folder."""
    database = Database.prepared(folder / "library.db")
    with database.write() as connection:
        crate = crates.make_crate(connection, "All")
        for form, encoding in ENCODINGS.items():
            path = folder / f"{form}{encoding.suffix}"
            encode(click_track(ATTACKS_S, 8.0, hz=1500, length_s=0.05), RATE_HZ, path, form)
            facts, stat = probe(path), path.stat()
            file = FileFacts(
                path=str(path), size_bytes=stat.st_size, modified_ns=stat.st_mtime_ns,
                audio_hash=facts.audio_hash, codec=facts.codec, rate_hz=facts.rate_hz,
                channels=facts.channels, bit_rate=facts.bit_rate, trimmed_samples=facts.trimmed_samples,
                duration_s=facts.duration_s, has_picture=False,
            )  # fmt: skip
            track = add_track(connection, file, Said({"title": form, "artist": "Clicks"}, None))
            crates.add_tracks(connection, crate, [track])
            grids.set_grid(connection, track, TempoMap.steady(120.0, 1.0))
            for at_s in ATTACKS_S:
                cues.add_cue(connection, track, Cue(float(at_s)))
    return folder


def packed(home: Path, folder: Path, player: str, form: str) -> StickIndex:
    database = Database.prepared(home / "library.db")
    with database.write() as connection:
        make_stand_in(folder, 200_000_000)
        stick_id = store.add_stick(connection, f"{player} {form}", folder, player)
        store.choose_players(connection, stick_id, {player: (form, None)})
        store.choose_crates(connection, stick_id, [1])

    def made(source: Path, made_from: str, making: Making) -> Converted:
        path = folder.parent / f"{source.stem} to {making.form}{ENCODINGS[making.form].suffix}"
        make_file(source, path, making)
        facts = probe(path)
        return Converted(path, facts.trimmed_samples, facts.rate_hz)

    stick = store.get_stick(database.read(), stick_id)
    tools = Tools(
        made,
        lambda source, pixels: None,
        lambda track_id: None,
        lambda item, why: pytest.fail(f"{item}: {why}"),
    )
    plan = make_plan(database.read(), stick, WaveformStore(home / "waveforms"))
    own = OwnFiles(database, stick_id)
    return pack(stick, "home", own, plan, tools, lambda progress: None, lambda: False).index


def _pairs(index: StickIndex) -> Iterator[tuple[TrackEntry, FileEntry]]:
    files = {file.file: file for file in index.files}
    for track in index.players[0].tracks:
        yield track, files[track.file]


@pytest.mark.parametrize(("player", "form"), sorted(PLAYERS))
def test_cues_and_beats_are_where_the_sound_is(home: Path, tmp_path: Path, player: str, form: str) -> None:
    """Decoded with all that the codec puts before the sound, as a plain decoder gives it, and without."""
    index = packed(home, tmp_path / "stick", player, form)
    codecs = set()
    for track, file in _pairs(index):
        path, padding_s = tmp_path / "stick" / file.file, file.padding_samples / file.rate_hz
        facts = probe(path)
        codecs.add(facts.codec)
        assert PROFILES[player].can_play(facts.codec, facts.rate_hz), f"{player} plays no {facts.codec}"
        beats = [anchor.time + n * 60 / anchor.bpm for anchor in track.anchors for n in (0, 1, 6, 10)]
        for at_s in (*(cue.position_s for cue in track.cues), *beats):
            whole = attack_near(path, at_s + padding_s, True) - padding_s
            assert whole == pytest.approx(at_s, abs=WITHIN_S), f"{track.title} as {file.file}"
            assert attack_near(path, at_s, False) == pytest.approx(at_s, abs=WITHIN_S)
    assert len(index.players[0].tracks) == len(ENCODINGS) and len(codecs) >= 2
