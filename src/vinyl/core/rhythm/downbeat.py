"""Which beat starts the bar: where drums accent and harmony and sound change."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.onset import Onsets
from vinyl.core.tonal.chroma import Chroma

SLOTS_PER_BEAT = 2
CONTEXTS_BEATS = (2, 4, 16)
OFF_BEAT_COST = 2.5
METRE_GAIN = 1.25
BACK_BEAT_SAY = 0.7

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class BarFit:
    """``first_slot`` is the half-beat (counted from the given phase) of the first bar start."""

    beats_per_bar: int
    first_slot: int
    clarity: float


def find_bars(onsets: Onsets, chroma: Chroma, slot_times_s: FloatArray, beat_share: float) -> BarFit:
    """Metre (3 or 4) and bar start for half-beat slots; slot 0 is a beat.

    A beat that hardly stands out from the off-beat (``beat_share`` small) may be moved by half a beat.
    """
    change = _novelty(onsets, chroma, slot_times_s)
    accent = _accent(onsets, slot_times_s)
    metre = _metre(onsets, slot_times_s)
    slots = metre * SLOTS_PER_BEAT
    score = _by_phase(change, slots) + 0.5 * _by_phase(accent, slots)
    if metre == 4:
        score += BACK_BEAT_SAY * _back_beat(onsets, slot_times_s)
    score[1::SLOTS_PER_BEAT] -= OFF_BEAT_COST * beat_share
    first = int(np.argmax(score))
    rest = np.delete(score, first)
    clarity = float(np.clip((score[first] - rest.max()) / (abs(score[first]) + 1e-9), 0, 1))
    return BarFit(metre, first, clarity)


def _slot_means(frames: NDArray[np.float32], rate_hz: float, times_s: FloatArray) -> FloatArray:
    """Mean of frames between each slot and the next, (slots, dims)."""
    edges = np.clip(np.rint(times_s * rate_hz).astype(np.int64), 0, len(frames))
    total = np.vstack([np.zeros(frames.shape[1]), np.cumsum(frames, axis=0, dtype=np.float64)])
    length = np.maximum(np.diff(edges), 1)[:, None]
    means: FloatArray = (total[edges[1:]] - total[edges[:-1]]) / length
    return means


def _novelty(onsets: Onsets, chroma: Chroma, times_s: FloatArray) -> FloatArray:
    """How much the sound after each slot differs from before it, over several spans, each of equal say."""
    sound = _slot_means(onsets.bands, onsets.rate_hz, times_s)
    pitch = _slot_means(np.hstack([chroma.bass, chroma.treble]), chroma.rate_hz, times_s)
    total = np.zeros(len(sound))
    for features in (sound / (sound.std() + 1e-9), pitch / (pitch.std() + 1e-9)):
        for beats in CONTEXTS_BEATS:
            step = _step_size(features, beats * SLOTS_PER_BEAT)
            total += step / (step.std() + 1e-9)
    return total


def _step_size(features: FloatArray, span: int) -> FloatArray:
    """Distance between the means of the span after and the span before each slot; peaks count most."""
    if len(features) < 2 * span + 1:
        return np.zeros(len(features))
    total = np.vstack([np.zeros(features.shape[1]), np.cumsum(features, axis=0)])
    index = np.arange(span, len(features) - span + 1)
    after = (total[index + span] - total[index]) / span
    before = (total[index] - total[index - span]) / span
    step = np.zeros(len(features) + 1)
    step[index] = np.square(after - before).mean(axis=1)
    return step[:-1]


def _accent(onsets: Onsets, times_s: FloatArray) -> FloatArray:
    """Low-band attack at each slot, less the bright attack of a back-beat."""
    low = _peak_near(onsets.low, onsets.rate_hz, times_s[:-1])
    high = _peak_near(onsets.high, onsets.rate_hz, times_s[:-1])
    low, high = low / (low.std() + 1e-9), high / (high.std() + 1e-9)
    difference: FloatArray = low - 0.4 * high
    return difference


def _back_beat(onsets: Onsets, times_s: FloatArray) -> FloatArray:
    """For each half-beat of a bar of four: do bass drums fall on it and snares on the second and fourth beat after?"""
    slots = 4 * SLOTS_PER_BEAT
    low = _by_phase(_peak_near(onsets.low, onsets.rate_hz, times_s[:-1]), slots)
    bright = _by_phase(_peak_near(onsets.mid + onsets.high, onsets.rate_hz, times_s[:-1]), slots)
    snares = np.roll(bright, -2) + np.roll(bright, -6) - bright - np.roll(bright, -4)
    score: FloatArray = low + 0.5 * snares
    return _standardised(score)


def _peak_near(envelope: NDArray[np.float32], rate_hz: float, times_s: FloatArray) -> FloatArray:
    centre = np.rint(times_s * rate_hz).astype(np.int64)
    around = np.clip(centre[:, None] + np.arange(-4, 8)[None, :], 0, len(envelope) - 1)
    peaks: FloatArray = envelope[around].max(axis=1).astype(np.float64)
    return peaks


def _metre(onsets: Onsets, times_s: FloatArray) -> int:
    """3 if the sound repeats clearly better after 3, 6 and 12 beats than after 4, 8 and 16; else 4."""
    features = np.stack([_peak_near(band, onsets.rate_hz, times_s[:-1]) for band in (onsets.low, onsets.mid, onsets.high)])
    features = features - features.mean(axis=1, keepdims=True)
    triple = _repetition(features, (3, 6, 12))
    quadruple = _repetition(features, (4, 8, 16))
    return 3 if triple > METRE_GAIN * max(quadruple, 0.05) else 4


def _repetition(features: FloatArray, beats: tuple[int, ...]) -> float:
    power = float((features**2).sum()) + 1e-9
    total = 0.0
    for lag in (b * SLOTS_PER_BEAT for b in beats):
        if lag < features.shape[1]:
            total += float((features[:, lag:] * features[:, :-lag]).sum()) / power
    return total / len(beats)


def _by_phase(values: FloatArray, slots: int) -> FloatArray:
    whole = len(values) // slots * slots
    if not whole:
        return np.zeros(slots)
    mean: FloatArray = values[:whole].reshape(-1, slots).mean(axis=0)
    return _standardised(mean)


def _standardised(values: FloatArray) -> FloatArray:
    result: FloatArray = (values - values.mean()) / (values.std() + 1e-9)
    return result
