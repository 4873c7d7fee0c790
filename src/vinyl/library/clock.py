"""Times as they are stored, in UTC, and as people say them, by the clock on their wall.

With a stored time goes its offset: how many minutes the clock on the wall was ahead of UTC then and there. By
both the day is told, and it stays that day wherever the computer is later.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta, timezone, tzinfo


def now() -> str:
    """The present in UTC, ISO 8601 with milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def today() -> date:
    """The date here now."""
    return datetime.now().date()


def stored(at: datetime) -> str:
    """A time as it is stored; one without a zone is by the clock on the wall."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds")


def offset_min(at: str | None) -> int:
    """The offset of a stored time here; 0 where there is none, or it cannot be told."""
    try:
        offset = datetime.fromisoformat(at or "").astimezone().utcoffset()
    except (ValueError, OverflowError):
        return 0
    return round(offset.total_seconds() / 60) if offset else 0


def local(at: str, offset: int) -> datetime:
    """A stored time by the clock on the wall where it was."""
    return datetime.fromisoformat(at).astimezone(timezone(timedelta(minutes=offset)))


def local_day(at: str, offset: int) -> date:
    """The day of a stored time where it was."""
    return local(at, offset).date()


def seconds(at: str) -> float:
    """A stored time in seconds, to reckon with."""
    return datetime.fromisoformat(at).timestamp()


def from_seconds(at_s: float) -> str:
    """Seconds as a time that is stored."""
    return stored(datetime.fromtimestamp(at_s, UTC))


def evening(on: date, minutes: float, zone: tzinfo | None = None) -> str:
    """A time of an evening, so many minutes after its date began, as it is stored.

    Args:
        zone: by which clock; by that on the wall here if none is said.
    """
    return stored((datetime.combine(on, time()) + timedelta(minutes=minutes)).replace(tzinfo=zone))


def zone_of(at: str, offset: int) -> tzinfo | None:
    """The zone in which a stored time has its offset: None for the one here, with its summer time."""
    return None if offset_min(at) == offset else timezone(timedelta(minutes=offset))


def minutes_of(text: str) -> int:
    """How many minutes after midnight a time such as "21:30" is."""
    hour, _, minute = text.partition(":")
    return 60 * int(hour) + int(minute)
