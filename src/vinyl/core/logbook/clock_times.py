"""Times as files write them: a date with a time, a time of day, or how far into the night."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta

CLOCK = re.compile(r"(\d{1,3})[:.](\d{2})(?:[:.](\d{2})(?:[.,]\d+)?)?\s*(am|pm)?", re.IGNORECASE)
DAY_FIRST = re.compile(r"(\d{1,2})[./-](\d{1,2})[./-](\d{4})(?:[ T,]+(.*))?")
DAY_S = 86_400.0
# A clock that goes back by more than this has passed midnight.
BACK_S = 6 * 3600.0


def read_moment(text: str) -> datetime | None:
    """A date with a time, with a zone if it says one; None for anything else."""
    text = text.strip()
    try:
        found = datetime.fromisoformat(text.replace("/", "-")) if len(text) > 10 else None
    except ValueError:
        found = None
    if found is not None:
        return found
    parts = DAY_FIRST.fullmatch(text)
    clock = read_clock(parts[4] or "") if parts else None
    if parts is None or clock is None:
        return None
    day, month = (int(parts[1]), int(parts[2])) if int(parts[2]) <= 12 else (int(parts[2]), int(parts[1]))
    try:
        return datetime.combine(date(int(parts[3]), month, day), time()) + timedelta(seconds=clock)
    except ValueError:
        return None


def read_clock(text: str) -> float | None:
    """Seconds of a time such as "21:09", "9:09 pm" or "0:04:12"; None for anything else."""
    found = CLOCK.fullmatch(text.strip())
    if found is None or int(found[2]) > 59:
        return None
    hour = int(found[1])
    if found[4]:
        hour = hour % 12 + 12 * (found[4].lower() == "pm")
    return 3600.0 * hour + 60.0 * int(found[2]) + float(found[3] or 0)


def past_midnight(clocks_s: Sequence[float | None]) -> list[float | None]:
    """Times of one night in order, those after midnight a day later."""
    found: list[float | None] = []
    last, later = None, 0.0
    for clock in clocks_s:
        if clock is None:
            found.append(None)
            continue
        if last is not None and clock + later < last - BACK_S:
            later += DAY_S
        last = clock + later
        found.append(last)
    return found
