"""Whether two tellings are of one night, as of a stick and of a file, and how they go together."""

from __future__ import annotations

from bisect import bisect_left
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from vinyl.core.logbook.nights import GAP_S

# By how much two tellings may differ on when a track began, once their clocks are set to each other.
NEAR_S = 240.0
# By how much they may once a clock is taken to have been set wrong: files round to the minute.
ROUNDED_S = 60.0
# Clocks that agree this well need no setting.
SAME_CLOCK_S = 300.0
LEAST_SHARED, LEAST_SHARE = 3, 0.6


@dataclass(frozen=True, slots=True)
class Played:
    """A play: what tells its track from others, and when it began if that is known."""

    name: str
    at_s: float | None


@dataclass(frozen=True, slots=True)
class Together:
    """Two tellings as one: in order the places in the first and in the second, None where one has nothing.

    ``clock_off_s`` is how far the second's clock is ahead.
    """

    order: tuple[tuple[int | None, int | None], ...]
    clock_off_s: float = 0.0

    @property
    def shared(self) -> int:
        """How many plays both tell of."""
        return sum(first is not None and second is not None for first, second in self.order)


def put_together(there: Sequence[Played], coming: Sequence[Played]) -> Together | None:
    """One night out of two tellings of it; None if they are of two.

    With times they are one if they overlap, as those of two players do, or if one clock was set wrong;
    without,
    if most of the shorter stands in the other in the same order. That the dates agree is the caller's to see.
    """
    there, coming = _with_times(there), _with_times(coming)
    pairs = _in_same_order(there, coming)
    enough = len(pairs) >= max(
        min(LEAST_SHARED, len(there), len(coming)), LEAST_SHARE * min(len(there), len(coming))
    )
    if not _timed(there) or not _timed(coming):
        return Together(_by_order(pairs, len(there), len(coming))) if enough else None
    off_s = median(_off_s(there, coming, pair) for pair in pairs) if pairs else 0.0
    agreeing = [pair for pair in pairs if abs(_off_s(there, coming, pair) - off_s) <= ROUNDED_S]
    if abs(off_s) <= SAME_CLOCK_S or not _is_steady(agreeing, pairs, enough):
        if not _overlap(there, coming):
            return None
        off_s, agreeing = 0.0, _near(there, coming)
    return Together(_by_time(there, coming, agreeing, off_s), off_s)


def _with_times(plays: Sequence[Played]) -> Sequence[Played]:
    """Where most plays have a time, the others get that of the one before."""
    if 2 * sum(play.at_s is not None for play in plays) <= len(plays):
        return plays
    last = next(play.at_s for play in plays if play.at_s is not None)
    filled = []
    for play in plays:
        last = last if play.at_s is None else play.at_s
        filled.append(Played(play.name, last))
    return filled


def _timed(plays: Sequence[Played]) -> bool:
    return bool(plays) and all(play.at_s is not None for play in plays)


def _at(play: Played) -> float:
    return play.at_s or 0.0


def _off_s(there: Sequence[Played], coming: Sequence[Played], pair: tuple[int, int]) -> float:
    return _at(coming[pair[1]]) - _at(there[pair[0]])


def _is_steady(agreeing: list[tuple[int, int]], pairs: list[tuple[int, int]], enough: bool) -> bool:
    """Whether a clock that was set wrong explains all: two nights never keep the same pauses."""
    return enough and len(agreeing) >= max(LEAST_SHARED, 0.8 * len(pairs))


def _overlap(there: Sequence[Played], coming: Sequence[Played]) -> bool:
    firsts, lasts = (
        (min(map(_at, there)), min(map(_at, coming))),
        (max(map(_at, there)), max(map(_at, coming))),
    )
    return max(firsts) - min(lasts) <= GAP_S


def _in_same_order(there: Sequence[Played], coming: Sequence[Played]) -> list[tuple[int, int]]:
    """The most plays that stand in both in the same order: of what both have, each time that a track was
    played paired with the same time in the other, the longest increasing run (Fredman, 1975).
    """
    places: dict[str, deque[int]] = {}
    for second, play in enumerate(coming):
        places.setdefault(play.name, deque()).append(second)
    both = [(first, places[play.name].popleft()) for first, play in enumerate(there) if places.get(play.name)]
    ends: list[int] = []
    last: list[int] = []
    before: list[int | None] = []
    for place, (_, second) in enumerate(both):
        length = bisect_left(ends, second)
        before.append(last[length - 1] if length else None)
        ends[length : length + 1] = [second]
        last[length : length + 1] = [place]
    run: list[tuple[int, int]] = []
    at = last[-1] if last else None
    while at is not None:
        run.append(both[at])
        at = before[at]
    return run[::-1]


def _near(there: Sequence[Played], coming: Sequence[Played]) -> list[tuple[int, int]]:
    """Plays of the same track that began at about the same time."""
    free = set(range(len(coming)))
    pairs = []
    for first, play in enumerate(there):
        found = [
            second
            for second in free
            if coming[second].name == play.name and abs(_at(coming[second]) - _at(play)) <= NEAR_S
        ]
        if found:
            second = min(found, key=lambda place: abs(_at(coming[place]) - _at(play)))
            free.remove(second)
            pairs.append((first, second))
    return pairs


def _by_time(
    there: Sequence[Played], coming: Sequence[Played], pairs: list[tuple[int, int]], off_s: float
) -> tuple[tuple[int | None, int | None], ...]:
    paired = dict(pairs)
    rows: list[tuple[float, int | None, int | None]] = [
        (_at(play), first, paired.get(first)) for first, play in enumerate(there)
    ]
    taken = set(paired.values())
    rows += [(_at(play) - off_s, None, second) for second, play in enumerate(coming) if second not in taken]
    return tuple((first, second) for _, first, second in sorted(rows, key=lambda row: row[0]))


def _by_order(
    pairs: list[tuple[int, int]], there: int, coming: int
) -> tuple[tuple[int | None, int | None], ...]:
    """What only one of them has stands where it did, after what both have before it."""
    order: list[tuple[int | None, int | None]] = []
    first = second = 0
    for a, b in [*pairs, (there, coming)]:
        order += [(place, None) for place in range(first, a)] + [(None, place) for place in range(second, b)]
        if a < there:
            order.append((a, b))
        first, second = a + 1, b + 1
    return tuple(order)
