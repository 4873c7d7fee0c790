"""On which of its bars the phrases of a track may begin, wherever its file does."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.special import softmax

from vinyl.core.rhythm.onset import OnsetEnvelopes
from vinyl.core.structure.bars import Bars

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md): what changes have to say,
# and that the music begins there.
PHRASE_BARS = 8
CHANGE_SAY, BEGINNING_SAY = 4.0, 14.0
# What share of the usual onsets a bar has in which something is played.
PLAYED = 0.1

FloatArray = NDArray[np.float64]


def phrase_places(onsets: OnsetEnvelopes, bars: Bars) -> FloatArray:
    """The chances (PHRASE_BARS,) that phrases begin on the first bar, the second and so on.

    They begin where bars sound other than the one before, and with the music, if that begins on a bar; a file
    that was cut begins anywhere.
    """
    say = CHANGE_SAY * _changes(bars)
    first, begins = _beginning(onsets, bars)
    if begins:
        say[first % PHRASE_BARS] += BEGINNING_SAY
    return np.asarray(softmax(say), np.float64)


def _changes(bars: Bars) -> FloatArray:
    """How much the bars at each place differ from those before, by sound and onsets, over the mean of all."""
    parts = [part - part.mean(axis=0) for part in (bars.sound, bars.onsets)]
    rows = np.hstack([part / (np.sqrt((part**2).sum(axis=1).mean()) + 1e-9) for part in parts])
    change = np.square(np.diff(rows, axis=0)).sum(axis=1)
    places = [change[(place - 1) % PHRASE_BARS :: PHRASE_BARS] for place in range(PHRASE_BARS)]
    means = np.array([float(part.mean()) if len(part) else 0.0 for part in places])
    told: FloatArray = means / (means.mean() + 1e-9)
    return told


def _beginning(onsets: OnsetEnvelopes, bars: Bars) -> tuple[int, bool]:
    """The first bar in which anything is struck, and whether the music begins with it."""
    strength = bars.onsets.sum(axis=1)
    usual = float(np.median(strength))
    first = int(np.argmax(strength > PLAYED * usual))
    before = slice(0, round(bars.starts_s[first] * onsets.rate_hz))
    flux = sum(float(part[before].sum()) for part in (onsets.low, onsets.mid + onsets.high))
    return first, flux <= PLAYED * usual * max(before.stop, 1)
