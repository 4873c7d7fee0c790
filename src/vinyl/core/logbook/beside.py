"""Two nights beside each other: which tracks they share, and which followed each other at both."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Shared:
    """A track that two nights share, by its place in each; ``in_a_row`` if at both the same stood beside
    it.
    """

    first: int
    second: int
    in_a_row: bool


def shared_tracks(first: Sequence[str], second: Sequence[str]) -> list[Shared]:
    """What two nights share, given by what tells their tracks apart, in the order of the first; of a track
    that was played more than once each play is paired with one.
    """
    places: dict[str, list[int]] = {}
    for place, name in enumerate(second):
        places.setdefault(name, []).append(place)
    runs = pairs_in_a_row(first) & pairs_in_a_row(second)
    found = []
    for place, name in enumerate(first):
        if places.get(name):
            other = _best(first, second, place, places[name])
            places[name].remove(other)
            beside = {*_around(first, place)} & {*_around(second, other)}
            found.append(Shared(place, other, not beside.isdisjoint(runs)))
    return found


def pairs_in_a_row(names: Sequence[str]) -> set[tuple[str, str]]:
    """Each two tracks of which one followed the other."""
    return set(itertools.pairwise(names))


def repeated_pairs(nights: Iterable[Sequence[str]]) -> list[tuple[tuple[str, str], int]]:
    """Each two tracks that followed each other at more than one night, with at how many, the commonest
    first.
    """
    counts = Counter(pair for names in nights for pair in pairs_in_a_row(names))
    return sorted(((pair, n) for pair, n in counts.items() if n > 1), key=lambda each: (-each[1], each[0]))


def _best(first: Sequence[str], second: Sequence[str], place: int, others: list[int]) -> int:
    """Of a track's plays the one with the same track beside it, else the earliest."""
    around = {*_around(first, place)}
    return next((other for other in others if around & {*_around(second, other)}), others[0])


def _around(names: Sequence[str], place: int) -> list[tuple[str, str]]:
    return [(names[i], names[i + 1]) for i in (place - 1, place) if 0 <= i < len(names) - 1]
