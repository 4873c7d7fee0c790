"""Where the sound of one file lies in another, to a few milliseconds, from their attacks: also for a copy
that runs a little faster.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.likeness.offset import common_offset

# The offset is settled in such windows, each begun from where its neighbour's leads to.
WINDOW_S = 10.0
# Speeds that are tried where files do not run alike, and how near to one the true speed must be found.
TRIALS = (0.0, *(sign * step / 1000 for step in range(1, 11) for sign in (1, -1)))
# A window lies on the line of all others within this; so many of them must, of those that tell anything, and
# so much of the shorter file must tell something.
ON_LINE_S = 0.004
LEAST_ON_LINE, LEAST_TOLD = 0.85, 0.4
LEAST_WINDOWS = 3
# Less than this is no other speed: clocks of converters differ by as much.
SAME_SPEED, MOST_SPEED = 3e-5, 0.011

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Alignment:
    """``time_there = speed * time_here + offset_s``; ``spread_s`` is how far windows lie from that, half of
    them nearer.
    """

    speed: float
    offset_s: float
    spread_s: float

    def there(self, time_s: float) -> float:
        """Where the sound at a time of the first file lies in the second."""
        return self.speed * time_s + self.offset_s

    @property
    def back(self) -> Alignment:
        """The same from the second to the first."""
        return Alignment(1.0 / self.speed, -self.offset_s / self.speed, self.spread_s / self.speed)

    def then(self, other: Alignment) -> Alignment:
        """This one, and on from the second file to a third."""
        return Alignment(
            self.speed * other.speed,
            other.speed * self.offset_s + other.offset_s,
            self.spread_s + other.spread_s,
        )


SAME_TIMES = Alignment(1.0, 0.0, 0.0)


def align(first_s: FloatArray, second_s: FloatArray, near: Alignment) -> Alignment | None:
    """Align two files of one recording.

    Args:
        first_s: attacks (n,) of one in order; second_s: (m,) those of the other.
        near: what is known of it, right to 80 ms for some part.

    Returns:
        None where their attacks do not lie on one line: then no time of one is known in the other.
    """
    if not (len(first_s) and len(second_s)):
        return None
    parts = np.split(first_s, np.searchsorted(first_s, np.arange(WINDOW_S, first_s[-1], WINDOW_S)))
    windows = [part for part in parts if len(part)]
    for trial in TRIALS:
        found = _at_speed(windows, second_s, near, near.speed - 1.0 + trial)
        if found is not None:
            # Once more with the speed that was found: no window is smeared then.
            return _at_speed(windows, second_s, near, found.speed - 1.0) or found
    return None


def _at_speed(
    windows: Sequence[FloatArray], second_s: FloatArray, near: Alignment, slower: float
) -> Alignment | None:
    """Align windows that are stretched by a share of their length, each about its middle."""
    middles = np.array([np.mean(window) for window in windows])
    stretched = [(window - at) * (1.0 + slower) + at for window, at in zip(windows, middles, strict=True)]
    told = _follow(stretched, second_s, [near.there(at) - at for at in middles], slower * WINDOW_S)
    if len(told) < max(LEAST_WINDOWS, LEAST_TOLD * len(windows)):
        return None
    places = sorted(told)
    return _line(np.stack([middles[places], [told[place] for place in places]], axis=1))


def _follow(
    windows: Sequence[FloatArray], second_s: FloatArray, near_s: Sequence[float], drift_s: float
) -> dict[int, float]:
    """Offsets of windows by their number: from the one that agrees best with what is known, each goes on from
    where its neighbour leads to.
    """
    first = [
        (common_offset(window, second_s, at_s), place)
        for place, (window, at_s) in enumerate(zip(windows, near_s, strict=True))
    ]
    best = max(((found[1], place) for found, place in first if found is not None), default=None)
    if best is None:
        return {}
    told: dict[int, float] = {}
    for places, step_s in ((range(best[1], len(windows)), drift_s), (range(best[1], -1, -1), -drift_s)):
        at_s = near_s[best[1]]
        for place in places:
            found = common_offset(windows[place], second_s, at_s)
            if found is not None:
                at_s = told[place] = found[0]
            at_s += step_s
    return told


def _line(points: FloatArray) -> Alignment | None:
    """The line through most of the points (n, 2) of time and offset (Theil, 1950; Sen, 1968)."""
    at_s, offsets_s = points.T
    one, other = np.triu_indices(len(at_s), 1)
    slope = float(np.median((offsets_s[other] - offsets_s[one]) / (at_s[other] - at_s[one])))
    if abs(slope) < SAME_SPEED:
        slope = 0.0
    rest_s = offsets_s - slope * at_s
    offset_s = float(np.median(rest_s))
    away_s = np.abs(rest_s - offset_s)
    if abs(slope) > MOST_SPEED or (away_s < ON_LINE_S).mean() < LEAST_ON_LINE:
        return None
    return Alignment(1.0 + slope, offset_s, float(np.median(away_s)))
