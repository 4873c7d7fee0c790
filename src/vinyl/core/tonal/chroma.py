"""Chroma from spectral peaks, with the tuning of the recording taken out."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from vinyl.core.spectrum import HOP, WINDOW, SpectrumMeter
from vinyl.core.tonal.profiles import KEYS, fit

AT_ONCE = 262144
# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

LOWEST_HZ = 50.0
HIGHEST_HZ = 2600.0
# Tones below A3 are the bass.
BASS_MIDI = 57.0
# Higher tones are mostly harmonics and cymbals: they count less and less between these two.
FADE_MIDI = (72.0, 84.0)
# A peak rises this far (in nepers of compressed magnitude) above the mean of so many bins around it.
LEAST_RISE = 0.6
FLOOR_BINS = 41
# The level that spectra are brought to (a sum of magnitudes), how it fades from frame to frame, and what is
# silence.
LEVEL = 18.0
LEVEL_FADE = 0.997
SILENCE = 1e-4
# A tone lasts if the frames beside it have this share of its rise.
LASTING_SHARE = 0.5
# How far a tone may lie from its pitch class and count: the standard deviation in semitones.
PITCH_SPREAD = 0.2
A4_HZ = 440.0
# A peak may be a harmonic of a tone below: semitones down to it, and how likely that is.
HARMONICS = ((0, 1.0), (19, 0.5), (28, 0.25))
# The tuning is that of lasting tones above this, if they agree so closely (length of the mean vector).
TUNING_FROM_MIDI = 50.0
LEAST_CONCENTRATION = 0.12
# Below that the tuning is searched for in such steps, and believed if it fits so much better than the worst
# one: drums alone reach 3.5, a club piece whose tuning no mean shows 7.8.
TUNING_STEP, STANDS_OUT = 0.1, 5.0
TUNINGS = np.arange(-0.5, 0.5 - 1e-9, TUNING_STEP)

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Chroma:
    """Pitch-class strength over time: ``bass`` and ``treble`` of shape (frames, 12), C first.

    ``tuning_cents`` is how far the recording lies from A4 = 440 Hz, -50 to 50; ``concentration`` (0 to 1) is
    how closely its lasting tones keep to that tuning: over 0.1 in music with pitches, under it in drums
    alone.
    """

    bass: FloatArray
    treble: FloatArray
    rate_hz: float
    tuning_cents: float
    concentration: float

    def between(self, start_s: float, end_s: float) -> Chroma:
        """The part from one time to another."""
        part = slice(round(start_s * self.rate_hz), round(end_s * self.rate_hz))
        return replace(self, bass=self.bass[part], treble=self.treble[part])


@dataclass(frozen=True, slots=True)
class _Peaks:
    frame: NDArray[np.int32]
    midi: NDArray[np.float32]
    strength: NDArray[np.float32]
    lasting: NDArray[np.bool_]


class ChromaMeter:
    """Chroma out of slow spectra (see vinyl.core.spectrum) that arrive in blocks, from interpolated peaks
    after Gomez (2006).
    """

    def __init__(self, rate_hz: float) -> None:
        self._rate_hz = rate_hz
        self._frames = 0
        self._loudest = 0.0
        self._peaks: list[_Peaks] = []

    def push(self, magnitudes: FloatArray) -> None:
        """Take the next frames (n, bins)."""
        self._peaks.append(_find_peaks(self._evened(magnitudes), self._rate_hz, self._frames))
        self._frames += len(magnitudes)

    def _evened(self, magnitudes: FloatArray) -> FloatArray:
        """Brought to one level by the loudest of the last half minute, so that a quiet recording is heard as
        a loud one is.
        """
        if not len(magnitudes):
            return magnitudes
        level = np.sqrt((magnitudes**2).mean(axis=1))
        fading = LEVEL_FADE ** np.arange(1, len(level) + 1)
        loud = np.maximum(
            np.maximum.accumulate(level / fading) * fading, (self._loudest or float(level.max())) * fading
        )
        self._loudest = float(loud[-1])
        evened: FloatArray = (magnitudes * (LEVEL / (loud + SILENCE))[:, None]).astype(np.float32)
        return evened

    def finish(self) -> Chroma:
        """The chroma of all that came."""
        peaks = _Peaks(
            *(np.concatenate([getattr(part, name) for part in self._peaks]) for name in _Peaks.__slots__)
        )
        tuning, concentration = _tuning(peaks)
        low = peaks.midi - tuning < BASS_MIDI
        return Chroma(
            bass=_pitch_classes(peaks, low, tuning, self._frames),
            treble=_pitch_classes(peaks, ~low, tuning, self._frames),
            rate_hz=self._rate_hz / HOP,
            tuning_cents=tuning * 100.0,
            concentration=concentration,
        )


def chroma(mono: FloatArray, rate_hz: int) -> Chroma:
    """Chroma of a whole mono signal (n,)."""
    spectra = SpectrumMeter(rate_hz)
    meter = ChromaMeter(spectra.rate_hz)
    for start in range(0, len(mono), AT_ONCE):
        meter.push(spectra.push(mono[start : start + AT_ONCE]))
    meter.push(spectra.finish())
    return meter.finish()


def _find_peaks(magnitudes: FloatArray, rate_hz: float, first_frame: int) -> _Peaks:
    """Peaks that stand above the spectrum's own floor, where drums and noise lie."""
    level = np.log1p(magnitudes)
    raised = level - uniform_filter1d(level, FLOOR_BINS, axis=1)
    first, last = (
        int(LOWEST_HZ * WINDOW / rate_hz),
        min(int(HIGHEST_HZ * WINDOW / rate_hz), level.shape[1] - 2),
    )
    centre, left, right = level[:, first:last], level[:, first - 1 : last - 1], level[:, first + 1 : last + 1]
    frame, column = np.nonzero((centre > left) & (centre >= right) & (raised[:, first:last] > LEAST_RISE))
    a, b, c = left[frame, column], centre[frame, column], right[frame, column]
    part = 0.5 * (a - c) / np.minimum(a - 2 * b + c, -1e-6)
    column = column + first
    rise = raised[frame, column]
    around = np.minimum(
        raised[np.maximum(frame - 1, 0), column], raised[np.minimum(frame + 1, len(raised) - 1), column]
    )
    midi = 69.0 + 12.0 * np.log2((column + part) * (rate_hz / WINDOW / A4_HZ))
    return _Peaks(
        (frame + first_frame).astype(np.int32),
        midi.astype(np.float32),
        rise**2,
        around > LASTING_SHARE * rise,
    )


def _tuning(peaks: _Peaks) -> tuple[float, float]:
    """Deviation from equal temperament in semitones and its concentration, the circular mean over lasting
    peaks.
    """
    sure = peaks.lasting & (peaks.midi > TUNING_FROM_MIDI)
    strength = peaks.strength[sure]
    if not strength.sum():
        return 0.0, 0.0
    mean = np.sum(np.exp(2j * np.pi * peaks.midi[sure]) * strength) / strength.sum()
    concentration = float(abs(mean))
    if concentration > LEAST_CONCENTRATION:
        return float(np.angle(mean) / (2 * np.pi)), concentration
    searched = _searched_tuning(peaks)
    return (0.0, concentration) if searched is None else (searched, LEAST_CONCENTRATION)


def _searched_tuning(peaks: _Peaks) -> float | None:
    """The deviation in semitones in which the pitch classes stand out and fit a key best, or None where none
    is much better than others: drums fit all tunings alike.
    """
    high = peaks.midi > BASS_MIDI
    some = _Peaks(
        np.zeros(int(high.sum()), np.int32), peaks.midi[high], peaks.strength[high], peaks.lasting[high]
    )
    score = np.array([_in_tune(some, tuning) for tuning in TUNINGS])
    best = int(np.argmax(score))
    if score[best] <= STANDS_OUT * score.min():
        return None
    left, right = score[best - 1], score[(best + 1) % len(score)]
    part = 0.5 * (left - right) / min(left - 2 * score[best] + right, -1e-9)
    tuning = TUNINGS[best] + part * TUNING_STEP
    return float((tuning + 0.5) % 1.0 - 0.5)


def _in_tune(peaks: _Peaks, tuning: float) -> float:
    classes = _pitch_classes(peaks, np.ones(len(peaks.midi), np.bool_), tuning, 1)[0].astype(np.float64)
    return float(fit(classes, KEYS).max() ** 3 * classes.std() / (classes.mean() + 1e-9))


def _pitch_classes(peaks: _Peaks, chosen: NDArray[np.bool_], tuning: float, frames: int) -> FloatArray:
    midi = peaks.midi[chosen] - tuning
    nearest = np.rint(midi)
    near = np.exp(-0.5 * ((midi - nearest) / PITCH_SPREAD) ** 2) * np.clip(
        (FADE_MIDI[1] - midi) / (FADE_MIDI[1] - FADE_MIDI[0]), 0.0, 1.0
    )
    sums = np.zeros(frames * 12)
    for down, share in HARMONICS:
        index = peaks.frame[chosen] * 12 + (nearest.astype(np.int64) - down) % 12
        sums += np.bincount(index, weights=share * peaks.strength[chosen] * near, minlength=frames * 12)
    return sums.reshape(frames, 12).astype(np.float32)
