"""Ledgers, reports and reviews as they go over the wire."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from vinyl.api.models.exchange import (
    ComingListOut,
    CountOut,
    DifferenceFound,
    KindChosen,
    LedgerOut,
    MappingFinds,
    ReportOut,
    ReviewOut,
    VanishOut,
)
from vinyl.exchange.desk import list_findings, read_head
from vinyl.exchange.review import head_of, kinds_of, states_of
from vinyl.jobs.carrying import CARRY
from vinyl.jobs.coming import LOOK
from vinyl.library.errors import NotFoundError
from vinyl.operations.services import Services

MOST_FINDINGS = 200
WITHOUT_IN_POINT = "without in point"


def ledger_out(use: Services, job_id: int) -> LedgerOut:
    """A ledger that is made.

    Raises:
        NotFoundError: if it is not made yet, or not kept any more.
    """
    head = read_head(use.carrier.desk_of(job_id), ("told", "vanish", WITHOUT_IN_POINT))
    told: Mapping[str, Any] | None = head.get("told")
    if told is None:
        raise NotFoundError("This ledger is not made yet.")
    return LedgerOut(
        job_id=job_id,
        vanish=VanishOut(**head.get("vanish", {"lists": [], "tracks": [], "count": 0})),
        without_in_point=len(head.get(WITHOUT_IN_POINT, ())),
        counts=[CountOut(kind=kind, fate=fate, count=number) for kind, fate, number in told["counts"]],
        **{
            name: told[name]
            for name in ("tracks", "lists", "off_ms", "states", "later", "mapped", "problems")
        },
    )


def without_in_point(use: Services, job_id: int) -> list[int]:
    """The tracks of a ledger that have no in point."""
    ids: list[int] = read_head(use.carrier.desk_of(job_id), (WITHOUT_IN_POINT,)).get(WITHOUT_IN_POINT, [])
    return ids


def report_out(use: Services, job_id: int, offset: int = 0) -> ReportOut:
    """What was written, read back and compared.

    Raises:
        NotFoundError: if there is no report of it.
    """
    job = use.runner.get(job_id)
    if job.kind != CARRY or job.result is None or "equal" not in job.result:
        raise NotFoundError("There is no report of this (any more).")
    count, findings = list_findings(use.carrier.desk_of(job_id), offset, MOST_FINDINGS)
    result = job.result
    return ReportOut(
        job_id=job_id,
        target=job.payload["order"]["target"],
        made_at=job.finished_at or job.made_at,
        failures=job.failures,
        findings_count=count,
        findings=[finding_out(each) for each in findings],
        ledger=ledger_out(use, job_id),
        **{name: result[name] for name in ("place", "kept", "tracks", "lists", "values", "equal")},
    )


def finding_out(each: Any) -> DifferenceFound:
    """A value that was read back and is not what was promised."""
    return DifferenceFound(track=each.track, what=each.what, promised=each.promised, found=each.found)


def review_out(use: Services, job_id: int) -> ReviewOut:
    """What a library holds, compared with what is here.

    Raises:
        NotFoundError: if it was not looked at to its end.
    """
    job = use.runner.get(job_id)
    path = use.comer.review_of(job_id)
    lists = head_of(path, "list_rows")
    if job.kind != LOOK or lists is None:
        raise NotFoundError("This library has not been looked at to its end.")
    return ReviewOut(
        job_id=job_id,
        target=job.payload["target"],
        place=job.payload["place"],
        states=states_of(path),
        kinds=[
            KindChosen(kind=kind, choice=choice, values=count, tracks=tracks)
            for kind, choice, count, tracks in kinds_of(path)
        ],
        lists=[ComingListOut(**each) for each in lists],
        plays=len(head_of(path, "plays") or ()),
        mappings=[MappingFinds(**each) for each in head_of(path, "mappings") or ()],
        problems=head_of(path, "problems") or [],
        taken=bool(head_of(path, "taken")),
    )
