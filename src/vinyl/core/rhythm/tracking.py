"""Beats of music whose tempo moves: a path of local tempo, then beats that follow it."""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from vinyl.core.filtering import decimated
from vinyl.core.rhythm.paths import best_path

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# The local tempo is heard in windows of so many seconds, one a second: a dozen beats and more, as tempograms
# do.
WINDOW_S = 11.0
STEP_S = 1.0
# So far on either side of the usual tempo, in so many steps (0.35 % each).
RANGE_OCTAVES = 0.45
STATES = 181
# Beats after which a window repeats, and what each has to say; no more of the window than a share can be
# compared.
MULTIPLES = ((1, 1.0), (2, 1.0), (3, 0.3), (4, 1.0), (8, 0.6))
LONGEST_LAG = 0.7
# The path pays for each step of tempo that it moves, and no more than for a jump, in standard deviations.
MOVE_COST = 0.04
JUMP_COST = 0.9
# How much beats pay for being nearer or farther than the local period (Ellis, 2007), within such shares of
# it.
TIGHTNESS = 90.0
REACH = (0.78, 1.3)
# Beats are followed on every second frame: 12 ms are close enough, and refined later.
DECIMATION = 2
AT_ONCE = 256

FloatArray = NDArray[np.float64]


def tempo_path(envelope: FloatArray, rate_hz: float, bpm: float) -> tuple[FloatArray, FloatArray]:
    """Local tempo within half an octave of ``bpm``: times in seconds and beat periods in seconds, one a
    second.

    A path through the local autocorrelation (tempogram) that pays for each move and a fixed price for a jump,
    after Grosche and Müller (2011).
    """
    window, step = int(WINDOW_S * rate_hz), int(STEP_S * rate_hz)
    padded = np.pad(envelope, window // 2)
    frames = sliding_window_view(padded, window)[::step]
    periods_s = 60.0 / (bpm * 2.0 ** np.linspace(-RANGE_OCTAVES, RANGE_OCTAVES, STATES))
    score = np.concatenate(
        [_salience(frames[i : i + AT_ONCE], periods_s * rate_hz) for i in range(0, len(frames), AT_ONCE)]
    )
    score /= score.std() + 1e-9
    states = np.arange(STATES)
    moves = np.abs(states[:, None] - states[None, :])
    path = best_path(score, np.minimum(MOVE_COST * moves, JUMP_COST))
    return np.arange(len(frames)) * step / rate_hz, periods_s[path]


def _salience(frames: FloatArray, periods: FloatArray) -> FloatArray:
    """How well each window repeats after multiples of each period (in frames), (windows, periods)."""
    correlation = _correlations(frames)
    score = np.zeros((len(frames), len(periods)))
    for multiple, weight in MULTIPLES:
        within = periods * multiple < frames.shape[1] * LONGEST_LAG
        score[:, within] += weight * _columns(correlation, periods[within] * multiple)
    return score


def follow_beats(
    envelope: FloatArray, rate_hz: float, times_s: FloatArray, periods_s: FloatArray
) -> FloatArray:
    """Beat times in seconds on peaks of the envelope, as far apart as the local periods ask (Ellis, 2007)."""
    slow = decimated(envelope, DECIMATION) / (envelope.std() + 1e-9)
    rate_hz = rate_hz / DECIMATION
    period = np.interp(np.arange(len(slow)) / rate_hz, times_s, periods_s) * rate_hz
    score, before = slow.copy(), np.full(len(slow), -1)
    first = int(period.max() * REACH[1]) + 1
    nearest, farthest = ((period * reach).astype(np.int64) for reach in REACH)
    # Frames so few that none of them can be the beat before another are decided at once.
    start, shortest = first, max(int(nearest.min()), 1)
    while start < len(slow):
        ahead = max(int(nearest[start : start + 4 * shortest].min()), shortest)
        now = np.arange(start, min(start + ahead, start + 4 * shortest, len(slow)))
        start = int(now[-1]) + 1
        apart = farthest[now, None] - np.arange(int((farthest - nearest)[now].max()))
        total = score[now[:, None] - apart] - TIGHTNESS * np.log(apart / period[now, None]) ** 2
        total[apart <= nearest[now, None]] = -np.inf
        best = np.argmax(total, axis=1)
        rows = np.arange(len(now))
        score[now] += total[rows, best]
        before[now] = now - apart[rows, best]
    beats = [int(np.argmax(score[-first:])) + len(slow) - first]
    while before[beats[-1]] >= 0:
        beats.append(int(before[beats[-1]]))
    return np.array(beats[::-1]) / rate_hz


def _correlations(frames: FloatArray) -> FloatArray:
    window = np.hanning(frames.shape[1])
    centred = (frames - frames.mean(axis=1, keepdims=True)) * window
    size = scipy.fft.next_fast_len(2 * frames.shape[1], real=True)
    power = np.abs(scipy.fft.rfft(centred, size, axis=1)) ** 2
    raw = scipy.fft.irfft(power, size, axis=1)[:, : frames.shape[1]]
    floor = np.median(raw[:, 0]) * 0.1 + 1e-12
    taper = np.correlate(window, window, "full")[frames.shape[1] - 1 :]
    result: FloatArray = raw / (raw[:, :1] + floor) / np.maximum(taper / taper[0], 0.1)
    return result


def _columns(values: FloatArray, index: FloatArray) -> FloatArray:
    whole = np.clip(index.astype(np.int64), 0, values.shape[1] - 2)
    part = index - whole
    result: FloatArray = values[:, whole] * (1 - part) + values[:, whole + 1] * part
    return result
