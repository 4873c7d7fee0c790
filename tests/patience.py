"""Waiting in tests: time counts only while nothing that they have begun works, so that none fails on a busy
machine, on which all is slower.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from contextlib import suppress
from typing import TypeVar

import psutil

T = TypeVar("T")
LOOK_S, POLL_S, MOST_POLL_S = 1.0, 0.05, 0.5
# Who waits long looks seldom: else the looking itself is taken for work, and a wait in vain never ends.
POLL_SHARE = 0.05
# Of the time of one processor; less is what the waiting itself takes.
WORKING_SHARE = 0.15
# However much works: what turns in a circle ends here.
MOST_TIMES = 6


class Patience:
    """So many seconds in which nothing works, and a few times as many in all."""

    def __init__(self, seconds: float) -> None:
        self._left_s, self._ends_s = seconds, time.monotonic() + MOST_TIMES * seconds
        self._looked_s, self._worked_s = time.monotonic(), worked_s()

    def is_over(self) -> bool:
        """Whether what is waited for will not come any more."""
        now_s = time.monotonic()
        passed_s = now_s - self._looked_s
        if passed_s < LOOK_S:
            return False
        worked = worked_s()
        if worked - self._worked_s < WORKING_SHARE * passed_s:
            self._left_s -= passed_s
        self._looked_s, self._worked_s = now_s, worked
        return self._left_s < 0 or now_s > self._ends_s


def worked_s() -> float:
    """The processor time of this process, and of all that it has begun and that runs or has ended."""
    me, total = psutil.Process(), 0.0
    for process in (me, *me.children(recursive=True)):
        with suppress(psutil.Error):
            total += sum(process.cpu_times()[:4])
    return total


def wait_for(condition: Callable[[], T], what: str | Callable[[], str], seconds: float = 60.0) -> T:
    """The first true value of a condition; fails with ``what`` if nothing has worked for so many seconds."""
    patience, began_s = Patience(seconds), time.monotonic()
    while True:
        value = condition()
        if value:
            return value
        if patience.is_over():
            raise AssertionError(f"waited in vain for {what if isinstance(what, str) else what()}")
        waited_s = time.monotonic() - began_s
        time.sleep(min(max(POLL_S, POLL_SHARE * waited_s), MOST_POLL_S))
