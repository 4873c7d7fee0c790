"""What is heard in a recording stays the same in any format, at any rate, gain and number of channels."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import pytest
import scipy.io.wavfile
from hypothesis import example, given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.signal import resample_poly

from tests.signals import RATE_HZ, chord_tone, drums_on
from vinyl.core.analysis import Analysis, analyse, analyse_blocks
from vinyl.media.decode import decode_blocks
from vinyl.media.encode import ENCODINGS, encode

CADENCE = ((50, 62, 65, 69), (43, 62, 67, 70), (45, 61, 64, 69), (50, 62, 65, 69))
RATES_HZ = (22050, 32000, 44100, 48000, 96000, 192000)


@cache
def _heard(bpm: float) -> tuple[NDArray[np.float32], Analysis]:
    """Drums and a cadence in D minor, half a minute of it, and its analysis."""
    beat_s = 60.0 / bpm
    loop = 0.4 * drums_on(0.4 + np.arange(int(29.6 / beat_s)) * beat_s, 30.0, chords=False)
    for bar in range(int(28.0 / (4 * beat_s))):
        start = round((0.4 + 4 * bar * beat_s) * RATE_HZ)
        chord = chord_tone(CADENCE[bar % 4], 4 * beat_s)[: loop.shape[1] - start]
        loop[:, start : start + len(chord)] += 0.1 * chord.astype(np.float32)
    return loop, analyse(loop)


def _assert_same(one: Analysis, other: Analysis, later_s: float = 0.0) -> None:
    assert one.grid is not None and other.grid is not None
    beats_s = one.grid.tempo_map.beats_between(1.0, 29.0) + later_s
    found = other.grid.tempo_map
    strays = np.abs(found.time_at(np.rint(found.beat_at(beats_s))) - beats_s)
    assert strays.max() < 0.003, f"beats stray by {1000 * strays.max():.1f} ms"
    assert other.key.key == one.key.key


@settings(max_examples=12, deadline=None)
@given(
    st.sampled_from((97.0, 124.0, 141.3)),
    st.sampled_from(tuple(ENCODINGS)),
    st.floats(0.1, 1.5),
    st.floats(0.0, 2.0),
)
def test_formats_gain_and_silence_change_nothing(
    tmp_path_factory: pytest.TempPathFactory, bpm: float, form: str, gain: float, silence_s: float
) -> None:
    loop, plain = _heard(bpm)
    silence = np.zeros((2, round(silence_s * RATE_HZ)), np.float32)
    path = tmp_path_factory.mktemp("formats") / f"loop{ENCODINGS[form].suffix}"
    encode(np.hstack([silence, np.float32(gain) * loop]), RATE_HZ, path, form)
    _assert_same(plain, analyse_blocks(decode_blocks(path, RATE_HZ)), silence.shape[1] / RATE_HZ)


@settings(max_examples=8, deadline=None)
@given(
    st.sampled_from((97.0, 124.0, 141.3)),
    st.sampled_from(RATES_HZ),
    st.sampled_from((1, 2, 6)),
    st.floats(0.1, 1.5),
)
@example(124.0, 8000, 2, 1.0)
def test_rates_and_channels_change_nothing(
    tmp_path_factory: pytest.TempPathFactory, bpm: float, rate_hz: int, channels: int, gain: float
) -> None:
    loop, plain = _heard(bpm)
    common = np.gcd(rate_hz, RATE_HZ)
    mono = resample_poly(np.float32(gain) * loop[0], rate_hz // common, RATE_HZ // common)
    path: Path = tmp_path_factory.mktemp("rates") / "loop.wav"
    scipy.io.wavfile.write(path, rate_hz, np.repeat(mono[:, None], channels, axis=1).astype(np.float32))
    _assert_same(plain, analyse_blocks(decode_blocks(path, RATE_HZ)))
