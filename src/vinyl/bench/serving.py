"""How a server answers that has a large library: what people wait for, over HTTP."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path
from statistics import median
from typing import Any

from vinyl.bench.server import BenchServer, serving
from vinyl.demo.seed import NEWEST
from vinyl.library import crates
from vinyl.library.database import Database
from vinyl.sticks import store
from vinyl.sticks.medium import make_stand_in

RATED, PLANNED, ROUNDS = 20_000, 2_000, 7
FILE_BYTES, CAPACITY_BYTES = 4096, 64_000_000_000
WINDOW = 200


def measure_serving(home: Path) -> dict[str, Any]:
    """Medians of what a server answers on the library of a home, and what it needs.

    The first tracks get files, so that a stick can be planned with them.
    """
    database = Database(home / "library.db")
    ids = [row[0] for row in database.read().execute("SELECT id FROM track ORDER BY id LIMIT ?", (RATED,))]
    stick_id = _make_stick(database, home, ids[:PLANNED])
    with serving(home) as server:
        answers = _answers(server, ids, stick_id)
        slowest = max(max(times) for times in answers.values())
        begun, one, two = zip(*(_edits(server, ids, n) for n in range(ROUNDS)), strict=True)
        return {
            "start, s": round(server.start_s, 1),
            **{f"{name}, ms": round(median(times), 1) for name, times in answers.items()},
            f"{RATED:,} values, ms": round(median(one), 1),
            f"two values of {RATED:,}, ms": round(median(two), 1),
            "the same until it is answered, ms": round(median(begun), 1),
            "the slowest of these answers, ms": round(max(slowest, *begun)),
            "server after all of it, MB": server.memory_mb(),
            "server at its largest, MB": server.most_memory_mb(),
        }


def _answers(server: BenchServer, ids: Sequence[int], stick_id: int) -> dict[str, list[float]]:
    """Milliseconds of each answer, by what is asked."""
    newest = server.ask("GET", "/api/gigs")[0]["id"]
    everything = {"where": {"kind": "all", "parts": []}, "sort": "artist", "limit": WINDOW}
    following = {"on": str(date.today()), "share": 0.2, "weeks": 4}
    asked: dict[str, Callable[[int], float]] = {
        "first window": lambda n: server.answer_ms("POST", "/api/tracks/find", everything),
        f"{RATED:,} ratings": lambda n: server.answer_ms(
            "PUT", "/api/tracks/rating", {"ids": list(ids), "stars": 1 + n % 5}
        ),
        f"undo of {RATED:,} ratings": lambda n: server.answer_ms("POST", "/api/undo"),
        f"plan of a stick of {PLANNED:,}": lambda n: server.answer_ms("POST", f"/api/sticks/{stick_id}/plan"),
        "all nights": lambda n: server.answer_ms("GET", "/api/gigs"),
        "a year's figures": lambda n: server.answer_ms("GET", f"/api/figures/{NEWEST.year}"),
        "what fits a track": lambda n: server.answer_ms("POST", f"/api/tracks/{ids[17 * n + 3]}/fits", {}),
        "next list": lambda n: server.answer_ms("POST", f"/api/gigs/{newest}/next/look", following),
        "beginnings of paths": lambda n: server.answer_ms("GET", "/api/exchange/beginnings"),
    }
    return {name: [ask(n) for n in range(ROUNDS)] for name, ask in asked.items()}


def _edits(server: BenchServer, ids: Sequence[int], n: int) -> tuple[float, float, float]:
    """Milliseconds until an edit of two values is answered, until all tracks have one value, and two."""

    def edit(**values: str) -> tuple[float, float]:
        return server.begun_and_done_ms("PUT", "/api/tracks/values", {"ids": list(ids), "values": values})

    _, one_ms = edit(album=f"Pier {n}")
    begun_ms, two_ms = edit(comment=f"Bench {n}", label=f"Quay {n}")
    return begun_ms, one_ms, two_ms


def _make_stick(database: Database, home: Path, ids: Sequence[int]) -> int:
    """A stick with a crate of tracks that have files: all the same few bytes under many names."""
    music = home / "bench music"
    music.mkdir()
    model = music / "model.mp3"
    model.write_bytes(bytes(FILE_BYTES))
    stat = model.stat()
    folder = home / "sticks" / "Bench"
    make_stand_in(folder, CAPACITY_BYTES)
    with database.write() as connection:
        for track_id in ids:
            path = music / f"{track_id:06}.mp3"
            path.hardlink_to(model)
            connection.execute(
                "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ?, codec = 'mp3', away = 0 "
                "WHERE id = ?",
                (str(path), stat.st_size, stat.st_mtime_ns, track_id),
            )
        crate = crates.make_crate(connection, "All of it")
        crates.add_tracks(connection, crate, ids)
        stick_id = store.add_stick(connection, "Bench", folder, "Quay One")
        store.choose_crates(connection, stick_id, [crate])
    return stick_id
