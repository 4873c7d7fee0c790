"""Sticks: making a stand-in, choosing crates, planning, packing, ejecting."""

from __future__ import annotations

import json
import sqlite3

from fastapi import APIRouter

from vinyl.api import models
from vinyl.api.services import Services, Use
from vinyl.sticks import store
from vinyl.sticks.errors import StickError
from vinyl.sticks.medium import make_medium
from vinyl.sticks.names import safe_name
from vinyl.sticks.plan import make_plan
from vinyl.sticks.profiles import PROFILES
from vinyl.sticks.store import Stick

router = APIRouter(prefix="/api/sticks", tags=["sticks"])


@router.get("")
def list_sticks(use: Use) -> list[models.StickOut]:
    """All sticks that Vinyl knows."""
    return [_stick_out(use, stick) for stick in store.list_sticks(use.database.read())]


@router.get("/profiles")
def list_profiles() -> list[models.ProfileOut]:
    """The players that Vinyl can pack for."""
    return [models.ProfileOut.model_validate(profile) for profile in PROFILES.values()]


@router.post("", status_code=201)
def make_stick(use: Use, wanted: models.StickIn) -> models.StickOut:
    """Make a stand-in stick: a folder with a capacity."""
    folder = use.settings.sticks / safe_name(wanted.name, 40, "Stick")
    with use.database.write() as connection:
        stick_id = store.add_stick(connection, wanted.name.strip(), folder, wanted.profile)
        make_medium(folder, wanted.capacity_mb * 1_000_000)
    use.changed("stick", stick_id=stick_id)
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.put("/{stick_id}/crates")
def choose_crates(use: Use, stick_id: int, wanted: models.StickCrates) -> models.StickOut:
    """Set which crates a stick shall carry."""
    with use.database.write() as connection:
        store.choose_crates(connection, stick_id, wanted.crate_ids)
    use.changed("stick", stick_id=stick_id)
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.get("/{stick_id}/plan")
def plan_stick(use: Use, stick_id: int) -> models.PlanOut:
    """What packing would write, keep and remove."""
    connection = use.database.read()
    plan = make_plan(connection, store.get_stick(connection, stick_id))
    return models.PlanOut(
        tracks=[
            models.PlannedTrackOut(
                file=t.entry["file"],
                title=t.entry["title"],
                artist=t.entry["artist"],
                action=t.action,
                size_bytes=t.size_bytes,
            )
            for t in plan.tracks
        ],
        crates=[crate["name"] for crate in plan.crates],
        removed=[entry["file"] for entry in plan.removed],
        left_out=list(plan.left_out),
        write_bytes=plan.write_bytes,
        removed_bytes=plan.removed_bytes,
        free_bytes=plan.free_bytes,
        capacity_bytes=plan.capacity_bytes,
        missing_bytes=plan.missing_bytes,
    )


@router.post("/{stick_id}/pack", status_code=202)
def pack_stick(use: Use, stick_id: int) -> models.StickOut:
    """Pack a stick in the background."""
    use.packer.add(stick_id)
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.post("/{stick_id}/cancel")
def cancel_packing(use: Use, stick_id: int) -> models.StickOut:
    """Stop packing; what is finished stays."""
    use.packer.cancel(stick_id)
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


@router.post("/{stick_id}/eject")
def eject_stick(use: Use, stick_id: int) -> models.StickOut:
    """Make sure that everything is on the stick, then let it go."""
    if use.packer.running(stick_id):
        raise StickError("This stick is being packed. Wait until it is done, or cancel first.")
    return _set_in(use, stick_id, False)


@router.post("/{stick_id}/pull")
def pull_stick(use: Use, stick_id: int) -> models.StickOut:
    """The stand-in for pulling a stick out without a word, even while it is written."""
    return _set_in(use, stick_id, False)


@router.post("/{stick_id}/insert")
def insert_stick(use: Use, stick_id: int) -> models.StickOut:
    """The stand-in for putting the stick into the computer."""
    return _set_in(use, stick_id, True)


def _set_in(use: Services, stick_id: int, is_in: bool) -> models.StickOut:
    store.get_stick(use.database.read(), stick_id).medium.set_in(is_in)
    use.changed("stick", stick_id=stick_id)
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


def _stick_out(use: Services, stick: Stick) -> models.StickOut:
    run = store.last_run(use.database.read(), stick.id)
    return models.StickOut(
        id=stick.id,
        name=stick.name,
        folder=str(stick.medium.folder),
        profile=models.ProfileOut.model_validate(stick.profile),
        is_in=stick.medium.is_in,
        capacity_bytes=stick.medium.capacity_bytes,
        used_bytes=stick.medium.used_bytes(),
        crate_ids=list(stick.crate_ids),
        last_run=_run_out(run) if run else None,
    )


def _run_out(run: sqlite3.Row) -> models.PackResult:
    summary = json.loads(run["summary"] or "{}")
    return models.PackResult(
        state=run["state"],
        error=run["error"],
        finished_at=run["finished_at"],
        tracks=summary.get("tracks"),
        written=summary.get("written"),
        removed=summary.get("removed"),
    )
