"""Keeps lists up to date in the background: counts those that fill themselves, and makes those that a series
lacks, after each change of the library.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Sequence

from vinyl.jobs.events import Broadcaster
from vinyl.library import rule_lists, series
from vinyl.library.changes import Change
from vinyl.library.database import Database
from vinyl.library.rule_lists import Counts, Filled

log = logging.getLogger(__name__)
# Changes that come close together are followed at once.
GATHER_S = 0.05
LOOK_S = 0.1
REST_AFTER_FAILURE_S = 5.0
LONGEST_REST_S = 3.0


class ListKeeper:
    """A thread that follows the revision of the library; whoever asks waits for it no longer than needed."""

    def __init__(self, database: Database, events: Broadcaster) -> None:
        self._database = database
        self._events = events
        self._stopped = threading.Event()
        self._counted = threading.Condition()
        self._filled = Filled()
        self._revision = -1
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        self._stopped.clear()
        self._thread = threading.Thread(target=self._follow, name="lists", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stopped.set()
        if self._thread is not None:
            self._thread.join()

    def counts(self, patience_s: float = 2.0) -> Counts:
        """How many tracks each list that fills itself holds, of the newest state that was counted; what is
        new is waited for a while.
        """
        wanted = self._database.revision()
        with self._counted:
            self._counted.wait_for(lambda: self._revision >= wanted, patience_s)
            return self._filled.counts

    def lists_of(self, track_ids: Sequence[int]) -> dict[int, list[int]]:
        """Ids of the lists that fill themselves and hold each of some tracks, as far as was last counted."""
        return self._filled.lists_of(track_ids)

    def _follow(self) -> None:
        while not self._stopped.wait(LOOK_S):
            try:
                if self._database.revision() != self._revision:
                    self._stopped.wait(GATHER_S)
                    began = time.monotonic()
                    self._bring_up()
                    # While an analysis changes something all the time, most of a core stays free.
                    self._stopped.wait(min(time.monotonic() - began, LONGEST_REST_S))
            except Exception:
                # The next change tries again; one bad state of the library must not end the following.
                log.exception("Lists that fill themselves were not brought up to date")
                self._stopped.wait(REST_AFTER_FAILURE_S)

    def _bring_up(self) -> None:
        read = self._database.read()
        if series.lacking(read):
            with self._database.write(background=True) as connection:
                series.bring_up(connection)
        revision = self._database.revision()
        filled = rule_lists.fill_lists(read)
        with self._counted:
            changed = filled.counts != self._filled.counts
            self._filled, self._revision = filled, revision
            self._counted.notify_all()
        if changed:
            self._events.publish(Change(revision, ("counts",), background=True))
