"""Jobs as the library keeps them: what is to be done, how far it is, and what could not be done."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from vinyl.library.clock import now
from vinyl.library.errors import NotFoundError

State = Literal["waiting", "running", "paused", "done", "cancelled", "failed"]
OPEN: tuple[State, ...] = ("waiting", "running", "paused")
KEPT_FINISHED = 200
KEPT_LEDGERS = 12


@dataclass(frozen=True, slots=True)
class Job:
    """A piece of work in the background.

    ``done`` and ``total`` count in ``unit``; ``total`` is None until it is known. ``failures`` is how many
    items could not be done; ``error`` says why the whole ended.
    """

    id: int
    kind: str
    subject: str
    state: State
    done: int
    total: int | None
    unit: str
    current: str
    worked_s: float
    worked_done: int
    error: str | None
    payload: Mapping[str, Any]
    result: Mapping[str, Any] | None
    made_at: str
    finished_at: str | None
    failures: int

    @property
    def seconds_left(self) -> float | None:
        """At the pace of the time that was worked on it; None where there is no telling."""
        if self.state != "running" or self.total is None or self.worked_done <= 0:
            return None
        return self.worked_s / self.worked_done * max(self.total - self.done, 0)


@dataclass(frozen=True, slots=True)
class Failure:
    """An item that could not be done, and why."""

    item: str
    reason: str
    track_id: int | None
    failed_at: str


SELECT = "SELECT job.*, (SELECT count(*) FROM job_failure f WHERE f.job_id = job.id) AS failures FROM job "


def add_job(
    connection: sqlite3.Connection, kind: str, subject: str, unit: str, payload: Mapping[str, Any]
) -> int:
    """Note a job that is to be done; returns its id."""
    cursor = connection.execute(
        "INSERT INTO job (kind, subject, state, unit, payload, made_at) VALUES (?, ?, 'waiting', ?, ?, ?)",
        (kind, subject, unit, json.dumps(payload, ensure_ascii=False), now()),
    )
    _forget_old(connection)
    return int(cursor.lastrowid or 0)


def get_job(connection: sqlite3.Connection, job_id: int) -> Job:
    """One job.

    Raises:
        NotFoundError: if there is none of this id.
    """
    row = connection.execute(f"{SELECT} WHERE id = ?", (job_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"There is no job {job_id} (any more).")
    return _from_row(row)


def list_jobs(
    connection: sqlite3.Connection, kinds: tuple[str, ...] | None = None, limit: int = 50
) -> list[Job]:
    """The newest jobs, of all kinds or of some; open ones first."""
    rows = connection.execute(
        f"""{SELECT} WHERE ?1 IS NULL OR kind IN (SELECT value FROM json_each(?1))
            ORDER BY state IN ('waiting', 'running', 'paused') DESC, id DESC LIMIT ?2""",
        (json.dumps(kinds) if kinds else None, limit),
    )
    return [_from_row(row) for row in rows]


def open_jobs(connection: sqlite3.Connection, kind: str) -> list[Job]:
    """Jobs of a kind that are not finished, oldest first."""
    rows = connection.execute(
        f"{SELECT} WHERE kind = ? AND state IN ('waiting', 'running', 'paused') ORDER BY id", (kind,)
    )
    return [_from_row(row) for row in rows]


def newest_job(connection: sqlite3.Connection, kind: str, key: str, value: object) -> Job | None:
    """The newest job of a kind with a certain value in its payload."""
    row = connection.execute(
        f"{SELECT} WHERE kind = ? AND payload ->> ? = ? ORDER BY id DESC LIMIT 1", (kind, f"$.{key}", value)
    ).fetchone()
    return _from_row(row) if row else None


def set_state(connection: sqlite3.Connection, job_id: int, state: State, error: str | None = None) -> None:
    """Note a job's state; one that has ended stays as it ended."""
    ended = state not in OPEN
    connection.execute(
        """UPDATE job SET state = ?, error = ?, finished_at = ?,
             current = CASE WHEN ? THEN '' ELSE current END
           WHERE id = ? AND state IN ('waiting', 'running', 'paused')""",
        (state, error, now() if ended else None, ended, job_id),
    )


def set_progress(connection: sqlite3.Connection, job: Job) -> None:
    """Note how far a job is."""
    connection.execute(
        "UPDATE job SET done = ?, total = ?, current = ?, worked_s = ?, worked_done = ? WHERE id = ?",
        (job.done, job.total, job.current, job.worked_s, job.worked_done, job.id),
    )


def forget_items(connection: sqlite3.Connection, job_id: int, key: str) -> None:
    """Forget what a job was to do its work on, when that is done: it may be long."""
    connection.execute("UPDATE job SET payload = json_remove(payload, ?) WHERE id = ?", (f"$.{key}", job_id))


def set_result(connection: sqlite3.Connection, job_id: int, result: Mapping[str, Any]) -> None:
    """Keep what a job found."""
    connection.execute(
        "UPDATE job SET result = ? WHERE id = ?", (json.dumps(result, ensure_ascii=False), job_id)
    )


def note_failure(
    connection: sqlite3.Connection, job_id: int, item: str, reason: str, track_id: int | None = None
) -> None:
    """Keep why an item could not be done."""
    connection.execute(
        """INSERT OR REPLACE INTO job_failure (job_id, item, reason, track_id, failed_at)
           SELECT ?, ?, ?, (SELECT id FROM track WHERE id = ?), ?""",
        (job_id, item, reason, track_id, now()),
    )


def drop_failures(connection: sqlite3.Connection, job_id: int) -> None:
    """Forget what could not be done, as before another try."""
    connection.execute("DELETE FROM job_failure WHERE job_id = ?", (job_id,))


def list_failures(
    connection: sqlite3.Connection, job_id: int, offset: int = 0, limit: int = 200
) -> list[Failure]:
    """What a job could not do."""
    rows = connection.execute(
        "SELECT item, reason, track_id, failed_at FROM job_failure WHERE job_id = ? ORDER BY failed_at, item "
        "LIMIT ? OFFSET ?",
        (job_id, limit, offset),
    )
    return [Failure(**dict(row)) for row in rows]


def _forget_old(connection: sqlite3.Connection) -> None:
    """Finished jobs are kept for a while; imports stay, as their reports do. Ledgers, which are made anew
    with every choice, do not push others out.
    """
    for kinds, kept in (("NOT IN ('import', 'ledger')", KEPT_FINISHED), ("= 'ledger'", KEPT_LEDGERS)):
        connection.execute(
            f"""DELETE FROM job WHERE state NOT IN ('waiting', 'running', 'paused') AND kind {kinds}
                AND id <= (SELECT id FROM job WHERE kind {kinds} ORDER BY id DESC LIMIT 1 OFFSET ?)""",
            (kept,),
        )


def _from_row(row: sqlite3.Row) -> Job:
    fields = dict(row)
    fields["payload"] = json.loads(row["payload"])
    fields["result"] = json.loads(row["result"]) if row["result"] else None
    return Job(**fields)
