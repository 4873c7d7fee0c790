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
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from vinyl.core.errors import VinylError
from vinyl.jobs.events import Broadcaster, Changed, JobMoved, Topic
from vinyl.library import jobs
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.library.storage import is_passing, storage_words

RETRY_S = 5.0
TELL_S = 0.25
KEEP_S = 1.0

log = logging.getLogger("vinyl.jobs")


class Stopped(Exception):  # noqa: N818
    """Raised in a step that is to end now: cancelled, paused, or because the server stops."""


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of job. Jobs of one lane run one after the other, or so many abreast; lanes run side by side."""

    name: str
    unit: str
    lane: str
    step: Callable[[Task], None]
    can_pause: bool = False
    abreast: int = 1
    on_pause: Callable[[], None] = lambda: None
    on_resume: Callable[[], None] = lambda: None


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

    def changed(self, *topics: Topic, track_ids: tuple[int, ...] | None = None) -> None:
        """Tell windows that something in the library is different now."""
        self._runner.changed(*topics, track_ids=track_ids)

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

    def add(
        self,
        kind: str,
        subject: str,
        payload: Mapping[str, Any],
        with_it: Callable[[sqlite3.Connection, int], None] = lambda connection, job_id: None,
    ) -> Job:
        """Have a job done; returns it. ``with_it`` writes what belongs to it before it can begin."""
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

    def changed(self, *topics: Topic, track_ids: tuple[int, ...] | None = None) -> None:
        self.events.publish(Changed(self.database.revision(), topics, track_ids))

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
                    wake.wait()
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
        with self._taking:
            waiting = [
                job
                for kind in kinds
                for job in jobs.open_jobs(self.database.read(), kind)
                if job.state in ("waiting", "running") and job.id not in self._taken
            ]
            job = min(waiting, key=lambda job: job.id, default=None)
            if job is not None:
                self._taken.add(job.id)
            return job

    def _run(self, job: Job) -> None:
        self._asked.discard(job.id)
        try:
            self._work(job.id)
        except VinylError as error:
            self._set_state(job.id, "failed", str(error))
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
        task = Task(self, job)
        self.live[job_id] = task.job
        try:
            self._kinds[job.kind].step(task)
            task.progress(task.job.total or task.job.done, task.job.total)
        except Stopped:
            task.keep()
            return
        task.keep()
        self._set_state(job_id, "done")

    def _unforeseen(self, job_id: int, error: Exception) -> None:
        """What may pass is waited for; anything else ends this job, and no other."""
        words = storage_words(error)
        if is_passing(error):
            log.error("job %s waits: %s", job_id, error)
            self._note_waiting(job_id, f"{words} It goes on by itself.")
            self._stopping.wait(RETRY_S)
            return
        log.error("job %s", job_id, exc_info=error)
        self._set_state(
            job_id, "failed", words or f"It stopped with an error of its own ({type(error).__name__})."
        )

    def _note_waiting(self, job_id: int, words: str) -> None:
        """Said to the windows even where it cannot be written down."""
        try:
            self._set_state(job_id, "running", words)
        except sqlite3.Error:
            self.events.publish(JobMoved(replace(self.get(job_id), error=words)))

    def _set_state(self, job_id: int, state: jobs.State, error: str | None = None) -> None:
        with self.database.write() as connection:
            jobs.set_state(connection, job_id, state, error)
        self._tell(job_id)

    def _tell(self, job_id: int) -> None:
        self.events.publish(JobMoved(self.get(job_id)))
