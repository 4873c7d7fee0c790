"""The one runner of jobs: kinds with a step function each, lanes that work side by side, and what
survives what.

A job is a row that outlives the server. Its step function can be begun again at any time and finds what is
left to do; so cancelling, pausing, a full disk and a killed server are all one thing: the step ends, and
perhaps begins again.
"""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from vinyl.core.errors import VinylError
from vinyl.jobs.events import Broadcaster, JobMoved
from vinyl.library import jobs
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.library.storage import is_io_error, is_passing, storage_words

RETRY_S = 5.0
TELL_S = 0.25
KEEP_S = 1.0
# An error of a disk is met again so often before an item, or a job that comes no further, is given up.
TRIES = 3
BETWEEN_TRIES_S = 0.5

log = logging.getLogger("vinyl.jobs")


class Stopped(Exception):  # noqa: N818
    """Raised in a step that is to end now: cancelled, paused, or because the server stops."""


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of job. Jobs of one lane run one after the other, or so many abreast; lanes run side by side.

    Attributes:
        more: asked when a step has ended: whether something has come meanwhile, so that it begins again.
    """

    name: str
    unit: str
    lane: str
    step: Callable[[Task], None]
    can_pause: bool = False
    abreast: int = 1
    on_pause: Callable[[], None] = lambda: None
    on_resume: Callable[[], None] = lambda: None
    more: Callable[[], bool] = lambda: False


class Task:
    """What a step function is handed: its job, progress, failures of items, and whether to go on."""

    def __init__(self, runner: Runner, job: Job) -> None:
        self.database = runner.database
        self._runner = runner
        self._job = job
        self._since = time.monotonic()
        self._told = self._kept = 0.0
        self._first_done = job.done
        self._before = (job.worked_s, job.worked_done)

    @property
    def job(self) -> Job:
        """The job as it is now."""
        return self._job

    def check(self) -> None:
        """Raise Stopped if the step is to end now."""
        if self._runner.must_stop(self._job.id):
            raise Stopped

    def progress(self, done: int, total: int | None, current: str = "") -> None:
        """Tell how far the job is, and what is in hand."""
        if done < self._first_done:
            self._first_done = done
        worked_s, worked_done = self._before
        self._job = replace(
            self._job,
            done=done,
            total=total,
            current=current,
            worked_s=worked_s + time.monotonic() - self._since,
            worked_done=worked_done + done - self._first_done,
        )
        self._tell(urgent=False)

    def fail_item(self, item: str, reason: str, track_id: int | None = None) -> None:
        """Keep why one item could not be done; the job goes on."""
        with self.database.write() as connection:
            jobs.note_failure(connection, self._job.id, item, reason, track_id)
        self._job = replace(self._job, failures=self._job.failures + 1)
        self._tell(urgent=True)

    def keep_result(self, result: Mapping[str, Any]) -> None:
        """Keep what the job found."""
        with self.database.write() as connection:
            jobs.set_result(connection, self._job.id, result)
        self._job = replace(self._job, result=result)

    def try_item(self, item: str, do: Callable[[], None], track_id: int | None = None) -> bool:
        """Do something with one item; returns whether it was done. An error of its disk is met again a few
        times; then, as with any other error of the disk, the item has failed and the job goes on.

        Raises:
            OSError: for what the whole job waits for, as for room on a full disk.
        """
        for left in range(TRIES - 1, -1, -1):
            try:
                do()
                return True
            except OSError as error:
                if is_passing(error):
                    raise
                if not is_io_error(error) or not left:
                    self.fail_item(item, storage_words(error) or str(error), track_id)
                    return False
                self._runner.rest(BETWEEN_TRIES_S)
                self.check()
        return False

    def keep(self) -> None:
        """Write down how far the job is."""
        with self.database.write() as connection:
            jobs.set_progress(connection, self._job)
        self._kept = time.monotonic()

    def _tell(self, urgent: bool) -> None:
        self._runner.live[self._job.id] = self._job
        now = time.monotonic()
        if urgent or now - self._told > TELL_S:
            self._told = now
            self._runner.events.publish(JobMoved(self._job))
        if now - self._kept > KEEP_S:
            self.keep()


class Runner:
    """Runs jobs in a thread a lane, and takes up those that a killed server left."""

    def __init__(self, database: Database, events: Broadcaster) -> None:
        self.database = database
        self.events = events
        self.live: dict[int, Job] = {}
        self._kinds: dict[str, Kind] = {}
        self._asked: set[int] = set()
        self._stopping = threading.Event()
        self._wake: dict[str, list[threading.Event]] = {}
        self._taken: set[int] = set()
        self._taking = threading.Lock()
        # Held while jobs are added and while one ends: what comes at that moment is not missed by either.
        self._settling = threading.RLock()
        self._resting: dict[int, float] = {}
        self._tries: dict[int, tuple[int, int]] = {}
        self._threads: list[threading.Thread] = []

    def register(self, *kinds: Kind) -> None:
        """Make kinds of jobs known; before ``start``."""
        for kind in kinds:
            self._kinds[kind.name] = kind
            wakes = self._wake.setdefault(kind.lane, [])
            wakes += [threading.Event() for _ in range(kind.abreast - len(wakes))]

    def start(self) -> None:
        for lane, wakes in self._wake.items():
            for wake in wakes:
                thread = threading.Thread(
                    target=self._loop, args=(lane, wake), name=f"jobs: {lane}", daemon=True
                )
                self._threads.append(thread)
                thread.start()

    def stop(self) -> None:
        """End the steps in hand; their jobs go on at the next start."""
        self._stopping.set()
        for lane in self._wake:
            self._wake_up(lane)
        for thread in self._threads:
            thread.join(timeout=10)

    def begin(
        self,
        kind: str,
        subject: str,
        payload: Mapping[str, Any],
        *,
        unless: Callable[[Sequence[Job]], Job | None] = lambda open_jobs: None,
        also: Sequence[str] = (),
        with_it: Callable[[sqlite3.Connection, int], None] = lambda connection, job_id: None,
    ) -> Job:
        """Have a job done; returns it.

        Args:
            unless: is shown the jobs of this kind that are not finished, while none can come or end; may name
                one to be taken instead, or refuse by an error.
            also: other kinds that it is shown too.
            with_it: writes what belongs to the job before it can begin.
        """
        with self._settling:
            there = unless([job for each in (kind, *also) for job in self.open_jobs(each)])
            if there is not None:
                return there
            with self.database.write() as connection:
                job_id = jobs.add_job(connection, kind, subject, self._kinds[kind].unit, payload)
                with_it(connection, job_id)
                job = jobs.get_job(connection, job_id)
        self._wake_up(self._kinds[kind].lane)
        self.events.publish(JobMoved(job))
        return job

    def open_jobs(self, kind: str) -> list[Job]:
        """Jobs of a kind that are not finished."""
        return [self.get(job.id) for job in jobs.open_jobs(self.database.read(), kind)]

    def get(self, job_id: int) -> Job:
        """A job as it is now.

        Raises:
            NotFoundError: if there is none of this id.
        """
        stored = jobs.get_job(self.database.read(), job_id)
        live = self.live.get(job_id)
        return (
            replace(live, state=stored.state, error=stored.error)
            if live and stored.state == "running"
            else stored
        )

    def cancel(self, job_id: int) -> Job:
        """End a job; what it has done stays."""
        return self._end(job_id, "cancelled")

    def pause(self, job_id: int) -> Job:
        """Let a job rest until it is resumed.

        Raises:
            LibraryError: for a kind that cannot rest.
        """
        kind = self._kinds[self.get(job_id).kind]
        if not kind.can_pause:
            raise LibraryError("This work cannot be paused; it can be cancelled, and begun again.")
        job = self._end(job_id, "paused")
        kind.on_pause()
        return job

    def resume(self, job_id: int) -> Job:
        """Let a paused job go on."""
        job = self.get(job_id)
        kind = self._kinds[job.kind]
        if job.state == "paused":
            kind.on_resume()
            self._set_state(job_id, "waiting")
            self._wake_up(kind.lane)
        return self.get(job_id)

    def must_stop(self, job_id: int) -> bool:
        return self._stopping.is_set() or job_id in self._asked

    def rest(self, seconds: float) -> None:
        """Wait for a while, but not when the server stops."""
        self._stopping.wait(seconds)

    def _end(self, job_id: int, state: jobs.State) -> Job:
        if self.get(job_id).state in jobs.OPEN:
            self._asked.add(job_id)
            self._set_state(job_id, state)
        return self.get(job_id)

    def _wake_up(self, lane: str) -> None:
        for wake in self._wake[lane]:
            wake.set()

    def _loop(self, lane: str, wake: threading.Event) -> None:
        while not self._stopping.is_set():
            wake.clear()
            try:
                job = self._next(lane)
                if job is None:
                    wake.wait(RETRY_S if self._resting else None)
                else:
                    try:
                        self._run(job)
                    finally:
                        self._taken.discard(job.id)
            except Exception:  # the lane must live whatever happens; what happened is in the log
                log.exception("the lane %s", lane)
                self._stopping.wait(RETRY_S)

    def _next(self, lane: str) -> Job | None:
        kinds = [kind.name for kind in self._kinds.values() if kind.lane == lane]
        now = time.monotonic()
        with self._taking:
            waiting = [
                job
                for kind in kinds
                for job in jobs.open_jobs(self.database.read(), kind)
                if job.state in ("waiting", "running")
                and job.id not in self._taken
                and self._resting.get(job.id, 0.0) <= now
            ]
            job = min(waiting, key=lambda job: job.id, default=None)
            if job is not None:
                self._taken.add(job.id)
            return job

    def _run(self, job: Job) -> None:
        self._asked.discard(job.id)
        self._resting.pop(job.id, None)
        try:
            self._work(job.id)
        except VinylError as error:
            if not is_passing(error):
                self._set_state(job.id, "failed", str(error))
            else:
                self._unforeseen(job.id, error)
        except Exception as error:
            self._unforeseen(job.id, error)
        finally:
            self.live.pop(job.id, None)
            self._tell(job.id)

    def _work(self, job_id: int) -> None:
        self._set_state(job_id, "running")
        job = self.get(job_id)
        if job.state != "running":  # it was cancelled meanwhile
            return
        kind = self._kinds[job.kind]
        while True:
            task = Task(self, job)
            self.live[job_id] = task.job
            try:
                kind.step(task)
                task.progress(task.job.total or task.job.done, task.job.total)
            except Stopped:
                task.keep()
                return
            task.keep()
            with self._settling:
                if self.must_stop(job_id) or not kind.more():
                    self._set_state(job_id, "done")
                    return
            job = self.get(job_id)

    def _unforeseen(self, job_id: int, error: Exception) -> None:
        """What may pass is waited for while other jobs go on, an error of a disk only so often; anything else
        ends this job, and no other.
        """
        words = storage_words(error)
        if is_passing(error) or (is_io_error(error) and self._may_try_again(job_id)):
            log.error("job %s waits: %s", job_id, error)
            self._resting[job_id] = time.monotonic() + RETRY_S
            self._note_waiting(job_id, f"{words} It goes on by itself.")
            return
        log.error("job %s", job_id, exc_info=error)
        self._set_state(
            job_id, "failed", words or f"It stopped with an error of its own ({type(error).__name__})."
        )

    def _may_try_again(self, job_id: int) -> bool:
        """Whether a job that met an error of a disk has come further since the last, or has tries left."""
        done = self.live[job_id].done if job_id in self.live else 0
        furthest, tries = self._tries.get(job_id, (-1, 0))
        tries = 1 if done > furthest else tries + 1
        self._tries[job_id] = (max(done, furthest), tries)
        return tries < TRIES

    def _note_waiting(self, job_id: int, words: str) -> None:
        """Said to the windows even where it cannot be written down."""
        try:
            self._set_state(job_id, "running", words)
        except sqlite3.Error:
            self.events.publish(JobMoved(replace(self.get(job_id), error=words)))

    def _set_state(self, job_id: int, state: jobs.State, error: str | None = None) -> None:
        if state not in jobs.OPEN:
            self._tries.pop(job_id, None)
            self._resting.pop(job_id, None)
        with self.database.write() as connection:
            jobs.set_state(connection, job_id, state, error)
        self._tell(job_id)

    def _tell(self, job_id: int) -> None:
        self.events.publish(JobMoved(self.get(job_id)))
