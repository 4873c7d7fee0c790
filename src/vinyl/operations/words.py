"""Counts in the names of steps."""

from __future__ import annotations

from collections.abc import Sized


def many(things: Sized | int, one: str = "a track", more: str = "tracks") -> str:
    """How many there are, in words."""
    count = things if isinstance(things, int) else len(things)
    return one if count == 1 else f"{count:,} {more}"
