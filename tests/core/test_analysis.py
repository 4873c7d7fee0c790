"""The analysis against signals whose answer is known."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.signals import RATE_HZ, chord_tone, drum_loop
from vinyl.core.analysis import analyse
from vinyl.core.errors import AnalysisError
from vinyl.core.loudness.bs1770 import integrated_lufs, sample_peak_db
from vinyl.core.tonal.key import TONICS, fitting_keys, parse_key
from vinyl.core.waveform.summary import HOP, MAGIC, pack


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


@pytest.mark.parametrize(("tonic", "mode"), [(0, "major"), (9, "minor"), (6, "major"), (2, "minor"), (10, "major"), (8, "minor")])
def test_a_cadence_gives_its_key(tonic: int, mode: str) -> None:
    third = 4 if mode == "major" else 3
    degrees = [(0, third, 7), (5, 5 + third, 12), (7, 11, 14), (0, third, 7)]
    chords = [chord_tone(tuple(48 + tonic + d for d in (degree[0] - 12, *degree)), 2.0) for degree in degrees * 3]
    samples = 0.3 * np.concatenate(chords).astype(np.float32)
    found = analyse(np.stack([samples, samples])).key
    assert str(found.key) == f"{TONICS[tonic]} {mode}"
    assert abs(found.tuning_cents) < 8


def test_keys_that_fit() -> None:
    assert {str(key) for key in fitting_keys(parse_key("A minor"))} == {"A minor", "E minor", "D minor", "C major"}
    assert parse_key("C# minor") == parse_key("Db minor")
    with pytest.raises(ValueError, match="is not a key"):
        parse_key("H minor")


@pytest.mark.parametrize("kind", ["sine", "noise", "gated"])
def test_loudness_agrees_with_ffmpeg(kind: str) -> None:
    t = np.arange(20 * RATE_HZ) / RATE_HZ
    random = np.random.default_rng(1)
    mono = {"sine": 0.1 * np.sin(2 * np.pi * 997 * t), "noise": 0.05 * random.standard_normal(len(t)),
            "gated": 0.2 * random.standard_normal(len(t)) * (t % 5 < 2)}[kind]  # fmt: skip
    samples = np.stack([mono, 0.5 * mono]).astype(np.float32)
    ours = integrated_lufs(samples, RATE_HZ)
    assert ours == pytest.approx(_ffmpeg_lufs(samples), abs=0.1)


def test_a_full_scale_sine_is_at_zero() -> None:
    mono = np.sin(2 * np.pi * 997 * np.arange(5 * RATE_HZ) / RATE_HZ).astype(np.float32)
    assert integrated_lufs(np.stack([mono, mono]), RATE_HZ) == pytest.approx(0.0, abs=0.1)
    assert sample_peak_db(np.stack([mono, mono])) == pytest.approx(0.0, abs=0.01)


def _ffmpeg_lufs(samples: np.ndarray) -> float:
    graph = av.filter.Graph()
    source = graph.add_abuffer(sample_rate=RATE_HZ, format="fltp", layout="stereo", time_base=Fraction(1, RATE_HZ))
    meter = graph.add("ebur128", "metadata=1")
    sink = graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout="stereo")
    frame.sample_rate, frame.pts = RATE_HZ, 0
    graph.push(frame)
    graph.push(None)
    last = 0.0
    while True:
        try:
            last = float(graph.pull().metadata["lavfi.r128.I"])
        except (av.error.EOFError, av.error.BlockingIOError):
            return last


def _hard(name: str) -> np.ndarray:
    random = np.random.default_rng(0)
    signals = {
        "silence": np.zeros(RATE_HZ * 8), "noise": random.standard_normal(RATE_HZ * 8) * 0.1, "sine": np.sin(np.arange(RATE_HZ * 8) * 0.06),
        "constant": np.ones(RATE_HZ * 8), "short": np.ones(RATE_HZ * 3 // 4),
        "clipped": np.clip(random.standard_normal(RATE_HZ * 8) * 9, -1, 1),
        "one click": np.eye(1, RATE_HZ * 8, 999)[0],
    }  # fmt: skip
    return np.stack([signals[name]] * 2).astype(np.float32)


@pytest.mark.parametrize("name", ["silence", "noise", "sine", "constant", "clipped", "short", "one click"])
def test_hard_signals_give_sane_and_doubtful_results(name: str) -> None:
    result = analyse(_hard(name))
    if result.grid is not None:
        assert 30 <= result.grid.tempo_map.bpm <= 300
        assert result.grid.doubt >= 0.3, "there is no beat in this"
        assert result.grid.reasons
    assert 0 <= result.key.confidence <= 1
    assert result.waveform.peak.shape == result.waveform.body.shape


def test_too_little_sound_is_refused() -> None:
    with pytest.raises(AnalysisError, match=r"only 0\.45 s"):
        analyse(np.zeros((2, int(0.45 * RATE_HZ)), np.float32))


def test_the_waveform_shows_an_attack_in_its_own_step() -> None:
    samples = np.zeros((2, RATE_HZ * 4), np.float32)
    samples[:, 100 * HOP + 5] = 1.0
    result = analyse(samples).waveform
    assert int(np.argmax(result.peak)) == 100
    assert pack(result)[:4] == MAGIC
    assert len(pack(result)) == 16 + 4 * len(result.peak)
