"""Worker processes: each item of work under a limit of memory and of time, so that no file can take the
server with it.
"""

from __future__ import annotations

import os
import resource
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from concurrent.futures import TimeoutError as TookTooLong
from multiprocessing import get_context
from typing import Any, TypeVar

from pebble import ProcessExpired, ProcessPool

from vinyl.core.errors import VinylError

NICE = 10
WATCH_S = 1.0
MEMORY_BYTES = 4 * 1024**3
POLL_S = 0.1

T = TypeVar("T")


class WorkerError(VinylError):
    """A worker process that ended, or was ended, before it had a result."""


class WorkerDiedError(WorkerError):
    """The process ended by itself; another try may go well."""


class Workers:
    """Some processes, started when there is work and ended by ``rest``."""

    def __init__(self, count: int, memory_bytes: int = MEMORY_BYTES, nice: int = NICE) -> None:
        self.count = count
        self._limits = (os.getpid(), memory_bytes, nice)
        self._lock = threading.Lock()
        self._pool: ProcessPool | None = None

    def submit(self, function: Callable[..., T], *arguments: Any, timeout_s: float) -> Future[T]:
        """Have a function called in a worker; the result is had by ``result_of``."""
        with self._lock:
            if self._pool is None or not self._pool.active:
                self._pool = ProcessPool(
                    self.count, context=get_context("spawn"), initializer=prepare, initargs=self._limits
                )
            future: Future[T] = self._pool.schedule(function, args=arguments, timeout=timeout_s)
        return future

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
                _wait(future)
        except BaseException:
            future.cancel()
            raise
        return result_of(future)

    def rest(self) -> None:
        """End the processes once they have no work; they are started anew when there is some."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.close()  # type: ignore[no-untyped-call]

    def stop(self) -> None:
        """End the processes at once."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.stop()  # type: ignore[no-untyped-call]
            pool.join(timeout=5)


def result_of(future: Future[T]) -> T:
    """What a worker has found.

    Raises:
        WorkerDiedError: if its process ended.
        WorkerError: if it took too long or too much memory.
        Exception: what the function itself raised.
    """
    try:
        return future.result()
    except ProcessExpired as error:
        raise WorkerDiedError(
            "Its process ended unexpectedly; the file may be damaged or need too much memory."
        ) from error
    except TookTooLong as error:
        raise WorkerError(
            "It took too long and was ended; the file may be damaged, or its disk very slow."
        ) from error
    except MemoryError as error:
        raise WorkerError("It needs more memory than one file may take.") from error


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


def _wait(future: Future[Any]) -> None:
    done = threading.Event()
    future.add_done_callback(lambda _: done.set())
    done.wait(POLL_S)
