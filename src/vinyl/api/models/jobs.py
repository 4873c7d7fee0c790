"""Work in the background, of whatever kind, and what it could not do."""

from __future__ import annotations

from typing import Any, Literal

from vinyl.api.models.shared import Model

JobKind = Literal[
    "import", "analysis", "pack", "rescan", "route", "route export", "template", "tags", "write",
    "put back", "compare", "find again", "put aside", "twins", "settle twins", "ledger", "carry", "look",
    "take", "document", "restore", "check", "demo", "edit",
]  # fmt: skip


class JobOut(Model):
    """A job; ``done`` and ``total`` count in ``unit``. What could not be done is counted in ``failures``."""

    id: int
    kind: JobKind
    subject: str
    state: Literal["waiting", "running", "paused", "done", "cancelled", "failed"]
    done: int
    total: int | None
    unit: str
    current: str
    seconds_left: float | None
    error: str | None
    payload: dict[str, Any]
    result: dict[str, Any] | None
    made_at: str
    finished_at: str | None
    failures: int
    can_pause: bool
    can_retry: bool
    can_put_back: bool


class FailureOut(Model):
    """An item that a job could not do, and why."""

    item: str
    reason: str
    track_id: int | None
    failed_at: str
