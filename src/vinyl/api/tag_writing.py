"""Writing tags into files: what it would change, and doing it."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.convert import job_out
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.tag_writing import TagPlanOut, TagPlansOut, WriteIn
from vinyl.api.services import Use
from vinyl.core.tag_form import TAG_FIELDS, unknown_placeholders
from vinyl.library.errors import LibraryError

router = APIRouter(prefix="/api/tags", tags=["tags"])

MOST_LOOKED_AT = 60


@router.post("/plan")
def plan_writing(use: Use, wanted: WriteIn) -> TagPlansOut:
    """What writing would change in the first of these tracks' files; nothing is written."""
    _check(wanted)
    ids = chosen_ids(use, wanted)
    looked_at = ids[:MOST_LOOKED_AT]
    plans = use.tag_writer.plan(looked_at, wanted.form(), wanted.pattern)
    shown = [plan for plan in plans if plan.changes or plan.new_name or plan.refused or plan.note]
    return TagPlansOut(
        files=[TagPlanOut.model_validate(plan) for plan in shown],
        unchanged=len(plans) - len(shown),
        more=len(ids) - len(looked_at),
    )


@router.post("/write", status_code=202)
def write_tags(use: Use, wanted: WriteIn) -> JobOut:
    """Write into the files of tracks, in the background; what they had is kept."""
    _check(wanted)
    return job_out(use.tag_writer.add(chosen_ids(use, wanted), wanted.form(), wanted.pattern))


def _check(wanted: WriteIn) -> None:
    unknown = unknown_placeholders(wanted.pattern)
    if unknown:
        raise LibraryError(
            f"There is no {{{unknown[0]}}}. There are {', '.join(f'{{{field}}}' for field in TAG_FIELDS)}."
        )
