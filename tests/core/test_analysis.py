"""The analysis against signals whose answer is known."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.signals import RATE_HZ, chord_tone, drum_loop
from vinyl.core.analysis import analyse, analyse_blocks
from vinyl.core.errors import AnalysisError
from vinyl.core.tonal.key import TONICS
from vinyl.core.waveform.summary import HOP, MAGIC, pack, unpack_onsets


@settings(max_examples=10, deadline=None)
@given(st.floats(84, 174), st.floats(0.0, 2.0), st.integers(0, 100), st.sampled_from((3, 4)))
def test_a_drum_loop_gives_its_own_grid(bpm: float, first_s: float, seed: int, metre: int) -> None:
    found = analyse(drum_loop(bpm, first_s, 60.0, metre, seed), (0.75 * bpm, 1.4 * bpm)).grid
    assert found is not None
    assert found.tempo_map.bpm == pytest.approx(bpm, abs=0.02)
    assert found.tempo_map.beats_per_bar == metre
    bar_s = metre * 60 / bpm
    off = (found.tempo_map.anchors[0].time_s - first_s + bar_s / 2) % bar_s - bar_s / 2
    assert abs(off) < 0.006, f"the first bar start is {off * 1000:.1f} ms off"
    assert found.doubt < 0.9


def test_gain_silence_and_channels_change_nothing() -> None:
    plain = drum_loop(127.3, 0.5, 40.0)
    first = analyse(plain)
    assert first.grid is not None
    silence = np.zeros((2, RATE_HZ), np.float32)
    for changed, later_s in ((0.2 * plain, 0.0), (plain[:1], 0.0), (np.hstack([silence, plain]), 1.0)):
        again = analyse(np.ascontiguousarray(changed))
        assert again.grid is not None
        beats = first.grid.tempo_map.time_at(np.arange(4, 70)) + later_s
        nearest = again.grid.tempo_map.time_at(np.rint(again.grid.tempo_map.beat_at(beats)))
        assert np.abs(nearest - beats).max() < 0.003
        assert again.key.key == first.key.key


def test_the_expected_window_settles_the_octave() -> None:
    loop = drum_loop(87.0, 0.0, 40.0)
    slow, fast = (analyse(loop, window).grid for window in ((70, 100), (150, 200)))
    assert slow is not None and fast is not None
    assert slow.tempo_map.bpm == pytest.approx(87.0, abs=0.05)
    assert fast.tempo_map.bpm == pytest.approx(174.0, abs=0.1)


@pytest.mark.parametrize(
    ("tonic", "mode"), [(0, "major"), (9, "minor"), (6, "major"), (2, "minor"), (10, "major"), (8, "minor")]
)
def test_a_cadence_gives_its_key(tonic: int, mode: str) -> None:
    third = 4 if mode == "major" else 3
    degrees = [(0, third, 7), (5, 5 + third, 12), (7, 11, 14), (0, third, 7)]
    chords = [
        chord_tone(tuple(48 + tonic + d for d in (degree[0] - 12, *degree)), 2.0) for degree in degrees * 3
    ]
    samples = 0.3 * np.concatenate(chords).astype(np.float32)
    found = analyse(np.stack([samples, samples])).key
    assert str(found.key) == f"{TONICS[tonic]} {mode}"
    assert abs(found.tuning_cents) < 8


def _hard(name: str) -> np.ndarray:
    random = np.random.default_rng(0)
    signals = {
        "silence": np.zeros(RATE_HZ * 8),
        "noise": random.standard_normal(RATE_HZ * 8) * 0.1,
        "sine": np.sin(np.arange(RATE_HZ * 8) * 0.06),
        "constant": np.ones(RATE_HZ * 8),
        "short": np.ones(RATE_HZ * 3 // 4),
        "clipped": np.clip(random.standard_normal(RATE_HZ * 8) * 9, -1, 1),
        "one click": np.eye(1, RATE_HZ * 8, 999)[0],
        "not numbers": np.where(np.arange(RATE_HZ * 8) % 999, 0.1, np.nan),
        "huge": random.standard_normal(RATE_HZ * 8) * 1e30,
        "speech": _speech(random),
        "slow noise": np.cumsum(random.standard_normal(RATE_HZ * 8)) / 900,
    }
    return np.stack([signals[name]] * 2).astype(np.float32)


def _speech(random: np.random.Generator) -> np.ndarray:
    """Syllables of uneven length and pitch."""
    parts = []
    while sum(map(len, parts)) < RATE_HZ * 8:
        t = np.arange(int(random.uniform(0.08, 0.4) * RATE_HZ)) / RATE_HZ
        voice = sum(np.sin(2 * np.pi * k * random.uniform(90, 180) * t) / k for k in range(1, 12))
        parts += [0.1 * voice * np.sin(np.pi * t / t[-1]), np.zeros(int(random.uniform(0.02, 0.5) * RATE_HZ))]
    return np.concatenate(parts)[: RATE_HZ * 8]


@pytest.mark.parametrize(
    "name",
    [
        "silence",
        "noise",
        "sine",
        "constant",
        "clipped",
        "short",
        "one click",
        "not numbers",
        "huge",
        "speech",
        "slow noise",
    ],
)
def test_hard_signals_give_sane_and_doubtful_results(name: str) -> None:
    result = analyse(_hard(name))
    if result.grid is not None:
        assert 30 <= result.grid.tempo_map.bpm <= 300
        assert result.grid.doubt >= 0.3, "there is no beat in this"
        assert result.grid.reasons
    assert 0 <= result.key.confidence <= 1
    assert 0 <= result.energy.value <= 100
    assert all(
        np.isfinite(value) for value in (result.key.tuning_cents, result.duration_s, *result.descriptor)
    )


def test_pieces_of_any_length_give_what_the_whole_gives() -> None:
    whole = drum_loop(124.0, 0.4, 40.0)
    cuts = [0, 1, 700, 262_144, 300_001, 900_000, whole.shape[1]]
    one, other = analyse(whole), analyse_blocks(whole[:, a:b] for a, b in pairwise(cuts))
    assert one.grid is not None and other.grid is not None
    assert other.grid.tempo_map.anchors == one.grid.tempo_map.anchors
    assert (other.key.key, other.loudness, other.true_peak_db, other.energy) == (
        one.key.key,
        one.loudness,
        one.true_peak_db,
        one.energy,
    )
    assert np.array_equal(other.fingerprint, one.fingerprint)
    assert pack(other.waveform) == pack(one.waveform)


def test_energy_never_falls_when_a_track_is_turned_up() -> None:
    loop = drum_loop(126.0, 0.0, 30.0)
    values = [analyse((gain * loop).astype(np.float32)).energy.value for gain in (0.02, 0.1, 0.3, 1.0)]
    assert values == sorted(values)
    assert values[-1] - values[0] >= 10
    hum = 0.3 * np.stack([chord_tone((45, 52), 30.0)] * 2).astype(np.float32)
    assert analyse(hum).energy.value < values[-1] - 10, "a drone drives less than drums"


def test_too_little_sound_is_refused() -> None:
    with pytest.raises(AnalysisError, match=r"only 0\.45 s"):
        analyse(np.zeros((2, int(0.45 * RATE_HZ)), np.float32))


def test_the_waveform_shows_an_attack_in_its_own_step() -> None:
    samples = np.zeros((2, RATE_HZ * 4), np.float32)
    samples[:, 100 * HOP + 5] = 1.0
    result = analyse(samples).waveform
    finest, *coarser = result.levels
    assert int(np.argmax(finest.peak)) == 100
    for level in coarser:
        assert int(np.argmax(level.peak)) == 100 * HOP // level.hop
    assert pack(result)[:4] == MAGIC
    sizes = [8 + 3 * len(level.peak) for level in result.levels]
    points = len(result.onset_times.times_s)
    assert len(pack(result)) == 12 + sum(sizes) + 2 * len(finest.peak) + 4 + 6 * points
    stored = unpack_onsets(pack(result))
    assert points == 1 and stored.onset_times.times_s[0] == pytest.approx(
        (100 * HOP + 5) / RATE_HZ, abs=0.0015
    )
    assert np.array_equal(stored.low, result.onset_low) and stored.rate_hz == RATE_HZ / HOP
