"""Edits by hand of very many tracks: a few thousand at a time, as one step that can be undone."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Stopped, Task
from vinyl.library import describing, jobs, tags, tracks, undo
from vinyl.library.errors import LockedError
from vinyl.library.jobs import Job

KIND = "edit"
# Values of a transaction: others who write wait no longer than for these.
BATCH = 20_000

# What can be done to tracks, given the words of the request; returns how many are left out because of a lock.
Edit = Callable[[sqlite3.Connection, Sequence[int], Mapping[str, Any]], int]
EDITS: Mapping[str, Edit] = {
    "rate": lambda connection, ids, how: tracks.rate(connection, ids, how["stars"]),
    "values": lambda connection, ids, how: describing.edit(connection, ids, how["values"]),
    "tag": lambda connection, ids, how: tags.give(connection, how["tag_id"], ids, how["given"]),
}


class _Undone(Exception):  # noqa: N818
    """What was done was undone while it went on."""


class Editor(Background):
    """The kind of job that edits many tracks."""

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "track", "by hand", self._step),)

    def add(self, name: str, edit: str, how: Mapping[str, Any], track_ids: Sequence[int]) -> Job:
        """Begin to edit tracks.

        Args:
            name: of the step that can be undone.
            edit: one of EDITS.
            how: what that is given.
        """
        payload = {"name": name, "edit": edit, "how": dict(how), "track_ids": list(track_ids)}
        return self._runner.begin(KIND, name, payload)

    def _step(self, task: Task) -> None:
        try:
            self._edit_all(task)
        except _Undone:
            task.keep_result({"undone": True})
            self._runner.cancel(task.job.id)
            raise Stopped from None

    def _edit_all(self, task: Task) -> None:
        payload = task.job.payload
        track_ids, locked, step = payload["track_ids"], 0, None
        count = BATCH // len(payload["how"].get("values", (None,)))
        for start in range(task.job.done, len(track_ids), count):
            task.check()
            ids = track_ids[start : start + count]
            with self._database.write(payload["name"], onto=step) as connection:
                if step is not None and not undo.is_there(connection, step):
                    raise _Undone
                locked += _edit(connection, ids, payload)
                step = undo.kept_step(connection)
            task.progress(start + len(ids), len(track_ids))
        with self._database.write() as connection:
            jobs.forget_items(connection, task.job.id, "track_ids")
        task.keep_result({"locked": locked})


def _edit(connection: sqlite3.Connection, ids: Sequence[int], payload: Mapping[str, Any]) -> int:
    """Edit a few tracks. That all of them are locked is no reason to stop; then they stay as they were."""
    connection.execute("SAVEPOINT part")
    try:
        return EDITS[payload["edit"]](connection, ids, payload["how"])
    except LockedError:
        connection.execute("ROLLBACK TO part")
        return len(ids)
    finally:
        connection.execute("RELEASE part")
