"""How many beats a bar has and which of them starts it: where sound, harmony and bass change, and what the
drums accent.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.framing import means_between
from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.tempo_map import METRES
from vinyl.core.tonal.chroma import Chroma

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Bar starts are looked for on half-beats: what was taken for the beat may be the off-beat.
SLOTS_PER_BEAT = 2
# Sound before and after a slot is compared over so many bars, and great changes count more by this power.
SPANS_BARS = (1, 2)
CHANGE_POWER = 1.5
# What accents of the low band and a back-beat have to say beside each of the six kinds of change (1 each).
ACCENT_SAY = 0.5
BACK_BEAT_SAY = 0.7
# What hats and cymbals take from an accent: they mark the back-beat as often as the bar.
BRIGHT_SAY = 0.4
# A bar that starts off the beat costs so much where the beat is clear; of a chord there this share may be the
# beat's before it.
OFF_BEAT_COST = 2.0
OFF_CHORD_SHARE = 0.7
# So clear a beat is never moved to its off-beat.
SURE_BEAT = 0.8
# A step of the tempo is most likely a bar start.
STEP_SAY = 4.0
# Frames before and after a slot in which its onset is looked for: -23 to 41 ms.
NEAR_FRAMES = (-4, 8)
# Beats are compared with those up to so many bars later. Another metre than 4 must stand out by so much more,
# and by so much at all.
BARS_COMPARED = 4
ODD_METRE_GAIN = 0.08
LEAST_METRE = 0.12
# Bars of 3 repeat after 6 beats too; only the drums tell.
SIX_GAIN = 0.1
LONGEST_LAG_BEATS = max(METRES) * BARS_COMPARED + 2

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class BarFit:
    """``first_slot`` is the half-beat (counted from the first slot given) of the first bar start; ``clarity``
    runs from 0 to 1.
    """

    beats_per_bar: int
    first_slot: int
    clarity: float


def find_bars(
    onsets: OnsetEnvelopes,
    chroma: Chroma,
    slot_times_s: FloatArray,
    beat_share: float,
    steps: NDArray[np.int64],
) -> BarFit:
    """Metre and bar start for half-beat slots; slot 0 is a beat, ``steps`` are slots where the tempo changes.

    A beat that hardly stands out from the off-beat (``beat_share`` small) may be moved by half a beat.
    """
    peaks = [
        _peak_near(band, onsets.rate_hz, slot_times_s[:-1]) for band in (onsets.low, onsets.mid, onsets.high)
    ]
    pitch = means_between(np.hstack([chroma.bass, chroma.treble]), chroma.rate_hz, slot_times_s)
    metre = find_metre(np.stack(peaks, axis=1), pitch)
    slots = metre * SLOTS_PER_BEAT
    score = ACCENT_SAY * _by_phase(_accent(peaks[0], peaks[2]), slots)
    for features in (means_between(onsets.bands, onsets.rate_hz, slot_times_s), pitch, pitch[:, :12]):
        for bars in SPANS_BARS:
            score += _on_beats_too(_by_phase(_change(features, bars * slots), slots))
    if metre == 4:
        score += BACK_BEAT_SAY * _back_beat(peaks)
    score[1::SLOTS_PER_BEAT] -= OFF_BEAT_COST * beat_share
    np.add.at(score, steps % slots, STEP_SAY)
    if beat_share > SURE_BEAT:
        score[1::SLOTS_PER_BEAT] = score.min() - 1.0
    first = int(np.argmax(score))
    rest = np.delete(score, [first, first | 1])  # chords off the beat belong to the beat before
    clarity = float(np.clip((score[first] - rest.max()) / (abs(score[first]) + 1e-9), 0, 1))
    return BarFit(metre, first, clarity)


def find_metre(peaks: FloatArray, pitch: FloatArray) -> int:
    """The number of beats after which drums and harmony repeat better than after other numbers; 4 unless
    another is clearly better.

    Args:
        peaks: onset strengths of half-beat slots (slots, bands).
        pitch: pitch-class strengths of the same slots (slots, classes).
    """
    drums, harmony = (
        _metre_scores(_whole_beats(features)) for features in (peaks / (peaks.std(axis=0) + 1e-9), pitch)
    )
    score = drums + harmony
    best = int(np.argmax(score))
    if best == 6 and drums[6] < drums[3] + SIX_GAIN:
        best = 3
    return best if score[best] > max(score[4] + ODD_METRE_GAIN, LEAST_METRE) else 4


def _metre_scores(beats: FloatArray) -> FloatArray:
    """How well each number of beats, as index, stands out among the lags at which the beats repeat."""
    alike = _repetition(beats)
    return np.array(
        [_stands_out(alike, metre) if metre in METRES else -1.0 for metre in range(max(METRES) + 1)]
    )


def _whole_beats(features: FloatArray) -> FloatArray:
    whole = len(features) // SLOTS_PER_BEAT
    beats: FloatArray = features[: whole * SLOTS_PER_BEAT].reshape(whole, -1)
    centred: FloatArray = beats - beats.mean(axis=0)
    return centred


def _repetition(beats: FloatArray) -> FloatArray:
    """Correlation of beats (beats, dims) with those 0, 1, 2, … beats later."""
    power = float((beats**2).mean()) + 1e-12
    lags = min(LONGEST_LAG_BEATS, len(beats) - 1)
    return np.array(
        [float((beats[lag:] * beats[: len(beats) - lag]).mean()) / power for lag in range(lags + 1)]
    )


def _stands_out(alike: FloatArray, metre: int) -> float:
    """Mean likeness after whole bars less that after other numbers of beats."""
    lags = np.arange(2, min(metre * BARS_COMPARED + 3, len(alike)))
    bars = (lags % metre == 0) & (lags <= metre * BARS_COMPARED)
    return (
        float(alike[lags[bars]].mean() - alike[lags[~bars]].mean()) if bars.any() and not bars.all() else 0.0
    )


def _change(features: FloatArray, span: int) -> FloatArray:
    """How sharply the mean of the span after each slot differs from that of the span before: its peaks, the
    great ones most.
    """
    sharp = np.zeros(len(features))
    if len(features) < 2 * span + 4:
        return sharp
    total = np.vstack([np.zeros(features.shape[1]), np.cumsum(features, axis=0)])
    index = np.arange(span, len(features) - span)
    difference = total[index + span] - 2 * total[index] + total[index - span]
    step = np.square(difference).mean(axis=1)
    sharp[index[1:-1]] = np.maximum(step[1:-1] - 0.5 * (step[:-2] + step[2:]), 0.0)
    peaks: FloatArray = sharp**CHANGE_POWER
    return peaks


def _accent(low: FloatArray, high: FloatArray) -> FloatArray:
    """Onset strength of the low band at each slot, less that of a bright back-beat."""
    difference: FloatArray = low / (low.std() + 1e-9) - BRIGHT_SAY * high / (high.std() + 1e-9)
    return difference


def _on_beats_too(score: FloatArray) -> FloatArray:
    """Chords are often played off the beat: what changes there may have changed on the beat before."""
    moved = score.copy()
    moved[::SLOTS_PER_BEAT] = np.maximum(score[::SLOTS_PER_BEAT], OFF_CHORD_SHARE * score[1::SLOTS_PER_BEAT])
    return moved


def _back_beat(peaks: list[FloatArray]) -> FloatArray:
    """For each half-beat of a bar of four: do bass drums fall on it and snares on the second and fourth beat
    after?
    """
    slots = 4 * SLOTS_PER_BEAT
    low, bright = _by_phase(peaks[0], slots), _by_phase(peaks[1] + peaks[2], slots)
    snares = np.roll(bright, -2) + np.roll(bright, -6) - bright - np.roll(bright, -4)
    score: FloatArray = low + 0.5 * snares
    return _standardised(score)


def _peak_near(envelope: NDArray[np.float32], rate_hz: float, times_s: FloatArray) -> FloatArray:
    centre = np.rint(times_s * rate_hz).astype(np.int64)
    around = np.clip(centre[:, None] + np.arange(*NEAR_FRAMES)[None, :], 0, len(envelope) - 1)
    peaks: FloatArray = envelope[around].max(axis=1).astype(np.float64)
    return peaks


def _by_phase(values: FloatArray, slots: int) -> FloatArray:
    whole = len(values) // slots * slots
    if not whole:
        return np.zeros(slots)
    mean: FloatArray = values[:whole].reshape(-1, slots).mean(axis=0)
    return _standardised(mean)


def _standardised(values: FloatArray) -> FloatArray:
    result: FloatArray = (values - values.mean()) / (values.std() + 1e-9)
    return result
