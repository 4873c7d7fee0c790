"""How a library of 100,000 seeded tracks answers: windows, search, pictures, and changes of many tracks at
once.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, get_args

import numpy as np

from vinyl.core.rules.conditions import Added, AllOf, Between, Condition, KeyIs, TextIs, Words
from vinyl.demo.seed import seed_library
from vinyl.library import find, tracks, undo
from vinyl.library.database import Database
from vinyl.library.find import Order, SortName

SEEDED = 100_000
RATED = 20_000
ROUNDS = 5
TYPED = "salt works", "velvet harbour", "zzz", "disco", "fog", "a"
WINDOW = 100
FILTERS: tuple[Condition, ...] = (
    AllOf(),
    AllOf((Between("bpm", 120, 126),)),
    AllOf((KeyIs("A minor"),)),
    AllOf((Between("bpm", 118, 128), KeyIs("A minor"), Between("rating", 3))),
    AllOf((TextIs("genre", "House"), Between("energy", 60, 69))),
    AllOf((Added("2026-03", "2026-03"), Words("salt"))),
    AllOf((Words("iron"),)),
)


def measure_library(count: int = SEEDED) -> dict[str, Any]:
    """Milliseconds at the 95th percentile, on a library that is made for it."""
    with tempfile.TemporaryDirectory() as home:
        database = Database(Path(home) / "library.db")
        began = time.perf_counter()
        seed_library(database, count)
        seconds = time.perf_counter() - began
        return {"tracks": count, "seconds to seed": round(seconds, 1), **_measure(database)}


def _measure(database: Database) -> dict[str, Any]:
    read = database.read()
    sorts = [Order(sort, down) for sort in get_args(SortName) if sort != "crate" for down in (False, True)]
    windows = [lambda order=order: find.find_window(read, AllOf(), order, 0, WINDOW) for order in sorts]
    deep = [lambda order=order: find.find_window(read, AllOf(), order, 60_000, WINDOW) for order in sorts]
    typed = [text[:end] for text in TYPED for end in range(1, len(text) + 1)]
    searches = [
        lambda t=t: find.find_window(read, AllOf((Words(t),)), Order("bpm"), 0, WINDOW) for t in typed
    ]
    pictures = [lambda c=c: find.count_pictures(read, c) for c in FILTERS]
    return {
        "first window of any sort, ms": _p95(windows),
        "a window deep in any sort, ms": _p95(deep),
        "search, each letter typed, ms": _p95(searches),
        "pictures, with filters, ms": _p95(pictures),
        **_changes(database),
    }


def _changes(database: Database) -> dict[str, Any]:
    ids = list(range(1, RATED + 1))

    def rate() -> None:
        with database.write("Rate") as connection:
            tracks.rate(connection, ids, 5)

    def take_back() -> None:
        with database.write() as connection:
            undo.step_back(connection, "undo")

    return {f"{RATED} ratings, ms": _once(rate), "taking them back, ms": _once(take_back)}


def _p95(calls: Iterable[Callable[[], object]]) -> float:
    times = [_once(call) for call in calls for _ in range(ROUNDS)]
    return round(float(np.quantile(times, 0.95)), 1)


def _once(call: Callable[[], object]) -> float:
    began = time.perf_counter()
    call()
    return round(1000 * (time.perf_counter() - began), 1)
