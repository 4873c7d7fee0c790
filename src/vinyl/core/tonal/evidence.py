"""What speaks for each of the 24 keys, and how much it counts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.framing import means_between
from vinyl.core.tonal.chroma import Chroma
from vinyl.core.tonal.profiles import BASS_LINES, KEYS, TONIC_TRIADS, TONICS, fit

PHRASE_BARS = 8
KINDS = (
    "tones",
    "bass line",
    "phrase's first bass",
    "phrase's first chord",
    "chord over the tonic",
    "third over the tonic",
    "last chord",
)
# Fitted by vinyl.bench.key_weights, a conditional logit on the development set and on made-up pieces.
WEIGHTS = (5.9, 2.2, 3.9, 5.7, 4.2, 2.7, 3.4)
# The last chord is that of the last seconds that have this share of the mean level. Fitted as above, by hand.
END_S = 3.0
# With so little doubt of its grid, music has a beat.
SURE_DOUBT = 0.3
SOUNDING = 0.3
MAJOR_THIRD, MINOR_THIRD = 4, 3

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Phrases:
    """Bar starts (n,) in seconds, and the chances (PHRASE_BARS,) that phrases begin on the first bar, the
    second and so on.
    """

    bar_starts_s: FloatArray
    chances: FloatArray

    def between(self, start_s: float, end_s: float) -> Phrases:
        """Those of a part of the track; its times count from there."""
        first, last = np.searchsorted(self.bar_starts_s, (start_s, end_s))
        return Phrases(self.bar_starts_s[first:last] - start_s, np.roll(self.chances, -int(first)))


def key_evidence(chroma: Chroma, phrases: Phrases | None, grid_doubt: float) -> FloatArray:
    """Evidence of shape (24, KINDS) for majors from C on, then minors.

    Mean strengths are correlated with key profiles (Krumhansl and Schmuckler, 1990). Scales alone leave open
    which of their tones is the tonic: it is the one on which phrases begin, as far as the harmony repeats
    with the phrases, and over which its own triad sounds. Music without a sure beat ends on it too; music for
    dancing may end anywhere.

    Args:
        phrases: where phrases may begin; None if there is no grid.
        grid_doubt: 0 (sure) to 1 (there is no grid).
    """
    treble, bass = (part.mean(axis=0, dtype=np.float64) for part in (chroma.treble, chroma.bass))
    chords, thirds = _over_each_bass(chroma)
    no_beat = max(grid_doubt - SURE_DOUBT, 0.0) / (1.0 - SURE_DOUBT)
    last = no_beat * fit(_last_chord(chroma), TONIC_TRIADS)
    return np.stack(
        [
            fit(treble, KEYS),
            fit(bass, BASS_LINES),
            *_phrase_starts(chroma, phrases),
            chords,
            thirds,
            last,
        ],
        axis=1,
    )


def key_chances(evidence: FloatArray) -> FloatArray:
    """The chance (0 to 1) of each key, (24,): a conditional logit (McFadden, 1974)."""
    score = evidence @ np.array(WEIGHTS)
    chances = np.exp(score - score.max())
    share: FloatArray = chances / chances.sum()
    return share


def _phrase_starts(chroma: Chroma, phrases: Phrases | None) -> tuple[FloatArray, FloatArray]:
    """Fit of each tonic to bass and treble of the first half-bars of phrases, wherever they may begin, times
    how far the harmony repeats with them.
    """
    if phrases is None or len(phrases.bar_starts_s) <= 2 * PHRASE_BARS:
        return np.zeros(24), np.zeros(24)
    bar_starts_s = phrases.bar_starts_s
    halves_s = np.interp(np.arange(2 * len(bar_starts_s) - 1) / 2, np.arange(len(bar_starts_s)), bar_starts_s)
    bass, treble = (
        means_between(part, chroma.rate_hz, halves_s)[::2] for part in (chroma.bass, chroma.treble)
    )
    say = phrases.chances * _repeated(np.hstack([treble, bass]))
    return _fit_first(bass, say), _fit_first(treble, say)


def _fit_first(bars: FloatArray, say: FloatArray) -> FloatArray:
    """Fit (24,) of each tonic to the bars (n, 12) on which phrases begin, by what each place in 8 says."""
    fits = [share * fit(bars[place::PHRASE_BARS].mean(axis=0), TONICS) for place, share in enumerate(say)]
    found: FloatArray = np.sum(fits, axis=0)
    return found


def _repeated(bars: FloatArray) -> float:
    """How much of the bars' differences (bars, dims) their place in the phrase explains, less what chance
    would.
    """
    unit = bars / (np.sqrt((bars**2).sum(axis=1, keepdims=True)) + 1e-9)
    away = unit - unit.mean(axis=0)
    places = [away[place::PHRASE_BARS] for place in range(PHRASE_BARS)]
    explained = sum(len(place) * float((place.mean(axis=0) ** 2).sum()) for place in places) / (
        float((away**2).sum()) + 1e-9
    )
    chance = (PHRASE_BARS - 1) / (len(bars) - 1)
    return max((explained - chance) / (1.0 - chance), 0.0)


def _over_each_bass(chroma: Chroma) -> tuple[FloatArray, FloatArray]:
    """For each key, how like its tonic's triad that is which sounds while its tonic is the bass, and whose
    third it has.
    """
    together = (
        chroma.bass.T.astype(np.float64)
        @ chroma.treble
        / (chroma.bass.sum(axis=0, dtype=np.float64)[:, None] + 1e-9)
    )
    tonic = np.arange(12)
    chords = fit(together, TONIC_TRIADS)[np.concatenate([tonic, tonic]), np.arange(24)]
    thirds = together[tonic, (tonic + MAJOR_THIRD) % 12] - together[tonic, (tonic + MINOR_THIRD) % 12]
    thirds /= together.max(axis=1) + 1e-9
    return chords, np.concatenate([thirds, -thirds])


def _last_chord(chroma: Chroma) -> FloatArray:
    """Mean strengths (12,) of the last seconds that sound."""
    both = (chroma.treble + chroma.bass).astype(np.float64)
    level = both.sum(axis=1)
    end = int(np.flatnonzero(level > SOUNDING * level.mean()).max(initial=0)) + 1
    last: FloatArray = both[max(end - round(END_S * chroma.rate_hz), 0) : end].mean(axis=0)
    return last
