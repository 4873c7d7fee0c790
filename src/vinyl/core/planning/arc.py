"""The arc of a night: the energy that a DJ wants through it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import VinylError

MOST_POINTS = 24
# A point: the share of the night that is over (0 to 1), and the energy wanted then (0 to 100).
Point = tuple[float, float]


class ArcError(VinylError):
    """Points that are no arc."""


def check_arc(points: Sequence[Point]) -> tuple[Point, ...]:
    """The points in order.

    Raises:
        ArcError: if there are too many, or one lies outside the night or outside what energy can be.
    """
    if len(points) > MOST_POINTS:
        raise ArcError(f"An arc has up to {MOST_POINTS} points.")
    if not all(0.0 <= share <= 1.0 and 0.0 <= energy <= 100.0 for share, energy in points):
        raise ArcError("Points of an arc lie within the night, from energy 0 to 100.")
    return tuple(sorted((float(share), float(energy)) for share, energy in points))


def energies(points: Sequence[Point], shares: Sequence[float]) -> NDArray[np.float64]:
    """The energy wanted at some shares (n,) of the night, straight between the points."""
    if not points:
        return np.full(len(shares), np.nan)
    at, wanted = np.array(points, np.float64).T
    found: NDArray[np.float64] = np.interp(np.asarray(shares, np.float64), at, wanted)
    return found
