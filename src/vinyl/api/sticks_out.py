"""Sticks as they go over the wire."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from vinyl.api.models.sticks import CameHomeOut, CheckResult, OptionsIn, PackResult, PlayerOut, StickOut
from vinyl.jobs.packing import CHECK, PACK
from vinyl.library import jobs
from vinyl.library.jobs import Job
from vinyl.operations.services import Services
from vinyl.sticks import home_again, store
from vinyl.sticks.drives import file_system_of
from vinyl.sticks.medium import StandIn
from vinyl.sticks.own_files import same_contents
from vinyl.sticks.store import Stick


def sticks_out(use: Services) -> list[StickOut]:
    """All sticks that Vinyl knows."""
    found = store.list_sticks(use.database.read())
    names = {stick.id: stick.name for stick in found}
    same = same_contents(use.database.read())
    return [stick_out(use, stick, [names[other] for other in same.get(stick.id, ())]) for stick in found]


def stick_out(use: Services, stick: Stick, same_as: Sequence[str] = ()) -> StickOut:
    """A stick, with what is on it and what was done with it last."""
    read, medium = use.database.read(), stick.medium
    packed = jobs.newest_job(read, PACK, "stick_id", stick.id)
    checked = jobs.newest_job(read, CHECK, "stick_id", stick.id)
    capacity, papers = medium.capacity_bytes, use.papers.of(stick)
    return StickOut(
        id=stick.id,
        name=stick.name,
        folder=str(medium.folder),
        kind=stick.kind,
        file_system="" if stick.kind == "stand-in" else file_system_of(medium.folder),
        players=[
            PlayerOut(profile=each.profile.name, form=each.form, settings_id=each.settings_id)
            for each in stick.players
        ],
        is_in=medium.is_in,
        capacity_bytes=capacity,
        used_bytes=capacity - medium.free_bytes(),
        crate_ids=list(stick.crate_ids),
        left_out=sorted(stick.left_out),
        options=OptionsIn.model_validate(asdict(stick.options)),
        rate=stick.rate,
        packed_at=stick.packed_at,
        checked_at=stick.checked_at,
        fault=medium.fault[0] if isinstance(medium, StandIn) else "",
        came_home=len(home_again.came_home(read, stick, papers)),
        left_out_lines=list(papers.left_out),
        same_as=list(same_as),
        nights=[],
        last_run=_run_out(use.runner.get(packed.id)) if packed else None,
        last_check=_check_out(use.runner.get(checked.id)) if checked else None,
    )


def _run_out(job: Job) -> PackResult:
    result = job.result or {}
    return PackResult(
        job_id=job.id,
        state=job.state,
        error=job.error,
        finished_at=job.finished_at,
        tracks=result.get("tracks"),
        written=result.get("written"),
        removed=result.get("removed"),
        unchanged=bool(result.get("unchanged")),
        failures=job.failures,
    )


def _check_out(job: Job) -> CheckResult:
    result = job.result or {}
    return CheckResult(
        job_id=job.id,
        state=job.state,
        error=job.error,
        finished_at=job.finished_at,
        files=result.get("files"),
        damaged=result.get("damaged"),
        mended=result.get("mended"),
    )


def came_home_out(use: Services, stick_id: int) -> list[CameHomeOut]:
    """What was changed on players and is not answered yet."""
    connection = use.database.read()
    stick = store.get_stick(connection, stick_id)
    return [
        CameHomeOut.model_validate(each, from_attributes=True)
        for each in home_again.came_home(connection, stick, use.papers.of(stick))
    ]
