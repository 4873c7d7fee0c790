"""The present, as stored."""

from __future__ import annotations

from datetime import UTC, datetime


def now() -> str:
    """The present in UTC, ISO 8601 with milliseconds."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
