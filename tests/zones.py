"""The clock on the wall elsewhere: runs a part of a test as if the computer stood in another time zone."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

NEW_YORK, LONDON, AUCKLAND = "America/New_York", "Europe/London", "Pacific/Auckland"


@contextmanager
def in_zone(name: str) -> Iterator[None]:
    """Set the zone of this process until the end of the block."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("TZ", name)
        time.tzset()
        yield
    time.tzset()
