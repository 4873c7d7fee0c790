"""The same recording, edits, versions over one backing, and other songs; the nearest of many."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from numpy.typing import NDArray

from vinyl.core.likeness.compare import compare
from vinyl.core.likeness.descriptor import SIZE, describe
from vinyl.core.likeness.fingerprint import Fingerprint, FingerprintMeter
from vinyl.core.likeness.index import DescriptorIndex
from vinyl.core.rhythm.onset import onsets
from vinyl.core.spectrum import HOP, SpectrumMeter
from vinyl.core.tonal.chroma import chroma
from vinyl.demo.fresh import fresh_score
from vinyl.demo.render import render

RATE_HZ = 44100
FRAMES_PER_S = RATE_HZ / 4 / HOP
SEED = 31


def _print(samples: NDArray[np.float32]) -> Fingerprint:
    spectra = SpectrumMeter(RATE_HZ)
    meter = FingerprintMeter(spectra.rate_hz)
    meter.push(spectra.push(samples.mean(axis=0)))
    meter.push(spectra.finish())
    return meter.finish()


@pytest.fixture(scope="module")
def song() -> NDArray[np.float32]:
    return render(fresh_score(SEED))


@pytest.fixture(scope="module")
def other() -> NDArray[np.float32]:
    return render(fresh_score(SEED + 1))


def test_gain_noise_and_silence_leave_it_the_same(song: NDArray[np.float32]) -> None:
    original = _print(song)
    noise = 0.002 * np.random.default_rng(0).standard_normal(song.shape).astype(np.float32)
    silence = np.zeros((2, round(1.7 * RATE_HZ)), np.float32)
    for changed, offset_s in ((0.2 * song, 0.0), (song + noise, 0.0), (np.hstack([silence, song]), 1.7)):
        match = compare(original, _print(changed), FRAMES_PER_S)
        assert match.relation == "same" and match.offset_s == pytest.approx(offset_s, abs=0.06)
        back = compare(_print(changed), original, FRAMES_PER_S)
        assert back.relation == "same" and back.offset_s == pytest.approx(-offset_s, abs=0.06)


def test_a_shortened_track_is_an_edit_with_its_offset(song: NDArray[np.float32]) -> None:
    original, length = _print(song), song.shape[1]
    late = compare(original, _print(song[:, 20 * RATE_HZ :]), FRAMES_PER_S)
    assert late.relation == "edit" and late.offset_s == pytest.approx(-20.0, abs=0.06)
    cut = np.hstack([song[:, : int(0.4 * length)], song[:, int(0.6 * length) :]])
    assert compare(original, _print(cut), FRAMES_PER_S).relation == "edit"


def test_another_voice_over_the_same_backing_is_not_the_same(song: NDArray[np.float32]) -> None:
    score = fresh_score(SEED)
    instrumental = render(replace(score, notes=tuple(note for note in score.notes if note.bus != "lead")))
    assert compare(_print(song), _print(instrumental), FRAMES_PER_S).relation == "same backing"
    lead = song - instrumental
    sounding = np.abs(lead).max(axis=0) > 1e-3
    gain = 10 ** (-27 / 20) * np.linalg.norm(instrumental[:, sounding]) / np.linalg.norm(lead[:, sounding])
    hardly_heard = instrumental + np.float32(gain) * lead
    assert compare(_print(hardly_heard), _print(instrumental), FRAMES_PER_S).relation == "same backing"


def test_other_songs_are_different(song: NDArray[np.float32], other: NDArray[np.float32]) -> None:
    assert compare(_print(song), _print(other), FRAMES_PER_S).relation == "different"
    short = _print(song[:, :RATE_HZ])
    assert compare(short, short, FRAMES_PER_S).relation == "different", "a second is too little to tell"


def test_the_index_gives_what_looking_at_all_gives(song: NDArray[np.float32]) -> None:
    random = np.random.default_rng(4)
    mono = song.mean(axis=0)[: 60 * RATE_HZ]
    mine = describe(onsets(mono, RATE_HZ), chroma(mono, RATE_HZ), None, 60.0)
    many = random.standard_normal((3000, SIZE)).astype(np.float32) / np.sqrt(SIZE / 3)
    many[1234] = mine + 0.01 * random.standard_normal(SIZE)
    found = DescriptorIndex(np.arange(3000) + 7, many).nearest(mine, 5)
    assert found[0][0] == 1234 + 7
    assert [likeness for _, likeness in found] == sorted((likeness for _, likeness in found), reverse=True)
    assert DescriptorIndex(np.zeros(0, np.int64), np.zeros((0, SIZE))).nearest(mine, 5) == []
