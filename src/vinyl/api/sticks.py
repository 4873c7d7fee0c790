"""Sticks: making a stand-in, choosing crates, planning, packing, ejecting."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.logbook import NightTakenOut
from vinyl.api.models.sticks import (
    PackResult,
    PlannedTrackOut,
    PlanOut,
    ProfileOut,
    StickCrates,
    StickIn,
    StickOut,
)
from vinyl.api.services import Services, Use
from vinyl.jobs.packing import KIND
from vinyl.library import jobs, tracks
from vinyl.library.clock import stored
from vinyl.library.jobs import Job
from vinyl.library.plays import Coming
from vinyl.library.taking_in import Taken, Told, take_in_told
from vinyl.sticks import store
from vinyl.sticks.errors import StickError
from vinyl.sticks.index import read_index
from vinyl.sticks.medium import make_medium
from vinyl.sticks.names import safe_name
from vinyl.sticks.plan import make_plan
from vinyl.sticks.plays import read_plays
from vinyl.sticks.profiles import PROFILES
from vinyl.sticks.store import Stick

router = APIRouter(prefix="/api/sticks", tags=["sticks"])


@router.get("")
def list_sticks(use: Use) -> list[StickOut]:
    """All sticks that Vinyl knows."""
    return [_stick_out(use, stick) for stick in store.list_sticks(use.database.read())]


@router.get("/profiles")
def list_profiles() -> list[ProfileOut]:
    """The players that Vinyl can pack for."""
    return [ProfileOut.model_validate(profile) for profile in PROFILES.values()]


@router.post("", status_code=201)
def make_stick(use: Use, wanted: StickIn) -> StickOut:
    """Make a stand-in stick: a folder with a capacity."""
    folder = use.settings.sticks / safe_name(wanted.name, 40, "Stick")
    with use.database.write() as connection:
        stick_id = store.add_stick(connection, wanted.name.strip(), folder, wanted.profile)
        make_medium(folder, wanted.capacity_mb * 1_000_000)
    use.changed("sticks")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.put("/{stick_id}/crates")
def choose_crates(use: Use, stick_id: int, wanted: StickCrates) -> StickOut:
    """Set which crates a stick shall carry."""
    name = store.get_stick(use.database.read(), stick_id).name
    with use.database.write(f"Choose what “{name}” carries") as connection:
        store.choose_crates(connection, stick_id, wanted.crate_ids)
    use.changed("sticks", "undo")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.post("/{stick_id}/plan")
def plan_stick(use: Use, stick_id: int) -> PlanOut:
    """What packing would write, keep and remove."""
    connection = use.database.read()
    plan = make_plan(connection, store.get_stick(connection, stick_id))
    return PlanOut(
        tracks=[
            PlannedTrackOut(
                file=t.entry.file,
                title=t.entry.title,
                artist=t.entry.artist,
                action=t.action,
                size_bytes=t.size_bytes,
            )
            for t in plan.tracks
        ],
        crates=[crate.name for crate in plan.crates],
        removed=[entry.file for entry in plan.removed],
        left_out=list(plan.left_out),
        write_bytes=plan.write_bytes,
        removed_bytes=plan.removed_bytes,
        free_bytes=plan.free_bytes,
        capacity_bytes=plan.capacity_bytes,
        missing_bytes=plan.missing_bytes,
    )


@router.post("/{stick_id}/pack", status_code=202)
def pack_stick(use: Use, stick_id: int) -> StickOut:
    """Pack a stick in the background."""
    use.packer.add(stick_id)
    use.changed("sticks")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.post("/{stick_id}/cancel")
def cancel_packing(use: Use, stick_id: int) -> StickOut:
    """Stop packing; what is finished stays."""
    running = use.packer.running(stick_id)
    if running:
        use.runner.cancel(running.id)
        use.changed("sticks")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.post("/{stick_id}/eject")
def eject_stick(use: Use, stick_id: int) -> StickOut:
    """Make sure that everything is on the stick, then let it go."""
    if use.packer.running(stick_id):
        raise StickError("This stick is being packed. Wait until it is done, or cancel first.")
    return _set_in(use, stick_id, False)


@router.post("/{stick_id}/pull")
def pull_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for pulling a stick out without a word, even while it is written."""
    return _set_in(use, stick_id, False)


@router.post("/{stick_id}/insert")
def insert_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for putting the stick into the computer; what was played from it is taken in."""
    out = _set_in(use, stick_id, True)
    taken = _take_plays(use, store.get_stick(use.database.read(), stick_id))
    out.plays_taken = sum(each.added for each in taken)
    out.nights = [NightTakenOut.model_validate(each) for each in taken]
    return out


def _take_plays(use: Services, stick: Stick) -> list[Taken]:
    """Take in what a player has written down, each play once, as nights of the Logbook."""
    entries = read_plays(stick.medium.folder)
    home = tracks.by_audio_hash(use.database.read(), [entry.track for entry in entries])
    index = read_index(stick.medium.folder)
    named = {track.id: (track.artist, track.title) for track in index.tracks} if index else {}
    told = [
        Told(
            Coming(
                home.get(entry.track),
                *named.get(entry.track, ("", f"Unknown track {entry.track[:12]}")),
                stored(entry.began_at),
                entry.heard_s,
            ),
            entry.play,
        )
        for entry in entries
    ]
    with use.database.write(f"Take in the plays of “{stick.name}”") as connection:
        taken = take_in_told(connection, told)
    if taken:
        use.changed("tracks", "gigs", "undo")
    return taken


def _set_in(use: Services, stick_id: int, is_in: bool) -> StickOut:
    store.get_stick(use.database.read(), stick_id).medium.set_in(is_in)
    use.changed("sticks")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


def _stick_out(use: Services, stick: Stick) -> StickOut:
    job = jobs.newest_job(use.database.read(), KIND, "stick_id", stick.id)
    return StickOut(
        id=stick.id,
        name=stick.name,
        folder=str(stick.medium.folder),
        profile=ProfileOut.model_validate(stick.profile),
        is_in=stick.medium.is_in,
        capacity_bytes=stick.medium.capacity_bytes,
        used_bytes=stick.medium.used_bytes(),
        crate_ids=list(stick.crate_ids),
        nights=[],
        last_run=_run_out(use.runner.get(job.id)) if job else None,
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
        failures=job.failures,
    )
