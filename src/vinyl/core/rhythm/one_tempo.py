"""Whether one tempo is that of a whole track, asked of windows all over it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.rhythm.tempo import FASTEST_BPM, SLOWEST_BPM, accent_envelope, autocorrelation, comb

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Windows: so many, and one for so many seconds, each so long. A tempo is looked for in so many steps of equal
# ratio, and so near (a share) to the one that is asked.
LEAST_WINDOWS, EACH_S, WINDOW_S = 8, 40.0, 20.0
TEMPI = 800
NEAR = np.linspace(0.998, 1.002, 5)
# Where the best tempo has less than this share of the usual strength there is no beat.
BEATLESS = 0.25
# The tempo is a window's own if it repeats so well there, against the best one, as it does in most.
OWN = 0.78
# It must be in so many windows: in steady music it is not in one of eight at most, in two tempi of one
# pattern it is in half of them.
LEAST_SHARE = 0.79
# Tempi that can stand for each other; one of them is another tempo if it is better in some windows, and far
# behind in others.
RELATED = (3 / 4, 4 / 3, 2 / 3, 3 / 2)
BETTER, BEHIND, SOME = 1.05, 0.7, 0.2

FloatArray = NDArray[np.float64]


def is_one_tempo(onsets: OnsetEnvelopes, bpm: float) -> bool:
    """Whether a tempo repeats in all windows with a beat as it does in most.

    One pattern at two tempi can fall together when it is folded by beats, but not when it is asked what
    repeats.
    """
    strengths = _strengths(onsets, bpm)
    best = strengths.max(axis=1)
    strengths = strengths[best > BEATLESS * np.median(best)]
    if not strengths.any():
        return True
    own = np.maximum(strengths[:, 0], 1e-9)
    share = own / strengths.max(axis=1)
    related = strengths[:, 1:-1] / own[:, None]
    turns = ((related > BETTER).mean(axis=0) > SOME) & ((related < BEHIND).mean(axis=0) > SOME)
    return float((share > OWN * np.quantile(share, 0.75)).mean()) >= LEAST_SHARE and not turns.any()


def _strengths(onsets: OnsetEnvelopes, bpm: float) -> FloatArray:
    """How well each window repeats at the tempo, at those RELATED to it, and at the best of all, (windows,
    6).
    """
    envelope, size = accent_envelope(onsets), round(WINDOW_S * onsets.rate_hz)
    count = max(LEAST_WINDOWS, int(len(envelope) / onsets.rate_hz / EACH_S))
    period = 60.0 * onsets.rate_hz / bpm
    all_periods = 60.0 * onsets.rate_hz / np.geomspace(SLOWEST_BPM, FASTEST_BPM, TEMPI)
    asked = [*(period / factor * NEAR for factor in (1.0, *RELATED)), all_periods]
    rows = []
    for start in np.linspace(0, max(len(envelope) - size, 0), count).astype(np.int64):
        correlation = autocorrelation(envelope[start : start + size])
        rows.append([float(comb(correlation, periods).max()) for periods in asked])
    return np.array(rows)
