"""All work in the background: how far it is, what it could not do, and how to hold it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse

from vinyl.api.convert import job_out
from vinyl.api.models.jobs import FailureOut, JobOut
from vinyl.api.services import Use
from vinyl.jobs import analysing, importing, packing, rereading, tag_writing, templating
from vinyl.jobs.carrying import LEDGER
from vinyl.library import jobs, templates, tracks
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.operations.services import Services

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

MOST_LISTED = 40


@router.get("")
def list_jobs(use: Use) -> list[JobOut]:
    """Open jobs, then the newest finished ones; ledgers that are made are no work to look back on."""
    found = jobs.list_jobs(use.database.read(), limit=MOST_LISTED)
    shown = (job for job in found if job.kind != LEDGER or job.finished_at is None)
    return [job_out(use.runner.get(job.id)) for job in shown]


@router.get("/{job_id}")
def get_job(use: Use, job_id: int) -> JobOut:
    """One job."""
    return job_out(use.runner.get(job_id))


@router.get("/{job_id}/failures")
def list_failures(
    use: Use,
    job_id: int,
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> list[FailureOut]:
    """The items that a job could not do, with the reasons."""
    use.runner.get(job_id)
    found = jobs.list_failures(use.database.read(), job_id, offset, limit)
    return [FailureOut.model_validate(failure) for failure in found]


@router.post("/{job_id}/pause")
def pause_job(use: Use, job_id: int) -> JobOut:
    """Let a job rest; what is in hand is finished."""
    return job_out(use.runner.pause(job_id))


@router.post("/{job_id}/resume")
def resume_job(use: Use, job_id: int) -> JobOut:
    """Let a paused job go on."""
    return job_out(use.runner.resume(job_id))


@router.post("/{job_id}/cancel")
def cancel_job(use: Use, job_id: int) -> JobOut:
    """End a job; what it has done stays."""
    return job_out(use.runner.cancel(job_id))


@router.post("/{job_id}/retry")
def retry_job(use: Use, job_id: int) -> JobOut:
    """Do again what a finished job has left undone."""
    job = use.runner.get(job_id)
    if job.state in jobs.OPEN:
        raise LibraryError("This work is still going on.")
    return job_out(_again(use, job))


@router.get("/{job_id}/file", response_class=FileResponse)
def get_file(use: Use, job_id: int) -> FileResponse:
    """The audio file that a route was written as."""
    job = use.runner.get(job_id)
    path = use.listener.file_of(job)
    track = tracks.get_track(use.database.read(), job.payload["track_id"])
    name = f"{track['artist']} - {track['title']} ({job.payload['name']})".replace("/", "_").strip(" -")
    return FileResponse(path, filename=f"{name}{path.suffix}", media_type="application/octet-stream")


@router.post("/{job_id}/put-back")
def put_tags_back(use: Use, job_id: int) -> JobOut:
    """Give the files of a writing back the tags and names that they had before."""
    return job_out(use.tag_writer.add_putting_back(use.runner.get(job_id)))


def _again(use: Services, job: Job) -> Job:
    match job.kind:
        case analysing.KIND:
            use.analyser.try_again()
            return next(iter(use.runner.open_jobs(analysing.KIND)), job)
        case importing.KIND:
            return use.importer.add(
                [use.roots.check_file_or_folder(Path(path)) for path in importing.paths_of(job)]
            )
        case packing.PACK:
            return use.packer.add(job.payload["stick_id"])
        case packing.CHECK:
            return use.packer.check(job.payload["stick_id"], job.payload["mend"])
        case rereading.KIND:
            return use.rereader.add(job.payload["track_ids"])
        case tag_writing.KIND:
            form, pattern = tag_writing.form_of(job.payload["form"]), job.payload["pattern"]
            return use.tag_writer.add(job.payload["track_ids"], form, pattern)
        case templating.KIND:
            template = templates.get_template(use.database.read(), job.payload["template_id"])
            return use.templater.add(template, job.payload["track_ids"], job.payload.get("delete", False))
    raise LibraryError("This work cannot be done again from here: begin it anew where it was begun.")
