"""Analysis in worker processes, newest track first; the queue in SQLite outlives the server."""

from __future__ import annotations

import logging
import os
import sqlite3
import threading
import time
from collections import deque
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context

from vinyl.core.analysis import Analysis
from vinyl.core.errors import VinylError
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.worker import analyse_file, prepare
from vinyl.library import analyses
from vinyl.library.analyses import QueueCounts
from vinyl.library.database import Database
from vinyl.library.waveforms import WaveformStore

POLL_S = 0.5
REMEMBERED = 40

log = logging.getLogger("vinyl.analysis")


@dataclass(frozen=True, slots=True)
class AnalysisProgress:
    """The queue, how many are in hand, how many were done since it was last empty, and seconds left."""

    counts: QueueCounts
    in_hand: int
    done: int
    seconds_left: float | None


class Analyser:
    """Feeds worker processes from the queue in a thread of its own."""

    def __init__(
        self, database: Database, waveforms: WaveformStore, events: Broadcaster, workers: int | None = None
    ) -> None:
        self.added = threading.Event()
        self._database = database
        self._waveforms = waveforms
        self._events = events
        self._workers = workers or os.cpu_count() or 1
        self._in_hand: dict[Future[Analysis], int] = {}
        self._finished_at: deque[float] = deque(maxlen=REMEMBERED)
        self._done = 0
        self._stop = threading.Event()
        self._pool: ProcessPoolExecutor | None = None
        self._thread = threading.Thread(target=self._loop, name="analyser", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        self.added.set()
        self._thread.join(timeout=10)
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)

    def pause(self) -> None:
        """Take waiting tracks out of turn; those in hand are finished."""
        with self._database.write() as connection:
            analyses.pause_all(connection)
        self._publish([])

    def resume(self) -> None:
        """Go on with paused tracks and try failed ones again."""
        with self._database.write() as connection:
            analyses.resume_all(connection)
        self.added.set()
        self._publish([])

    def progress(self) -> AnalysisProgress:
        """How far the queue is."""
        counts = analyses.counts(self._database.read())
        return AnalysisProgress(counts, len(self._in_hand), self._done, self._seconds_left(counts.waiting))

    def _seconds_left(self, waiting: int) -> float | None:
        if len(self._finished_at) < 2 or not waiting:
            return None
        span = self._finished_at[-1] - self._finished_at[0]
        return span / (len(self._finished_at) - 1) * waiting

    def _loop(self) -> None:
        while not self._stop.is_set():
            try:
                self._fill()
                if not self._in_hand:
                    self._rest()
                    continue
                finished, _ = wait(self._in_hand, timeout=POLL_S, return_when=FIRST_COMPLETED)
                for future in finished:
                    self._settle(future)
            except sqlite3.OperationalError as error:
                log.error("analysis waits: the library cannot be written (%s)", error)
                self._stop.wait(5.0)

    def _rest(self) -> None:
        """Nothing to do: forget the pace and wait for new tracks."""
        self._finished_at.clear()
        self._done = 0
        if self._pool is not None:
            self._pool.shutdown(wait=False)
            self._pool = None
        self._publish([])
        self.added.wait()
        self.added.clear()

    def _fill(self) -> None:
        while len(self._in_hand) < self._workers:
            waiting = analyses.next_waiting(self._database.read(), set(self._in_hand.values()))
            if waiting is None:
                return
            if self._pool is None:
                self._pool = ProcessPoolExecutor(
                    self._workers,
                    mp_context=get_context("spawn"),
                    initializer=prepare,
                    initargs=(os.getpid(),),
                )
            self._in_hand[self._pool.submit(analyse_file, waiting.path)] = waiting.track_id

    def _settle(self, future: Future[Analysis]) -> None:
        """Keep a result. Until it is kept the track stays in hand, so a full disk loses nothing."""
        track_id = self._in_hand[future]
        try:
            result = future.result()
        except BrokenProcessPool:
            self._fail(
                track_id,
                "The analysis process ended unexpectedly; the file may need too much memory.",
                final=False,
            )
            self._pool = None
        except VinylError as error:
            self._fail(track_id, str(error), final=True)
        except Exception as error:
            log.exception("analysis of track %s failed", track_id)
            self._fail(
                track_id,
                f"The analysis stopped with an error of its own ({type(error).__name__}).",
                final=True,
            )
        else:
            self._keep(track_id, result)
        del self._in_hand[future]
        self._publish([track_id])

    def _keep(self, track_id: int, result: Analysis) -> None:
        with self._database.write() as connection:
            self._waveforms.store(track_id, result.waveform)
            analyses.store(connection, track_id, result)
        self._finished_at.append(time.monotonic())
        self._done += 1

    def _fail(self, track_id: int, message: str, final: bool) -> None:
        with self._database.write() as connection:
            analyses.fail(connection, track_id, message, final)

    def _publish(self, track_ids: list[int]) -> None:
        self._events.publish({"type": "analysis", "track_ids": track_ids})
