"""How seeded libraries of several sizes answer: windows, search, pictures, changes of many tracks, a server
that has them, and if names with an error are found.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterable
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any, get_args

import numpy as np

from vinyl.bench.serving import measure_serving
from vinyl.core.rules.conditions import (
    Added,
    AllOf,
    AnyOf,
    Between,
    Condition,
    InList,
    KeyIs,
    Lately,
    NoneOf,
    PlayedAt,
    Tagged,
    TextIs,
    Words,
)
from vinyl.core.rules.notation import Rule
from vinyl.demo.seed import seed_library
from vinyl.exchange.order import Order as CarryingOrder
from vinyl.exchange.weighing import weigh_ids
from vinyl.library import crates, find, gigs, logbook, next_lists, plays, tags, tracks, undo
from vinyl.library.database import Database
from vinyl.library.find import Order
from vinyl.library.pictures import PictureName, count_pictures
from vinyl.library.rule_lists import count_lines, count_lists
from vinyl.library.sorts import SortName
from vinyl.library.spelling import find_meant

SIZES = (10_000, 100_000, 300_000)
CHANGED = 10_000
NAMES = 1000
LETTERS = "abcdefghijklmnopqrstuvwxyz"
ROUNDS = 3
# With this size, so many lists of so many places more, and so many that fill themselves.
LISTED, LISTS, PLACES, RULES = 100_000, 1500, 640, 300
TYPED = "salt works", "velvet harbour", "zzz", "disco", "fog", "a"
WINDOW = 100
WEIGHED = 2000
# The pictures that stand above the Shelf as long as nobody has chosen others.
SHOWN: tuple[PictureName, ...] = ("bpm", "key", "energy", "rating", "genre", "month")
FILTERS: tuple[Condition, ...] = (
    AllOf(),
    AllOf((Between("bpm", 120, 126),)),
    AllOf((KeyIs("A minor"),)),
    AllOf((Between("bpm", 118, 128), KeyIs("A minor"), Between("rating", 3))),
    AllOf((TextIs("genre", "House"), Between("energy", 60, 69))),
    AllOf((Added("2026-03", "2026-03"), Words("salt"))),
    AllOf((Tagged(2), Between("plays", None, 0))),
    AllOf((Words("harbour"),)),
)


RULE = AllOf(
    (
        AnyOf((TextIs("genre", "House"), TextIs("genre", "Disco"))),
        Between("bpm", 118, 126),
        NoneOf((Between("doubt", 0.3), Lately("last_played", 60), InList(1))),
        AnyOf((Tagged(2), Words("salt"))),
        Between("rating", 1),
    )
)


def measure_library(sizes: Iterable[int] = SIZES) -> dict[str, Any]:
    """Milliseconds at the 95th percentile, by size of a library that is made for it."""
    figures: dict[str, Any] = {}
    for size in sizes:
        figures |= {f"{name}, {size:,} tracks": value for name, value in _measure_size(size).items()}
    return figures


def _measure_size(size: int) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as home:
        database = Database.prepared(Path(home) / "library.db")
        began = time.perf_counter()
        seed_library(database, size)
        seconds = time.perf_counter() - began
        figures = {"seconds to seed": round(seconds, 1), **_measure(database, size)}
        figures |= measure_serving(Path(home))
        return figures | (_measure_lists(database) if size == LISTED else {})


def _measure(database: Database, size: int) -> dict[str, Any]:
    read = database.read()
    sorts = [
        Order(sort, down)
        for sort in get_args(SortName)
        if sort not in ("crate", "last_at")
        for down in (False, True)
    ]
    windows = [lambda order=order: find.find_window(read, AllOf(), order, 0, WINDOW) for order in sorts]
    middle = [
        lambda order=order: find.find_window(read, AllOf(), order, size // 2, WINDOW) for order in sorts
    ]
    typed = [text[:end] for text in TYPED for end in range(1, len(text) + 1)]
    return {
        "first window of any sort, ms": _p95(windows),
        "the middle of any sort, ms": _p95(middle),
        "search, each letter typed, ms": _p95(partial(_search, database, text) for text in typed),
        "pictures, with filters, ms": _p95(
            partial(count_pictures, read, each, SHOWN, tags=True) for each in FILTERS
        ),
        "a rule of nested conditions, first window, ms": _p95(
            [lambda: find.find_window(read, RULE, Order("bpm"), 0, WINDOW)]
        ),
        "the lines of that rule counted, ms": _p95([lambda: count_lines(read, RULE)]),
        **_measure_nights(database),
        **_measure_carrying(database),
        **_measure_errors(database),
        **_changes(database),
    }


def _search(database: Database, text: str) -> list[int]:
    window, _ = find_meant(database.read(), AllOf((Words(text),)), Order("bpm"), 0, WINDOW)
    return [row["id"] for row in window.rows]


def _measure_carrying(database: Database) -> dict[str, Any]:
    """How fast a ledger is made, in one process."""
    ids = [row[0] for row in database.read().execute("SELECT id FROM track ORDER BY id LIMIT ?", (WEIGHED,))]
    order = CarryingOrder("reedbank", "/")
    began = time.perf_counter()
    weigh_ids(database.path, ids, order, None)
    took = time.perf_counter() - began
    return {"tracks weighed for another library, a second": round(len(ids) / took)}


def _measure_nights(database: Database) -> dict[str, Any]:
    """A venue's page, when tracks were last played there as a column, sort and condition, and the next
    list.
    """
    read = database.read()
    busiest = read.execute(
        "SELECT venue_id, max(id) FROM gig GROUP BY venue_id ORDER BY count(*) DESC LIMIT 1"
    ).fetchone()
    if busiest is None:
        return {}
    venue, gig = busiest
    shelf = [Order("last_at", down, venue_id=venue) for down in (False, True)]
    rows = [row["id"] for row in find.find_window(read, AllOf(), shelf[1], 0, WINDOW).rows]
    page: list[Callable[[], object]] = [
        lambda: logbook.played_at(read, venue),
        lambda: logbook.played_at(read, venue, "times"),
        lambda: logbook.played_at(read, venue, "title"),
        lambda: logbook.pairs_at(read, venue),
        lambda: plays.list_plays(read, gig),
    ]
    rested = AllOf((PlayedAt(venue, None, 0, 60), Between("bpm", 118, 126)))
    return {
        "a venue's page, each part, ms": _p95(page),
        "sorted by last played at a venue, ms": _p95(
            [
                lambda order=order, at=at: find.find_window(read, AllOf(), order, at, WINDOW)  # type: ignore[misc]
                for order in shelf
                for at in (0, 5000)
            ]
        ),
        "last played at a venue, of a window, ms": _p95([lambda: logbook.last_at(read, venue, rows)]),
        "not played at a venue for 60 days, ms": _p95(
            [lambda: find.find_window(read, rested, Order("bpm"), 0, WINDOW)]
        ),
        "all nights listed, ms": _p95([lambda: gigs.list_gigs(read)]),
        "the next list looked at, ms": _p95([lambda: next_lists.plan(read, gig, date.today(), 0.2, 4)]),
    }


def _measure_errors(database: Database) -> dict[str, Any]:
    """Names of tracks with an edit each: how many are among the first five, and how long that takes."""
    random = np.random.default_rng(5)
    sql = "SELECT id, title || ' ' || artist AS name FROM shelf ORDER BY id LIMIT ?"
    right, took = 0, []
    for row in database.read().execute(sql, (NAMES,)).fetchall():
        wrong = with_error(row["name"], random)
        began = time.perf_counter()
        found = _search(database, wrong)
        took.append(1000 * (time.perf_counter() - began))
        right += row["id"] in found[:5]
    share = round(100 * right / NAMES, 1)
    return {
        "names with an error found, of 100": share,
        "search with an error, ms": round(float(np.quantile(took, 0.95)), 1),
        "the slowest of them, ms": round(max(took), 1),
    }


def with_error(name: str, random: np.random.Generator) -> str:
    """A name with a letter left out, too much, wrong, or changed with the next."""
    name, at = name.lower(), int(random.integers(len(name) - 1))
    letter = LETTERS[int(random.integers(len(LETTERS)))]
    edits = (
        name[:at] + name[at + 1 :],
        name[:at] + letter + name[at:],
        name[:at] + letter + name[at + 1 :],
        name[:at] + name[at + 1] + name[at] + name[at + 2 :],
    )
    return edits[int(random.integers(len(edits)))]


def _changes(database: Database) -> dict[str, Any]:
    ids = list(range(1, CHANGED + 1))

    def tag() -> None:
        with database.write("Tag") as connection:
            tags.give(connection, 1, ids, True)

    def rate() -> None:
        with database.write("Rate") as connection:
            tracks.rate(connection, ids, 5)

    def take_back() -> None:
        with database.write() as connection:
            undo.step_back(connection, "undo")

    return {
        f"tag {CHANGED:,}, ms": _once(tag),
        "undo of that, ms": _once(take_back),
        f"stars for {CHANGED:,}, ms": _once(rate),
        "undo of those, ms": _once(take_back),
    }


def _measure_lists(database: Database) -> dict[str, Any]:
    """Many lists of many places, and many that fill themselves."""
    random = np.random.default_rng(8)
    with database.write() as connection:
        for number in range(LISTS):
            held = random.choice(LISTED, PLACES, replace=False) + 1
            crates.add_tracks(connection, crates.make_crate(connection, f"List {number}"), held.tolist())
        long = crates.make_crate(connection, "Long")
        crates.add_tracks(connection, long, range(1, CHANGED + 1))
        for number in range(RULES):
            low, stars = 80 + 5 * (number % 20), number // 20 % 5
            styles = AnyOf((TextIs("genre", "House"), Tagged(1 + number % 12)))
            where = AllOf((Between("bpm", low, low + 10), Between("rating", stars), styles))
            limit = 50 if number % 3 == 0 else None
            crates.make_rule_crate(connection, f"Rule {number}", Rule(where, (("plays", False),), limit))
    read = database.read()

    def move() -> None:
        with database.write("Move") as connection:
            crates.move_tracks(connection, long, [int(random.integers(CHANGED)) + 1], CHANGED // 2)

    named = f"{LISTS + 500:,} lists, a million places"
    return {
        f"all lists told, {named}, ms": _p95([lambda: crates.list_crates(read)]),
        f"a track moved within {CHANGED:,}, ms": _p95([move] * 10),
        f"{RULES} rule lists counted, ms": _p95([lambda: count_lists(read)]),
    }


def _p95(calls: Iterable[Callable[[], object]]) -> float:
    times = [_once(call) for call in calls for _ in range(ROUNDS)]
    return round(float(np.quantile(times, 0.95)), 1)


def _once(call: Callable[[], object]) -> float:
    began = time.perf_counter()
    call()
    return round(1000 * (time.perf_counter() - began), 1)
