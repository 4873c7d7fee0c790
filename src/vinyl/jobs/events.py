"""Events from background threads to any number of listeners in the event loop: what has changed, in types."""

from __future__ import annotations

import asyncio
import threading
from dataclasses import dataclass

from vinyl.library.changes import Change
from vinyl.library.jobs import Job

LONGEST_QUEUE = 1000


@dataclass(frozen=True, slots=True)
class JobMoved:
    """A job has begun, come further, or ended."""

    job: Job


@dataclass(frozen=True, slots=True)
class Reload:
    """Too much has happened to tell it all."""


Event = Change | JobMoved | Reload


class Broadcaster:
    """Passes events on. ``publish`` may be called from any thread; a listener too slow to follow is told to
    reload.
    """

    def __init__(self) -> None:
        self._listeners: set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[Event]]] = set()
        self._lock = threading.Lock()

    def listen(self) -> asyncio.Queue[Event]:
        """A queue of all events from now on; call in the event loop, and ``leave`` with it at the end."""
        queue: asyncio.Queue[Event] = asyncio.Queue()
        with self._lock:
            self._listeners.add((asyncio.get_running_loop(), queue))
        return queue

    def leave(self, queue: asyncio.Queue[Event]) -> None:
        with self._lock:
            self._listeners = {pair for pair in self._listeners if pair[1] is not queue}

    def publish(self, event: Event) -> None:
        with self._lock:
            listeners = list(self._listeners)
        for loop, queue in listeners:
            if not loop.is_closed():
                loop.call_soon_threadsafe(_put, queue, event)


def _put(queue: asyncio.Queue[Event], event: Event) -> None:
    if queue.qsize() > LONGEST_QUEUE:
        while not queue.empty():
            queue.get_nowait()
        event = Reload()
    queue.put_nowait(event)
