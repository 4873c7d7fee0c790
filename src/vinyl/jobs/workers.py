"""Worker processes: each item of work under a limit of memory and of time, so that no file can take the
server with it.
"""

from __future__ import annotations

import os
import resource
import threading
import time
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from multiprocessing import get_context
from typing import Any, TypeVar

from pebble import ProcessExpired, ProcessPool

from vinyl.core.errors import VinylError

NICE = 10
WATCH_S = 1.0
MEMORY_BYTES = 4 * 1024**3
POLL_S = 0.1
# Processes without work end after so long.
IDLE_S = 15.0
LOOK_S = 0.25

T = TypeVar("T")


class WorkerError(VinylError):
    """A worker process that ended, or was ended, before it had a result."""


class WorkerDiedError(WorkerError):
    """The process ended by itself, or the system ended it; another try may go well."""


@dataclass(slots=True)
class _InHand:
    """Work that was given to a process, and since when it is done there, by the monotonic clock."""

    future: Future[Any]
    limit_s: float
    since_s: float | None = None
    took_too_long: bool = False


class Workers:
    """Some processes, started when there is work and ended when there was none for a while."""

    def __init__(
        self, count: int, memory_bytes: int = MEMORY_BYTES, nice: int = NICE, idle_s: float = IDLE_S
    ) -> None:
        self.count = count
        self._limits = (os.getpid(), memory_bytes, nice)
        self._idle_s = idle_s
        self._lock = threading.Lock()
        self._pool: ProcessPool | None = None
        self._in_hand: dict[Future[Any], _InHand] = {}

    def submit(self, function: Callable[..., T], *arguments: Any, timeout_s: float) -> Future[T]:
        """Have a function called in a worker; the result is had by ``result_of``.

        Raises:
            WorkerDiedError: if the system starts no process for it.
        """
        with self._lock:
            if self._pool is None or not self._pool.active:
                self._pool = self._started()
            try:
                inner: Future[T] = self._pool.schedule(function, args=arguments)
            except BrokenProcessPool as error:
                self._pool = None
                why = getattr(error.__cause__, "strerror", None) or "it said no more"
                raise WorkerDiedError(f"No process could be started for this ({why}).") from error
            mine = _Errand(inner)
            self._in_hand[inner] = _InHand(inner, timeout_s)
        inner.add_done_callback(lambda _: self._pass_on(inner, mine))
        return mine

    def run(
        self,
        function: Callable[..., T],
        *arguments: Any,
        timeout_s: float,
        check: Callable[[], None] = lambda: None,
    ) -> T:
        """Call a function in a worker and wait for it. ``check`` is asked meanwhile; what it raises ends the
        work.
        """
        future = self.submit(function, *arguments, timeout_s=timeout_s)
        try:
            while not future.done():
                check()
                wait_for_a_while(future)
        except BaseException:
            future.cancel()
            raise
        return result_of(future)

    def stop(self) -> None:
        """End the processes at once."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.stop()  # type: ignore[no-untyped-call]
            pool.join(timeout=5)

    def _started(self) -> ProcessPool:
        pool = ProcessPool(
            self.count, context=get_context("spawn"), initializer=prepare, initargs=self._limits
        )
        threading.Thread(target=self._look_after, args=(pool,), name="workers", daemon=True).start()
        return pool

    def _pass_on(self, inner: Future[T], mine: Future[T]) -> None:
        """Hand what a process has found, or what became of it, to who has asked."""
        with self._lock:
            kept = self._in_hand.pop(inner)
        if not mine.set_running_or_notify_cancel():
            return
        try:
            mine.set_result(inner.result())
        except BaseException as error:
            mine.set_exception(_said_of(error, kept.took_too_long))

    def _look_after(self, pool: ProcessPool) -> None:
        """End what takes too long, and the processes once they have had nothing to do for a while."""
        idle_since_s = time.monotonic()
        while True:
            time.sleep(LOOK_S)
            now_s = time.monotonic()
            with self._lock:
                if self._pool is not pool:
                    return
                if self._in_hand:
                    idle_since_s = now_s
                late = [each for each in self._in_hand.values() if _is_late(each, now_s)]
                rests = now_s - idle_since_s > self._idle_s
                if rests:
                    self._pool = None
            for each in late:
                each.took_too_long = True
                each.future.cancel()
            if rests:
                pool.close()  # type: ignore[no-untyped-call]
                pool.join()
                return


class _Errand(Future[T]):
    """Work that is given to a process; to cancel it ends the process."""

    def __init__(self, inner: Future[T]) -> None:
        super().__init__()
        self._inner = inner

    def cancel(self) -> bool:
        cancelled = super().cancel()
        self._inner.cancel()
        return cancelled


def _is_late(work: _InHand, now_s: float) -> bool:
    if work.since_s is None and work.future.running():
        work.since_s = now_s
    return work.since_s is not None and now_s - work.since_s > work.limit_s and not work.took_too_long


def result_of(future: Future[T]) -> T:
    """What a worker has found.

    Raises:
        WorkerDiedError: if its process ended.
        WorkerError: if it took too long or too much memory, or the work was cancelled.
        Exception: what the function itself raised.
    """
    try:
        return future.result()
    except CancelledError as error:
        raise WorkerError("It was cancelled.") from error


def _said_of(error: BaseException, took_too_long: bool) -> BaseException:
    if took_too_long:
        return WorkerError("It took too long and was ended; the file may be damaged, or its disk very slow.")
    if isinstance(error, ProcessExpired | BrokenProcessPool):
        return WorkerDiedError(
            "Its process ended unexpectedly; the file may be damaged or need too much memory."
        )
    if isinstance(error, MemoryError):
        return WorkerError("It needs more memory than one file may take.")
    return WorkerError("It was cancelled.") if isinstance(error, CancelledError) else error


def wait_for_a_while(future: Future[Any], at_most_s: float = POLL_S) -> None:
    """Wait until a future is done, but no longer than so."""
    done = threading.Event()
    future.add_done_callback(lambda _: done.set())
    done.wait(at_most_s)


def prepare(parent: int, memory_bytes: int, nice: int) -> None:
    """Limit this process, let it give way to playing and drawing, and end it when the server does, even if
    that was killed.
    """
    os.nice(nice)
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, hard))
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(WATCH_S)
    os._exit(1)
