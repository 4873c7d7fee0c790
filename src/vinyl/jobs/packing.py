"""Packing sticks in the background; a run that a killed server left goes on at the next start."""

from __future__ import annotations

import json
import logging
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from vinyl.core.errors import VinylError
from vinyl.jobs.events import Broadcaster
from vinyl.library.database import Database
from vinyl.sticks import store
from vinyl.sticks.errors import PackCancelledError
from vinyl.sticks.plan import make_plan
from vinyl.sticks.writing import PackProgress, pack

PUBLISH_S = 0.2

log = logging.getLogger("vinyl.packing")


@dataclass(frozen=True, slots=True)
class RunningPack:
    """A run in hand: its progress and when it began to write (monotonic seconds)."""

    progress: PackProgress
    began_s: float

    @property
    def seconds_left(self) -> float | None:
        done, total = self.progress.done_bytes, self.progress.total_bytes
        return (time.monotonic() - self.began_s) * (total - done) / done if done else None


class Packer:
    """Packs one stick at a time."""

    def __init__(self, database: Database, events: Broadcaster) -> None:
        self._database = database
        self._events = events
        self._cancelled: set[int] = set()
        self._stopping = threading.Event()
        self._running: dict[int, RunningPack] = {}
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="packer")

    def start(self) -> None:
        """Take up runs that were interrupted."""
        for run_id, stick_id in store.running_runs(self._database.read()):
            self._pool.submit(self._run, run_id, stick_id)

    def stop(self) -> None:
        """Stop after the piece in hand; the run goes on at the next start."""
        self._stopping.set()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def add(self, stick_id: int) -> None:
        """Begin to pack a stick with its chosen crates."""
        stick = store.get_stick(self._database.read(), stick_id)
        stick.medium.check_in()
        with self._database.write() as connection:
            run_id = store.begin_run(connection, stick_id)
        self._cancelled.discard(stick_id)
        self._pool.submit(self._run, run_id, stick_id)
        self._publish(stick_id)

    def cancel(self, stick_id: int) -> None:
        """Stop packing a stick; what is finished stays on it."""
        self._cancelled.add(stick_id)

    def running(self, stick_id: int) -> RunningPack | None:
        """Progress of a stick that is being packed."""
        return self._running.get(stick_id)

    def _run(self, run_id: int, stick_id: int) -> None:
        state, error, summary = "done", None, None
        try:
            summary = self._pack(stick_id)
        except PackCancelledError as cancelled:
            if self._stopping.is_set():
                return
            state, error = "cancelled", str(cancelled)
        except VinylError as problem:
            state, error = "failed", str(problem)
        except Exception as problem:
            log.exception("packing failed")
            state, error = (
                "failed",
                f"Packing stopped with an error of its own ({type(problem).__name__}); nothing on the stick is damaged.",
            )
        finally:
            self._running.pop(stick_id, None)
        with self._database.write() as connection:
            store.end_run(connection, run_id, state, error, summary)
        self._publish(stick_id)

    def _pack(self, stick_id: int) -> str:
        connection = self._database.read()
        stick = store.get_stick(connection, stick_id)
        plan = make_plan(connection, stick)
        began, last = time.monotonic(), 0.0

        def report(progress: PackProgress) -> None:
            nonlocal last
            self._running[stick_id] = RunningPack(progress, began)
            if time.monotonic() - last > PUBLISH_S:
                last = time.monotonic()
                self._publish(stick_id)

        index = pack(stick, plan, report, lambda: self._stopping.is_set() or stick_id in self._cancelled)
        written = sum(t.action in ("copy", "convert") for t in plan.tracks)
        return json.dumps(
            {
                "tracks": len(index["tracks"]),
                "crates": len(index["crates"]),
                "written": written,
                "removed": len(plan.removed),
            }
        )

    def _publish(self, stick_id: int) -> None:
        self._events.publish({"type": "stick", "stick_id": stick_id})
