"""Dates and times of day as files write them and as people type them; the one reader of both."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta, tzinfo
from typing import Literal

CLOCK_TEXT = r"(\d{1,3})(?:[:.h](\d{2})(?:[:.](\d{2})(?:[.,]\d+)?)?)?\s*([ap]\.?m\.?)?"
CLOCK = re.compile(CLOCK_TEXT, re.IGNORECASE)
# A time at the beginning of a line, perhaps in brackets, with something behind it.
LEADING = re.compile(rf"\[?{CLOCK_TEXT}\]?(?=[\s\]\-–—|])\s*[-–—|]?\s*", re.IGNORECASE)
NUMERIC = re.compile(r"(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})(?:[ T,]+(.*))?")
ISO = re.compile(r"\d{4}[-/.]\d{2}[-/.]\d{2}(?:[T ]+(.*))?")
NAMED = re.compile(
    r"(?:(\d{1,2})(?:st|nd|rd|th)?\.?\s+)?([A-Za-z]{3,9})\.?\s+(?:(\d{1,2})(?:st|nd|rd|th)?,?\s+)?"
    r"(\d{4})(?:[ T,]+(.*))?"
)
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
DAY_S = 86_400.0
# A clock that goes back by more than this has passed midnight.
BACK_S = 6 * 3600.0
# Years of two digits below this are of this century.
CENTURY = 70

Order = Literal["day first", "month first"]


@dataclass(frozen=True, slots=True)
class Moment:
    """A date, with a time of day if one is told, and its zone if that is; else by the clock on the wall."""

    on: date
    clock_s: float | None = None
    zone: tzinfo | None = None

    @property
    def at(self) -> datetime:
        """The moment; noon where no time is told."""
        clock_s = DAY_S / 2 if self.clock_s is None else self.clock_s
        return datetime(self.on.year, self.on.month, self.on.day, tzinfo=self.zone) + timedelta(
            seconds=clock_s
        )


def order_of(texts: Iterable[str]) -> Order:
    """In which order dates of a file have day and month: by those that can be read in one order only, the
    more of which decide; the day first where none does.
    """
    found = [match for text in texts if (match := NUMERIC.fullmatch(text.strip()))]
    days = sum(int(match[1]) > 12 for match in found)
    months = sum(int(match[2]) > 12 for match in found)
    return "month first" if months > days else "day first"


def read_moment(text: str, order: Order = "day first") -> Moment | None:
    """A date, with or without a time; None for anything else, and for a date that there is not."""
    text = " ".join(text.split())
    return _iso(text) or _numeric(text, order) or _named(text)


def _iso(text: str) -> Moment | None:
    found = ISO.fullmatch(text)
    if found is None:
        return None
    on = _date(int(text[:4]), int(text[5:7]), int(text[8:10]))
    try:
        whole = (
            datetime.fromisoformat(f"{text[:4]}-{text[5:7]}-{text[8:10]}T{found[1]}") if found[1] else None
        )
    except ValueError:
        return _with_clock(on, found[1])
    if whole is None or on is None:
        return _with_clock(on, found[1])
    clock_s = 3600.0 * whole.hour + 60.0 * whole.minute + whole.second + whole.microsecond / 1e6
    return Moment(on, clock_s, whole.tzinfo)


def _numeric(text: str, order: Order) -> Moment | None:
    found = NUMERIC.fullmatch(text)
    if found is None:
        return None
    day, month = (found[1], found[2]) if order == "day first" else (found[2], found[1])
    return _with_clock(_date(_year(found[3]), int(month), int(day)), found[4])


def _named(text: str) -> Moment | None:
    found = NAMED.fullmatch(text)
    day = (found[1] or found[3]) if found else None
    if found is None or day is None or found[2][:3].lower() not in MONTHS:
        return None
    return _with_clock(_date(int(found[4]), MONTHS.index(found[2][:3].lower()) + 1, int(day)), found[5])


def _with_clock(on: date | None, rest: str | None) -> Moment | None:
    if on is None:
        return None
    if not (rest or "").strip():
        return Moment(on)
    clock_s = read_clock(rest or "")
    return None if clock_s is None else Moment(on, clock_s)


def _year(text: str) -> int:
    return int(text) if len(text) == 4 else (2000 if int(text) < CENTURY else 1900) + int(text)


def _date(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day)
    except ValueError:
        return None


def read_clock(text: str) -> float | None:
    """Seconds of a time such as "21:09", "9:09 pm", "9 PM" or "0:04:12"; None for anything else."""
    found = CLOCK.fullmatch(text.strip())
    return _seconds(found) if found else None


def leading_clock(line: str) -> tuple[float | None, str]:
    """The time of day that a line begins with, in seconds, and what stands behind it; None and the whole line
    where it begins with none.
    """
    found = LEADING.match(line)
    clock_s = _seconds(found) if found else None
    if found is None or clock_s is None or clock_s >= DAY_S:
        return None, line
    return clock_s, line[found.end() :]


def _seconds(found: re.Match[str]) -> float | None:
    hour, half = int(found[1]), (found[4] or "")[:1].lower()
    if (found[2] is None and not half) or int(found[2] or 0) > 59 or (half and not 1 <= hour <= 12):
        return None
    if half:
        hour = hour % 12 + 12 * (half == "p")
    return 3600.0 * hour + 60.0 * int(found[2] or 0) + float(found[3] or 0)


def past_midnight(clocks_s: Sequence[float | None], begins_s: float | None = None) -> list[float | None]:
    """Times of one night in order, those after midnight a day later.

    Args:
        begins_s: when the night began, if that is known.
    """
    found: list[float | None] = []
    last, later = begins_s, 0.0
    for clock in clocks_s:
        if clock is None:
            found.append(None)
            continue
        if last is not None and clock + later < last - BACK_S:
            later += DAY_S
        last = clock + later
        found.append(last)
    return found
