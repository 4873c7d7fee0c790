"""The analysis against signals whose answer is known."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from tests.signals import RATE_HZ, chord_tone, drum_loop
from vinyl.core.analysis import analyse, analyse_blocks
from vinyl.core.errors import AnalysisError
from vinyl.core.tonal.key import TONICS, Key
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


def test_energy_is_that_of_the_music_and_not_of_the_file() -> None:
    """Gain, a mono mix and a lost top change nothing; a drone drives less than drums."""
    loop = drum_loop(126.0, 0.0, 30.0)
    loop[1] *= 0.6
    value = analyse(loop).energy.value
    mono = np.repeat(loop.mean(axis=0, keepdims=True), 2, axis=0)
    for other in (0.02 * loop, 0.3 * loop, mono, _dull(loop)):
        assert abs(analyse(other.astype(np.float32)).energy.value - value) <= 1
    hum = 0.3 * np.stack([chord_tone((45, 52), 30.0)] * 2).astype(np.float32)
    assert analyse(hum).energy.value < value - 10
    assert analyse(np.zeros((2, RATE_HZ * 5), np.float32)).energy.value == 0


def _dull(samples: np.ndarray) -> np.ndarray:
    """12 dB softer and without what lies above 8 kHz."""
    low = butter(8, 8000.0, fs=RATE_HZ, output="sos")
    dull: np.ndarray = (0.25 * sosfilt(low, samples, axis=1)).astype(np.float32)
    return dull


@pytest.mark.parametrize("gain_db", [0, -12, -30])
def test_a_quiet_and_dull_copy_has_the_grid_and_key_of_the_loud_one(gain_db: int) -> None:
    samples = _piece()
    one = analyse(samples)
    other = analyse((_dull(samples) * 10 ** (gain_db / 20)).astype(np.float32))
    assert one.grid is not None and other.grid is not None
    beats, again = (each.grid.tempo_map.beats_between(0, 60) for each in (one, other) if each.grid)
    assert len(beats) == len(again) and np.abs(beats - again).max() < 0.010
    assert other.key.key == one.key.key
    starts = [[section.start_s for section in each.structure.sections] for each in (one, other)]
    assert starts[0] == pytest.approx(starts[1], abs=0.02)


def _piece() -> np.ndarray:
    """64 s in A minor, 120 bpm: chords of a bar over drums, which rest for eight bars."""
    chords = [(45, 57, 60, 64), (41, 57, 60, 65), (43, 55, 59, 62), (40, 55, 59, 64)]
    bars = np.concatenate([chord_tone(chords[bar // 2 % 4], 2.0) for bar in range(32)])
    drums = drum_loop(120.0, 0.0, 64.0)[0, : len(bars)]
    drums[16 * 2 * RATE_HZ : 20 * 2 * RATE_HZ] = 0.0
    mixed = 0.2 * bars[: len(drums)] + 0.5 * drums
    return np.stack([mixed, mixed]).astype(np.float32)


@pytest.mark.parametrize("cut_bars", [1.5, 3.25, 8.5])
def test_the_key_does_not_depend_on_where_the_file_begins(cut_bars: float) -> None:
    """Phrases begin with a change of sound, wherever the file was cut."""
    samples = np.concatenate([_piece(), _piece()], axis=1)
    cut = samples[:, round(cut_bars * 2 * RATE_HZ) :]
    assert analyse(samples).key.key == analyse(cut).key.key == Key(9, "minor")


@pytest.mark.parametrize("seed", range(6))
def test_any_sound_ends_in_a_result(seed: int) -> None:
    """Clicks without order, noise that swells, tones that jump: never an error, whatever is computed."""
    random = np.random.default_rng(seed)
    samples = 0.01 * random.standard_normal((2, 12 * RATE_HZ))
    for at_s in np.sort(random.uniform(0, 12, 10 + 60 * seed)):
        at = int(at_s * RATE_HZ)
        samples[:, at : at + 400] += random.uniform(0.1, 2.0)
    result = analyse((samples * random.uniform(0.01, 3)).astype(np.float32))
    assert result.grid is None or (30 <= result.grid.tempo_map.bpm <= 300 and 0 <= result.grid.doubt <= 1)


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
