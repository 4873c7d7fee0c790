"""What one of two recordings has and the other has not is told from what an encoder does to it."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from vinyl.core.likeness.residual import RATE_HZ, Spectra, SpectraMeter, difference, find_lag

LENGTH_S = 40
Signal = NDArray[np.float32]


def _backing() -> Signal:
    """Chords with attacks over noise that falls towards the top."""
    random = np.random.default_rng(3)
    time_s = np.arange(LENGTH_S * RATE_HZ) / RATE_HZ
    noise = np.cumsum(random.standard_normal(len(time_s))) * 0.002
    noise -= np.convolve(noise, np.ones(400) / 400, "same")
    chord = sum(np.sin(2 * np.pi * hz * time_s) for hz in (110, 220, 277, 330))
    signal: Signal = (0.1 * chord * np.exp(-4 * (time_s % 0.5)) + noise).astype(np.float32)
    return signal


def _voice(from_s: float, to_s: float) -> Signal:
    """A voice that sings meanwhile, as loud as the backing."""
    time_s = np.arange(LENGTH_S * RATE_HZ) / RATE_HZ
    pitch = 300 + 20 * np.sin(2 * np.pi * 0.7 * time_s)
    phase = 2 * np.pi * np.cumsum(pitch) / RATE_HZ
    sung = sum(np.sin(k * phase) / k for k in range(1, 9)) * ((time_s >= from_s) & (time_s < to_s))
    voice: Signal = (sung * np.linalg.norm(_backing()) / np.sqrt(len(time_s)) / 0.9).astype(np.float32)
    return voice


def _coded(signal: Signal, noise_db: float = -22.0) -> Signal:
    """A signal with noise under it that follows its spectrum, as an encoder leaves it."""
    random = np.random.default_rng(5)
    frames = signal[: len(signal) // 1024 * 1024].reshape(-1, 1024)
    spectra = np.fft.rfft(frames, axis=1)
    noise = random.standard_normal(spectra.shape) + 1j * random.standard_normal(spectra.shape)
    level = np.sqrt(uniform_filter1d(np.abs(spectra) ** 2, 16, axis=1))
    spectra += 10 ** (noise_db / 20) * level * noise / np.sqrt(2)
    coded: Signal = np.fft.irfft(spectra, 1024, axis=1).reshape(-1).astype(np.float32)
    return coded


def _difference(first: Signal, second: Signal, block: int = 50_000) -> float:
    meter = SpectraMeter()
    length = min(len(first), len(second))
    for start in range(0, length, block):
        end = min(start + block, length)
        meter.push(first[start:end], second[start:end])
    return difference(meter.finish())


def test_an_encoder_a_gain_an_equalizer_and_turned_polarity_are_no_difference() -> None:
    backing = _backing()
    duller = np.convolve(backing, [0.25, 0.5, 0.25], "same").astype(np.float32)
    for other in (0.3 * backing, _coded(backing), duller, 0.5 * _coded(duller), -backing):
        assert _difference(backing, other) < 0.75
    assert _difference(backing, backing) < 1e-5


@pytest.mark.parametrize(("from_s", "to_s", "level_db"), [(0, 40, -12), (10, 18, -21), (20, 22.6, -15)])
def test_a_voice_stands_out_wherever_it_is(from_s: float, to_s: float, level_db: float) -> None:
    backing = _backing()
    voiced = _coded(backing + 10 ** (level_db / 20) * _voice(from_s, to_s))
    assert _difference(backing, voiced) > 1.0
    assert _difference(voiced, backing) > 1.0


def test_a_word_that_is_silenced_stands_out() -> None:
    song = _backing() + _voice(5, 35)
    clean, backing = song.copy(), _backing()
    for at_s, told in ((20.3, 1.0), (28.7, 1.5)):
        at = round(at_s * RATE_HZ)
        clean[at : at + RATE_HZ // 2] = backing[at : at + RATE_HZ // 2]
        assert _difference(song, _coded(clean)) >= told, "a single one is left to be listened to"


def _spectra(noise: float, band: int) -> Spectra:
    """Two recordings with a loud band beside a quiet one, and noise in one band of the second for a while."""
    first = np.full((60, 13), 1e-4)
    first[:, 5], first[:, 6] = 1.0, 0.02
    second, common = first.copy(), np.ones((60, 13))
    second[20:40, band] += noise
    common[20:40, band] = first[20:40, band] / second[20:40, band]
    return Spectra(first, second, common)


def test_what_is_masked_by_a_neighbouring_band_is_no_difference() -> None:
    assert difference(_spectra(0.04, 6)) < 0.75
    assert difference(_spectra(0.04, 12)) > 1.0, "far from what could mask it, it is heard"


def test_what_is_masked_by_a_blow_just_before_is_no_difference() -> None:
    first, common = np.full((60, 13), 0.01), np.ones((60, 13))
    first[30, 4] = 1.0
    second = first.copy()
    second[31, 4] += 0.05
    common[31, 4] = first[31, 4] / second[31, 4]
    assert difference(Spectra(first, second, common)) < 0.75
    common[31, 4], common[40, 4], second[40, 4] = 1.0, common[31, 4], second[31, 4]
    assert difference(Spectra(first, second, common)) == 1.0, "long after it, it is heard"


def test_two_that_do_not_run_side_by_side_are_never_told_apart_nor_sure() -> None:
    """As another transfer of a tape: each attack is where it was, but no wave lies on the other."""
    backing = _backing()
    waver = np.interp(
        np.arange(len(backing)) + 40 * np.sin(np.arange(len(backing)) / 9000),
        np.arange(len(backing)),
        backing,
    ).astype(np.float32)
    assert 0.75 < _difference(backing, waver) <= 1.0


@pytest.mark.parametrize("lag", [-700, 0, 3, 1999])
def test_a_lag_is_found_to_the_sample(lag: int) -> None:
    signal = _backing()[: 10 * RATE_HZ]
    silence = np.zeros(abs(lag), np.float32)
    later = _coded(np.concatenate([silence, signal]) if lag > 0 else signal[-lag:])
    assert find_lag(signal, later) == lag
    assert find_lag(signal, -later) == lag
    assert find_lag(signal[:100], later) == 0, "too short to tell"


def test_the_length_of_blocks_makes_no_difference() -> None:
    voiced = _backing() + 0.1 * _voice(10, 18)
    assert _difference(_backing(), voiced, 777) == pytest.approx(_difference(_backing(), voiced), rel=1e-3)


def test_silence_and_what_is_too_short_tell_nothing() -> None:
    silence = np.zeros(20 * RATE_HZ, np.float32)
    assert _difference(silence, silence) == 0.0
    assert _difference(_backing()[:RATE_HZ], silence) == 0.0
    assert difference(SpectraMeter().finish()) == 0.0
