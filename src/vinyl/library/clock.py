"""Times as they are stored, in UTC, and as people say them, by the clock on their wall."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta


def now() -> str:
    """The present in UTC, ISO 8601 with milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def stored(at: datetime) -> str:
    """A time as it is stored; one without a zone is by the clock on the wall."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds")


def local(at: str) -> datetime:
    """A stored time by the clock on the wall."""
    return datetime.fromisoformat(at).astimezone()


def seconds(at: str) -> float:
    """A stored time in seconds, to reckon with."""
    return datetime.fromisoformat(at).timestamp()


def from_seconds(at_s: float) -> str:
    """Seconds as a time that is stored."""
    return stored(datetime.fromtimestamp(at_s, UTC))


def evening(on: date, minutes: float) -> str:
    """A time of an evening, so many minutes after its date began, as it is stored."""
    return stored(datetime.combine(on, time()) + timedelta(minutes=minutes))


def minutes_of(text: str) -> int:
    """How many minutes after midnight a time such as "21:30" is."""
    hour, _, minute = text.partition(":")
    return 60 * int(hour) + int(minute)
