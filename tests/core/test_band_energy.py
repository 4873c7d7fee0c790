"""What one of two recordings has and the other has not is told from what an encoder does to it."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from vinyl.core.likeness.band_energy import RATE_HZ, BandMeter, Energies, difference

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


def _energies(signal: Signal, skip: int = 0, block: int = 50_000) -> Energies:
    meter = BandMeter(skip)
    for start in range(0, len(signal), block):
        meter.push(signal[start : start + block])
    return meter.finish()


def test_an_encoder_a_gain_and_an_equalizer_are_no_difference() -> None:
    backing = _backing()
    duller = np.convolve(backing, [0.25, 0.5, 0.25], "same").astype(np.float32)
    for other in (0.3 * backing, _coded(backing), duller, 0.5 * _coded(duller)):
        assert difference(_energies(backing), _energies(other)) < 0.75
    assert difference(_energies(backing), _energies(backing)) == 0.0


@pytest.mark.parametrize(("from_s", "to_s", "level_db"), [(0, 40, -12), (10, 18, -18), (20, 20.6, -6)])
def test_a_voice_stands_out_wherever_it_is(from_s: float, to_s: float, level_db: float) -> None:
    backing = _backing()
    voiced = _coded(backing + 10 ** (level_db / 20) * _voice(from_s, to_s))
    assert difference(_energies(backing), _energies(voiced)) > 1.0
    assert difference(_energies(voiced), _energies(backing)) > 1.0


def test_a_word_that_is_silenced_stands_out() -> None:
    song = _backing() + _voice(5, 35)
    clean = song.copy()
    at = round(20.3 * RATE_HZ)
    clean[at : at + RATE_HZ // 2] = _backing()[at : at + RATE_HZ // 2]
    assert difference(_energies(song), _energies(_coded(clean))) > 1.0


def test_what_neighbouring_bands_mask_is_no_difference() -> None:
    first = np.full((60, 15), 1e-4, np.float32)
    first[:, 5], first[:, 6] = 1.0, 0.02
    noisy = first.copy()
    noisy[20:40, 6] += 0.04
    assert difference(first, noisy) < 0.75
    far = first.copy()
    far[20:40, 12] += 0.04
    assert difference(first, far) > 1.0, "far from what could mask it, it is heard"


def test_blocks_and_what_is_skipped_make_no_difference() -> None:
    signal = _backing()
    assert np.allclose(_energies(signal), _energies(signal, block=777), rtol=1e-4)
    later = np.concatenate([np.zeros(7000, np.float32), signal])
    assert difference(_energies(signal), _energies(later, skip=7000)) < 0.01
    assert difference(_energies(signal), _energies(later)) > 0.3, "beside each other they do not lie"


def test_silence_and_what_is_too_short_tell_nothing() -> None:
    silence = np.zeros(20 * RATE_HZ, np.float32)
    assert difference(_energies(silence), _energies(silence)) == 0.0
    assert difference(_energies(_backing()[:RATE_HZ]), _energies(silence)) == 0.0
    assert _energies(silence[:0]).shape == (0, 15)
