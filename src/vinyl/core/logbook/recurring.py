"""Gigs that come again each week: found among those that were, met by new ones, and when the next is."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from statistics import median

LEAST_NIGHTS = 3
# Nights further apart than this are no weekly gig, even if one falls out.
FURTHEST_DAYS = 15
NEAR_MIN = 120
DAY_MIN = 24 * 60


@dataclass(frozen=True, slots=True)
class Weekly:
    """A gig each week: at which venue, on which day (0 is Monday), beginning so many minutes after
    midnight.
    """

    venue_id: int
    weekday: int
    begins_min: int


@dataclass(frozen=True, slots=True)
class Evening:
    """A night that was: where, on which date, beginning so many minutes after midnight."""

    venue_id: int
    on: date
    begins_min: int


def find_weekly(evenings: Iterable[Evening]) -> list[Weekly]:
    """What came at least three times on one weekday, at most two weeks apart; the latest first."""
    by_day: dict[tuple[int, int], list[Evening]] = {}
    for evening in sorted(evenings, key=lambda each: each.on):
        by_day.setdefault((evening.venue_id, evening.on.weekday()), []).append(evening)
    found = [
        (nights[-1].on, Weekly(venue, weekday, _usual(nights)))
        for (venue, weekday), nights in by_day.items()
        if _comes_again(nights)
    ]
    return [weekly for _, weekly in sorted(found, key=lambda each: each[0], reverse=True)]


def _comes_again(nights: Sequence[Evening]) -> bool:
    last = nights[-LEAST_NIGHTS:]
    steps = [(after.on - before.on).days for before, after in itertools.pairwise(last)]
    return len(last) == LEAST_NIGHTS and all(step <= FURTHEST_DAYS for step in steps)


def _usual(nights: Sequence[Evening]) -> int:
    """The usual beginning, to the quarter of an hour."""
    return round(median(night.begins_min for night in nights[-6:]) / 15) * 15 % DAY_MIN


def met_by(weeklies: Sequence[Weekly], on: date, begins_min: int) -> Weekly | None:
    """The weekly gig that a night must have been, the nearest in time; after midnight it is still the
    evening's.
    """
    found = [
        (abs(begins_min + later - weekly.begins_min), place)
        for place, weekly in enumerate(weeklies)
        for weekday, later in ((on.weekday(), 0), ((on - timedelta(1)).weekday(), DAY_MIN))
        if weekday == weekly.weekday and abs(begins_min + later - weekly.begins_min) <= NEAR_MIN
    ]
    return weeklies[min(found)[1]] if found else None


def next_date(weekday: int, after: date) -> date:
    """The first date on a weekday after another date."""
    return after + timedelta((weekday - after.weekday() - 1) % 7 + 1)
