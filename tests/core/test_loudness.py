"""Loudness against FFmpeg's own meter."""

from __future__ import annotations

import math
from fractions import Fraction

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from tests.signals import RATE_HZ
from vinyl.core.loudness.bs1770 import gain_db, measure_loudness
from vinyl.core.loudness.peak import true_peak_db


def _signal(kind: str) -> NDArray[np.float32]:
    t = np.arange(20 * RATE_HZ) / RATE_HZ
    noise = np.random.default_rng(1).standard_normal(len(t))
    mono = {
        "sine": 0.1 * np.sin(2 * np.pi * 997 * t),
        "noise": 0.05 * noise,
        "gated": 0.2 * noise * (t % 5 < 2),
        "swelling": noise * 0.3 * (t / 20) ** 2,
        "between samples": 0.9 * np.sin(2 * np.pi * RATE_HZ / 4 * t + np.pi / 4),
    }[kind]
    mono = mono * np.minimum(1.0, t / 0.1)
    return np.stack([mono, 0.5 * mono]).astype(np.float32)


@pytest.mark.parametrize("kind", ["sine", "noise", "gated", "swelling", "between samples"])
def test_loudness_range_and_true_peak_agree_with_ffmpeg(kind: str) -> None:
    samples = _signal(kind)
    ours, theirs = measure_loudness(samples, RATE_HZ), _ffmpeg(samples)
    assert ours.integrated_lufs == pytest.approx(theirs["I"], abs=0.1)
    assert ours.range_lu == pytest.approx(theirs["LRA"], abs=0.1)
    assert true_peak_db(samples) == pytest.approx(theirs["peak_db"], abs=0.2)


def test_silence_has_no_loudness_and_no_peak() -> None:
    silence = np.zeros((2, RATE_HZ), np.float32)
    assert measure_loudness(silence, RATE_HZ).integrated_lufs is None
    assert true_peak_db(silence) is None


def test_gain_stops_at_the_ceiling() -> None:
    assert gain_db(-12.0, -6.0, -14.0) == -2.0
    assert gain_db(-18.0, -3.0, -14.0) == 2.0, "the true peak would pass -1 dB"


def _ffmpeg(samples: NDArray[np.float32]) -> dict[str, float]:
    graph = av.filter.Graph()
    source = graph.add_abuffer(
        sample_rate=RATE_HZ, format="fltp", layout="stereo", time_base=Fraction(1, RATE_HZ)
    )
    meter, sink = graph.add("ebur128", "metadata=1:peak=true"), graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout="stereo")
    frame.sample_rate, frame.pts = RATE_HZ, 0
    graph.push(frame)
    graph.push(None)
    last: dict[str, str] = {}
    while True:
        try:
            last.update(sink.pull().metadata)
        except (av.error.EOFError, av.error.BlockingIOError):
            break
    peak = max(float(value) for name, value in last.items() if "true_peak" in name)
    return {
        "I": float(last["lavfi.r128.I"]),
        "LRA": float(last["lavfi.r128.LRA"]),
        "peak_db": 20 * math.log10(peak),
    }
