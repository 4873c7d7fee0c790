"""Dates as people say them: a day, month, season or year, since or before one; the last so many days."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

WRITTEN = re.compile(r"\d{4}(-\d{2}(-\d{2})?)?")
MONTHS = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october",
    "november", "december",
)  # fmt: skip
WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
# The first month of each, of the three that it has.
SEASONS: Mapping[str, int] = {"spring": 3, "summer": 6, "autumn": 9, "fall": 9, "winter": 12}
SPAN_DAYS: Mapping[str, int] = {"day": 1, "week": 7, "month": 30, "year": 365}
NUMBER_WORDS: Mapping[str, int] = {
    "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9,
    "ten": 10, "twelve": 12, "once": 1, "twice": 2, "thrice": 3,
}  # fmt: skip
STARTING = ("since", "from")
ENDING = ("until", "up to")
WITHIN = ("in", "on", "during", "at")
SPANS = ("week", "month", "year")


@dataclass(frozen=True, slots=True)
class Span:
    """From a date to another, both included and written whole or in part; None leaves an end open. Or with
    ``days`` the last so many.
    """

    since: str | None = None
    until: str | None = None
    days: int | None = None


def read_span(words: Sequence[str], today: date) -> tuple[int, Span] | None:
    """The span that words begin with, and how many they are; the longest that can be read."""
    found = [*_days(words), *_between(words, today), *_from_one(words, today)]
    return max(found, key=lambda each: each[0], default=None)


def before(written: str) -> str:
    """The date before one that is written whole or in part: a year's, a month's or a day's."""
    return _moved(written, -1)


def after(written: str) -> str:
    """The date after one that is written whole or in part."""
    return _moved(written, 1)


def _moved(written: str, by: int) -> str:
    year, month, day = (*map(int, written.split("-")), 0, 0)[:3]
    if day:
        return str(date(year, month, day) + timedelta(by))
    if month:
        months = 12 * year + month - 1 + by
        return f"{months // 12:04}-{months % 12 + 1:02}"
    return f"{year + by:04}"


def _days(words: Sequence[str]) -> Iterator[tuple[int, Span]]:
    """The last so many days, weeks, months or years."""
    at = 0
    while at < len(words) and words[at] in ("in", "the", "within", "for", "over"):
        at += 1
    if at and words[at - 1] == "for":
        number = at
    elif words[at : at + 1] and words[at] in ("last", "past"):
        number = at + 1
    else:
        return
    if words[:1] and "the" in words[:number] and words[number : number + 1] and words[number] in SPAN_DAYS:
        yield number + 1, Span(days=SPAN_DAYS[words[number]])
    if len(words) < number + 2:
        return
    count = int(words[number]) if words[number].isdecimal() else NUMBER_WORDS.get(words[number], 0)
    length = SPAN_DAYS.get(words[number + 1].removesuffix("s"))
    if count and length and len(words[number]) < 5:
        yield number + 2, Span(days=count * length)


def _between(words: Sequence[str], today: date) -> Iterator[tuple[int, Span]]:
    """From one to another."""
    for lead, joint in (("between", "and"), ("from", "to"), ("from", "until")):
        if words[:1] != [lead]:
            continue
        for first_words, first in _points(words[1:], today):
            if words[1 + first_words : 2 + first_words] == [joint]:
                rest = words[2 + first_words :]
                for last_words, last in _points(rest, today):
                    yield 2 + first_words + last_words, Span(first.since, last.until or last.since)


def _from_one(words: Sequence[str], today: date) -> Iterator[tuple[int, Span]]:
    """One point in time, or what is since, after or before it."""
    for lead in ("", *WITHIN, *STARTING, *ENDING, "after", "before"):
        told = lead.split()
        if list(words[: len(told)]) != told:
            continue
        for count, point in _points(words[len(told) :], today):
            yield len(told) + count, _sided(lead, point)


def _sided(lead: str, point: Span) -> Span:
    last = point.until or point.since or ""
    if lead in STARTING:
        return Span(point.since)
    if lead in ENDING:
        return Span(None, last)
    if lead == "after":
        return Span(after(last))
    if lead == "before":
        return Span(None, before(point.since or ""))
    return point


def _points(words: Sequence[str], today: date) -> Iterator[tuple[int, Span]]:
    """Points in time that words begin with; those that still go on are open."""
    if not words:
        return
    first, second = words[0], words[1] if len(words) > 1 else ""
    if first == "the":
        yield from ((1 + count, span) for count, span in _points(words[1:], today))
    if WRITTEN.fullmatch(first) and _is_date(first):
        yield 1, Span(first, first)
    if first in ("today", "yesterday"):
        day = str(today - timedelta(first == "yesterday"))
        yield 1, Span(day, None if first == "today" else day)
    if first in ("this", "last"):
        yield from ((2, span) for span in _relative(first, second, today))
    if first in MONTHS:
        month, has_year = MONTHS.index(first) + 1, bool(re.fullmatch(r"\d{4}", second))
        year = int(second) if has_year else today.year - (month > today.month)
        yield 1 + has_year, _at(f"{year:04}-{month:02}")
    if first in SEASONS and re.fullmatch(r"\d{4}", second):
        yield 2, _season(first, int(second))


def _relative(which: str, what: str, today: date) -> Iterator[Span]:
    """This or last week, month, year, season, or weekday."""
    if what in SPANS:
        monday = today - timedelta(days=today.weekday())
        start = {"week": str(monday), "month": f"{today:%Y-%m}", "year": f"{today:%Y}"}[what]
        if which == "this":
            yield Span(start)
        elif what == "week":
            yield Span(str(monday - timedelta(7)), str(monday - timedelta(1)))
        else:
            yield _at(before(start))
    elif what in SEASONS:
        seasons = [_season(what, year) for year in (today.year, today.year - 1, today.year - 2)]
        over = (each for each in seasons if (each.until or "") < f"{today:%Y-%m}")
        yield next(over) if which == "last" else seasons[0]
    elif what in WEEKDAYS and which == "last":
        yield _at(str(today - timedelta((today.weekday() - WEEKDAYS.index(what) - 1) % 7 + 1)))


def _at(written: str) -> Span:
    """All of a date that is written whole or in part."""
    return Span(written, written)


def _season(name: str, year: int) -> Span:
    start = f"{year:04}-{SEASONS[name]:02}"
    return Span(start, after(after(start)))


def _is_date(written: str) -> bool:
    try:
        date(*(*map(int, written.split("-")), 1, 1)[:3])
    except ValueError:
        return False
    return 1900 <= int(written[:4]) <= 2999
