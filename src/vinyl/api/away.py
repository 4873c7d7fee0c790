"""Tracks whose files are away: how many there are, and looking for the files."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter

from vinyl.api.convert import job_out
from vinyl.api.models.away import AwayOut, FindAgainIn, FoundOut, TakeFoundIn, TakenOut
from vinyl.api.models.jobs import JobOut
from vinyl.api.services import Use
from vinyl.core.rules.conditions import Is
from vinyl.jobs.finding_again import found_files
from vinyl.library import find

router = APIRouter(prefix="/api/away", tags=["arrivals"])


@router.get("")
def count_away(use: Use) -> AwayOut:
    """How many tracks are away."""
    return AwayOut(tracks=find.count(use.database.read(), Is("away")))


@router.post("/find", status_code=202)
def find_again(use: Use, wanted: FindAgainIn) -> JobOut:
    """Look for the files of all tracks that are away, in a folder; nothing is changed."""
    return job_out(use.finder.add(use.roots.check_folder(Path(wanted.folder))))


@router.get("/found/{job_id}")
def list_found(use: Use, job_id: int) -> list[FoundOut]:
    """What was found, the surest first."""
    return [FoundOut.model_validate(each) for each in found_files(use.runner.get(job_id))]


@router.post("/found/{job_id}/take")
def take_found(use: Use, job_id: int, wanted: TakeFoundIn) -> TakenOut:
    """Give tracks the files that were found for them; whether the sound is the same is looked at at once."""
    taken = use.finder.take(use.runner.get(job_id), wanted.ids)
    return TakenOut(taken=taken)
