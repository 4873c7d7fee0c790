"""Tempo from the autocorrelation of the onset envelope."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from vinyl.core.rhythm.onset import OnsetEnvelopes

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# What is listened for, in so many steps of equal ratio (0.06 % each).
SLOWEST_BPM = 40.0
FASTEST_BPM = 250.0
TEMPI = 3200
# A log-normal prior (Ellis, 2007), fitted to music for dancing.
PRIOR_BPM = 125.0
PRIOR_OCTAVES = 0.62
# What is left of it outside of the window that the user gave, which is meant with so much play.
OUTSIDE = 0.05
WINDOW_PLAY = 0.01
# Beats after which a right tempo repeats, and what each has to say; three beats say little, for bars are of
# four.
COMB_WEIGHTS = ((1, 0.8), (2, 0.8), (3, 0.1), (4, 1.0), (8, 1.0), (16, 1.0), (32, 0.8))
# A runner-up lies at least so far away.
APART_OCTAVES = 0.06
# What a division by three takes from a tempo, against one by two.
TRIPLE_SAY = 2.0
# Levels are made even over 2 s and spreads over 6 s, with this share of the whole track's spread as a floor.
LEVEL_S = 2.0
SPREAD_S = 6.0
SPREAD_FLOOR = 0.3
# A period is sharpened within such a share of itself by asking so many beats, then closer by more.
SHARPENED = ((0.03, 8), (0.006, 32), (0.0015, 96))
# Frames (12 minutes) of which the autocorrelation is taken at once.
STRETCH = 131072

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class TempoEstimate:
    """The tempo in bpm, how clearly it won (0 to 1) over all but its octaves, the runner-up among those, and
    how well anything repeats at all.

    ``repetition`` is the mean autocorrelation after 1, 2 and 4 beats: above 0.2 in music with a beat,
    under 0.05 in noise. ``divisions`` is the same after a quarter of a beat and after half a beat.
    """

    bpm: float
    clarity: float
    second_bpm: float
    repetition: float
    divisions: tuple[float, float] = (0.0, 0.0)


def estimate_tempo(onsets: OnsetEnvelopes, window_bpm: tuple[float, float] | None = None) -> TempoEstimate:
    """The tempo whose multiples repeat best, weighed with a broad prior (after Ellis, 2007).

    ``window_bpm`` is the range the user expects; the octave is then chosen within it where possible.
    """
    envelope = accent_envelope(onsets)
    correlation = autocorrelation(envelope)
    tempi = np.geomspace(SLOWEST_BPM, FASTEST_BPM, TEMPI)
    strength = comb(correlation, 60.0 * onsets.rate_hz / tempi)
    score = strength * _duple_share(envelope, tempi / 60.0 / onsets.rate_hz) * _prior(tempi, window_bpm)
    best = int(np.argmax(score))
    away = np.log2(tempi / tempi[best])
    others = np.where(np.abs(away - np.rint(away)) > APART_OCTAVES, score, 0.0)
    second = int(np.argmax(others))
    clarity = float(np.clip(1.0 - others[second] / max(score[best], 1e-9), 0.0, 1.0))
    period = sharpen_period(correlation, 60.0 * onsets.rate_hz / tempi[best])
    repetition = float(_at(correlation, period * np.array([1.0, 2.0, 4.0])).mean())
    quarter, half = (float(value) for value in _at(correlation, period * np.array([0.25, 0.5])))
    bpm = 60.0 * onsets.rate_hz / period
    return TempoEstimate(bpm, clarity, float(tempi[second]), repetition, (quarter, half))


def accent_envelope(onsets: OnsetEnvelopes) -> FloatArray:
    """One envelope (frames,) out of three bands, each flattened in level over 2 s and of equal say."""
    total: FloatArray = np.sum(flattened(onsets), axis=0)
    return total


def flattened(onsets: OnsetEnvelopes) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The low, middle and high envelope (frames,), each flattened in level over 2 s."""
    low, mid, high = (_flatten(band, onsets.rate_hz) for band in (onsets.low, onsets.mid, onsets.high))
    return low, mid, high


def autocorrelation(envelope: FloatArray) -> FloatArray:
    """Autocorrelation (n,) of an envelope at lags in frames, 1 at lag 0, corrected for the shrinking overlap;
    of a long one the mean over its stretches, n being the length of one.
    """
    stretches = _stretches(envelope)
    size = stretches.shape[1]
    raw = np.zeros(size)
    for stretch in stretches:
        spectrum = scipy.fft.rfft(stretch, scipy.fft.next_fast_len(2 * size, real=True))
        raw += scipy.fft.irfft(np.abs(spectrum) ** 2)[:size]
    overlap = np.maximum(size - np.arange(size), size // 4)
    result: FloatArray = raw / overlap * size / max(raw[0], 1e-12)
    return result


def sharpen_period(correlation: FloatArray, period: float) -> float:
    """Refine a beat period in frames by asking that its multiples repeat in an autocorrelation (n,)."""
    for reach, beats in SHARPENED:
        beats = min(beats, int(len(correlation) / period) - 2)
        if beats < 4:
            break
        trial = period * np.linspace(1 - reach, 1 + reach, 61)
        lags = trial[:, None] * np.arange(1, beats + 1)[None, :]
        period = float(trial[np.argmax(_at(correlation, lags).sum(axis=1))])
    return period


def _flatten(band: NDArray[np.float32], rate_hz: float) -> FloatArray:
    level = uniform_filter1d(band.astype(np.float64), int(LEVEL_S * rate_hz), mode="nearest")
    power = uniform_filter1d(np.square(band - level), int(SPREAD_S * rate_hz), mode="nearest")
    spread = np.sqrt(np.maximum(power, 0.0))
    overall = float(np.std(band))
    raised: FloatArray = np.maximum(band - level, 0.0) / (spread + SPREAD_FLOOR * overall + 1e-9)
    return raised


def comb(correlation: FloatArray, periods: FloatArray) -> FloatArray:
    """How well an autocorrelation (n,) repeats at the multiples of beat periods (m,) in frames, (m,)."""
    total = np.zeros(len(periods))
    for multiple, weight in COMB_WEIGHTS:
        total += weight * np.maximum(_at(correlation, periods * multiple), 0.0)
    return total


def _duple_share(envelope: FloatArray, frequencies: FloatArray) -> FloatArray:
    """How far the beat divides by two rather than by three, for beats at these frequencies (cycles a frame).

    A tempo that is two thirds or four thirds of the true one sees the true eighths as triplets.
    """
    stretches = _stretches(envelope)
    size = scipy.fft.next_fast_len(2 * stretches.shape[1], real=True)
    spectrum = np.zeros(size // 2 + 1)
    for stretch in stretches:
        spectrum += uniform_filter1d(np.abs(scipy.fft.rfft(stretch, size)), 5)
    duple = _at(spectrum, 2 * frequencies * size) + _at(spectrum, 4 * frequencies * size)
    triple = _at(spectrum, 3 * frequencies * size)
    result: FloatArray = (duple + 1e-9) / (duple + TRIPLE_SAY * triple + 1e-9)
    return result


def _stretches(envelope: FloatArray) -> FloatArray:
    """An envelope (n,) less its mean in equal stretches (m, frames), for the sake of long mixes."""
    count = -(-len(envelope) // STRETCH)
    frames = -(-len(envelope) // count)
    stretches: FloatArray = np.pad(envelope - envelope.mean(), (0, count * frames - len(envelope)))
    return stretches.reshape(count, frames)


def _at(values: FloatArray, index: FloatArray) -> FloatArray:
    clipped = np.clip(index, 0, len(values) - 2)
    whole = clipped.astype(np.int64)
    part = clipped - whole
    result: FloatArray = values[whole] * (1 - part) + values[whole + 1] * part
    return result


def _prior(tempi: FloatArray, window_bpm: tuple[float, float] | None) -> FloatArray:
    prior: FloatArray = np.exp(-0.5 * (np.log2(tempi / PRIOR_BPM) / PRIOR_OCTAVES) ** 2)
    if window_bpm is None:
        return prior
    return np.where(within(tempi, window_bpm), 1.0, OUTSIDE * prior)


def within(tempi: FloatArray, window_bpm: tuple[float, float]) -> NDArray[np.bool_]:
    """Which of some tempi (n,) the user's range means."""
    low, high = window_bpm
    inside: NDArray[np.bool_] = (tempi >= low * (1 - WINDOW_PLAY)) & (tempi <= high * (1 + WINDOW_PLAY))
    return inside
