"""Routes: a shortened or re-ordered way through a track, as jumps from one place to another."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import VinylError

MOST_JUMPS = 64
LONGEST_S = 6 * 3600.0
LEAST_S = 0.05
FADE_S = 0.006
# Frames that are read and given on at once.
BLOCK = 1 << 18

FloatArray = NDArray[np.float32]


class RouteError(VinylError):
    """A route that cannot be gone."""


@dataclass(frozen=True, slots=True)
class Jump:
    """When playing reaches ``from_s`` it goes on at ``to_s``."""

    from_s: float
    to_s: float


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part of the track that is played through."""

    start_s: float
    end_s: float


def stretches(jumps: Sequence[Jump], duration_s: float) -> list[Stretch]:
    """What is played, in order: from the start to the first jump, on from its goal to the next, and so to
    the end.

    Raises:
        RouteError: if a jump lies outside the track or is never reached.
    """
    if len(jumps) > MOST_JUMPS:
        raise RouteError(f"A route can have {MOST_JUMPS} jumps at most.")
    played, at = [], 0.0
    for number, jump in enumerate(jumps, 1):
        if not (0.0 <= jump.to_s < duration_s and 0.0 < jump.from_s <= duration_s + 1e-3):
            raise RouteError(f"Jump {number} leads outside the track, which is {duration_s:.1f} s long.")
        if jump.from_s < at + LEAST_S:
            raise RouteError(
                f"Jump {number} is never reached: it leaves at "
                f"{jump.from_s:.1f} s, and the route comes in at {at:.1f} s."
            )
        played.append(Stretch(at, min(jump.from_s, duration_s)))
        at = jump.to_s
    played.append(Stretch(at, duration_s))
    if length_s(played) > LONGEST_S:
        raise RouteError("This route would be longer than six hours.")
    return played


def length_s(played: Sequence[Stretch]) -> float:
    """How long it takes to play stretches."""
    return sum(stretch.end_s - stretch.start_s for stretch in played)


def route_blocks(
    read: Callable[[int, int], FloatArray], rate_hz: int, played: Sequence[Stretch]
) -> Iterator[FloatArray]:
    """The sound of a route in blocks (channels, n), to the sample as long as its stretches together.

    Each joint is crossfaded in the 6 ms before it. What is faded in is the sound that leads up to the place
    where the next stretch begins, so its first attack stays whole.

    Args:
        read: the track's samples (channels, n) between two frames that lie within it.
    """
    fade = round(FADE_S * rate_hz)
    for number, stretch in enumerate(played):
        start, end = round(stretch.start_s * rate_hz), round(stretch.end_s * rate_hz)
        is_last = number + 1 == len(played)
        tail = 0 if is_last else min(fade, end - start)
        for at in range(start, end - tail, BLOCK):
            yield read(at, min(at + BLOCK, end - tail))
        if tail:
            yield _faded(read(end - tail, end), read, round(played[number + 1].start_s * rate_hz))


def _faded(part: FloatArray, read: Callable[[int, int], FloatArray], next_start: int) -> FloatArray:
    """A stretch's last samples (channels, n) going over into what comes before the next stretch's first."""
    fade = part.shape[1]
    first = max(0, next_start - fade)
    lead = np.zeros_like(part)
    lead[:, fade - (next_start - first) :] = read(first, next_start)
    rise = np.arange(1, fade + 1, dtype=np.float32) / (fade + 1)
    mixed: FloatArray = part * (1.0 - rise) + lead * rise
    return mixed
