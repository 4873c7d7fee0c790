"""Tracks that were chosen in a list: one by one, or as a stretch of what was found, so that nobody has to
name a hundred thousand of them.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from vinyl.core.rules.conditions import Condition
from vinyl.library.find import Order, find_ids
from vinyl.library.spelling import forgiving


@dataclass(frozen=True, slots=True)
class Stretch:
    """What was found, from one place to another (both included, None for the end), but for some tracks."""

    condition: Condition
    order: Order
    first: int = 0
    last: int | None = None
    without: frozenset[int] = frozenset()


def ids_of(connection: sqlite3.Connection, stretch: Stretch) -> list[int]:
    """The ids of a stretch, in its order."""
    limit = -1 if stretch.last is None else max(0, stretch.last - stretch.first + 1)
    meant = forgiving(connection, stretch.condition).condition
    ids = find_ids(connection, meant, stretch.order, stretch.first, limit)
    return [track_id for track_id in ids if track_id not in stretch.without]
