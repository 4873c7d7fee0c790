"""Sticks: making, planning, packing, checking, ejecting, and what comes home on them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.models.logbook import NightTakenOut
from vinyl.api.models.sticks import (
    CameHomeOut,
    CheckIn,
    CheckResult,
    ChoicesIn,
    DriveOut,
    FaultIn,
    LeftOutIn,
    OptionsIn,
    PackResult,
    PlanOut,
    PlayerOut,
    PlayersIn,
    ProfileOut,
    SettingOut,
    SettingsIn,
    SettingsOut,
    StickCrates,
    StickIn,
    StickOut,
    TakenHomeOut,
    WhoseOut,
)
from vinyl.api.planning import plan_out
from vinyl.api.services import Services, Use
from vinyl.jobs.packing import CHECK, PACK
from vinyl.library import jobs, tracks
from vinyl.library.clock import stored
from vinyl.library.jobs import Job
from vinyl.library.plays import Coming
from vinyl.library.taking_in import Taken, Told, take_in_told
from vinyl.media.files import FolderError
from vinyl.sticks import home_again, store
from vinyl.sticks.drives import file_system_of, find_drives
from vinyl.sticks.errors import StickError
from vinyl.sticks.index import read_index, track_of
from vinyl.sticks.medium import StandIn, claim_drive, gid_of, make_stand_in
from vinyl.sticks.names import safe_name
from vinyl.sticks.own_files import same_contents
from vinyl.sticks.plays import read_plays
from vinyl.sticks.profiles import PROFILES
from vinyl.sticks.settings import SETTINGS
from vinyl.sticks.store import Stick

router = APIRouter(prefix="/api/sticks", tags=["sticks"])


@router.get("")
def list_sticks(use: Use) -> list[StickOut]:
    """All sticks that Vinyl knows."""
    sticks = store.list_sticks(use.database.read())
    names = {stick.id: stick.name for stick in sticks}
    same = same_contents(use.database.read())
    return [_stick_out(use, stick, [names[other] for other in same.get(stick.id, ())]) for stick in sticks]


@router.get("/profiles")
def list_profiles() -> list[ProfileOut]:
    """The players that Vinyl can pack for."""
    return [ProfileOut.model_validate(profile, from_attributes=True) for profile in PROFILES.values()]


@router.get("/drives")
def list_drives() -> list[DriveOut]:
    """Removable drives that are in the computer."""
    return [DriveOut.model_validate(drive, from_attributes=True) for drive in find_drives()]


@router.get("/whose")
def whose_stick(use: Use, folder: Annotated[str, Query(max_length=4096)]) -> WhoseOut:
    """Whether a drive or a folder is a stick already: nobody's, one of here, or one of another Vinyl."""
    try:
        gid = gid_of(_drive_folder(use, folder))
    except (FolderError, StickError, OSError):
        return WhoseOut(whose="nobody")
    if gid is None:
        return WhoseOut(whose="nobody")
    here = {stick.gid for stick in store.list_sticks(use.database.read())}
    return WhoseOut(whose="here" if gid in here else "another")


@router.get("/settings/known")
def known_settings() -> list[SettingOut]:
    """What players can be told, and the answers that there are."""
    return [SettingOut.model_validate(each, from_attributes=True) for each in SETTINGS.values()]


@router.get("/settings")
def list_settings(use: Use) -> list[SettingsOut]:
    """Sets of settings."""
    return [
        SettingsOut.model_validate(each, from_attributes=True)
        for each in store.list_settings(use.database.read())
    ]


@router.post("/settings", status_code=201)
def keep_settings(use: Use, wanted: SettingsIn) -> SettingsOut:
    """Keep a new set of settings."""
    with use.database.write() as connection:
        settings_id = store.keep_settings(connection, wanted.name, wanted.answers)
    use.changed("sticks")
    return SettingsOut(id=settings_id, name=wanted.name, answers=wanted.answers)


@router.put("/settings/{settings_id}")
def change_settings(use: Use, settings_id: int, wanted: SettingsIn) -> SettingsOut:
    """Change a set of settings."""
    with use.database.write() as connection:
        store.keep_settings(connection, wanted.name, wanted.answers, settings_id)
    use.changed("sticks")
    return SettingsOut(id=settings_id, name=wanted.name, answers=wanted.answers)


@router.delete("/settings/{settings_id}", status_code=204)
def delete_settings(use: Use, settings_id: int) -> None:
    """Delete a set of settings."""
    with use.database.write() as connection:
        store.delete_settings(connection, settings_id)
    use.changed("sticks")


@router.post("", status_code=201)
def make_stick(use: Use, wanted: StickIn) -> StickOut:
    """Make a stand-in stick, a folder with a capacity, or take a folder on a real drive for one."""
    name = wanted.name.strip()
    drive = _drive_folder(use, wanted.folder) if wanted.folder else None
    folder = drive or use.settings.sticks / safe_name(wanted.name, 40, "Stick")
    with use.database.write() as connection:
        kind: store.MediumName = "drive" if drive else "stand-in"
        stick_id = store.add_stick(connection, name, folder, wanted.profile, kind)
        if wanted.spare_of is not None:
            store.be_spare_of(connection, stick_id, wanted.spare_of)
        if drive:
            claim_drive(folder, store.get_stick(connection, stick_id).gid)
        else:
            make_stand_in(folder, wanted.capacity_mb * 1_000_000)
    use.changed("sticks")
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


def _drive_folder(use: Services, folder: str) -> Path:
    """A removable drive, or a folder that Vinyl may read."""
    path = Path(folder).expanduser()
    if str(path) in {drive.path for drive in find_drives()}:
        return path.resolve()
    found = use.roots.check(path)
    if not found.is_dir():
        raise StickError(f"There is no folder {found}.")
    return found


@router.delete("/{stick_id}", status_code=204)
def forget_stick(use: Use, stick_id: int) -> None:
    """Forget a stick; what is on it stays."""
    _check_idle(use, stick_id)
    with use.database.write() as connection:
        store.forget_stick(connection, stick_id)
    use.changed("sticks")


@router.put("/{stick_id}/crates")
def choose_crates(use: Use, stick_id: int, wanted: StickCrates) -> StickOut:
    """Set which crates a stick shall carry."""
    name = store.get_stick(use.database.read(), stick_id).name
    with use.database.write(f"Choose what “{name}” carries") as connection:
        store.choose_crates(connection, stick_id, wanted.crate_ids)
    return _changed(use, stick_id, "undo")


@router.put("/{stick_id}/players")
def choose_players(use: Use, stick_id: int, wanted: PlayersIn) -> StickOut:
    """Set which players a stick is packed for."""
    chosen = {each.profile: (each.form, each.settings_id) for each in wanted.players}
    with use.database.write() as connection:
        store.choose_players(connection, stick_id, chosen)
    return _changed(use, stick_id)


@router.put("/{stick_id}/options")
def choose_options(use: Use, stick_id: int, wanted: OptionsIn) -> StickOut:
    """Set how tracks go onto a stick: routes, smaller files, loudness."""
    with use.database.write() as connection:
        store.choose_options(connection, stick_id, store.Options(**wanted.model_dump()))
    return _changed(use, stick_id)


@router.put("/{stick_id}/left-out")
def leave_out(use: Use, stick_id: int, wanted: LeftOutIn) -> StickOut:
    """Have a stick go without tracks of its lists, or with them again."""
    with use.database.write() as connection:
        store.leave_out(connection, stick_id, wanted.track_ids, wanted.left_out)
    return _changed(use, stick_id)


@router.put("/{stick_id}/fault")
def choose_fault(use: Use, stick_id: int, wanted: FaultIn) -> StickOut:
    """Choose what goes wrong with a stand-in stick."""
    _stand_in(use, stick_id).set_fault(wanted.fault, round(wanted.after_mb * 1e6))
    return _moved(use, stick_id)


@router.post("/{stick_id}/plan")
def plan_stick(use: Use, stick_id: int) -> PlanOut:
    """What packing would write, keep and remove."""
    connection = use.database.read()
    return plan_out(connection, store.get_stick(connection, stick_id), use.waveforms)


@router.post("/{stick_id}/pack", status_code=202)
def pack_stick(use: Use, stick_id: int) -> StickOut:
    """Pack a stick in the background."""
    use.packer.add(stick_id)
    return _changed(use, stick_id)


@router.post("/{stick_id}/check", status_code=202)
def check_stick(use: Use, stick_id: int, wanted: CheckIn) -> StickOut:
    """See in the background whether everything is whole on a stick, and mend it if that is wished."""
    use.packer.check(stick_id, wanted.mend)
    return _changed(use, stick_id)


@router.post("/{stick_id}/cancel")
def cancel_packing(use: Use, stick_id: int) -> StickOut:
    """Stop packing; what is finished stays."""
    running = use.packer.running(stick_id)
    if running:
        use.runner.cancel(running.id)
    return _moved(use, stick_id)


@router.post("/{stick_id}/eject")
def eject_stick(use: Use, stick_id: int) -> StickOut:
    """Make sure that everything is on the stick, then let it go."""
    _check_idle(use, stick_id)
    store.get_stick(use.database.read(), stick_id).medium.let_go()
    return _moved(use, stick_id)


@router.post("/{stick_id}/pull")
def pull_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for pulling a stick out without a word, even while it is written."""
    _stand_in(use, stick_id).set_in(False)
    return _moved(use, stick_id)


@router.post("/{stick_id}/insert")
def insert_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for putting the stick into the computer; what was played from it is taken in."""
    _stand_in(use, stick_id).set_in(True)
    out = _moved(use, stick_id)
    return _with_plays(use, stick_id, out)


@router.post("/{stick_id}/plays")
def take_plays(use: Use, stick_id: int) -> StickOut:
    """Take in what was played from a stick that is in the computer."""
    out = _stick_out(use, store.get_stick(use.database.read(), stick_id))
    return _with_plays(use, stick_id, out)


def _with_plays(use: Services, stick_id: int, out: StickOut) -> StickOut:
    taken = _take_plays(use, store.get_stick(use.database.read(), stick_id))
    out.plays_taken = sum(each.added for each in taken)
    out.nights = [NightTakenOut.model_validate(each) for each in taken]
    return out


@router.get("/{stick_id}/home")
def list_came_home(use: Use, stick_id: int) -> list[CameHomeOut]:
    """What was changed on players and is not answered yet."""
    connection = use.database.read()
    stick = store.get_stick(connection, stick_id)
    return [
        CameHomeOut.model_validate(each, from_attributes=True)
        for each in home_again.came_home(connection, stick)
    ]


@router.post("/{stick_id}/home")
def take_home(use: Use, stick_id: int, wanted: ChoicesIn) -> TakenHomeOut:
    """Take what was chosen of what came home, as one step."""
    stick = store.get_stick(use.database.read(), stick_id)
    with use.database.write(f"Take in what was changed on “{stick.name}”") as connection:
        taken, failed = home_again.take_home(connection, stick, wanted.choices)
    use.changed("tracks", "lists", "undo", "sticks")
    return TakenHomeOut(taken=taken, failed=[f"{subject}: {why}" for subject, why in failed])


def _take_plays(use: Services, stick: Stick) -> list[Taken]:
    """Take in what a player has written down, each play once, as nights of the Logbook."""
    entries = read_plays(stick.medium.folder)
    home = tracks.by_audio_hash(use.database.read(), [track_of(entry.track) for entry in entries])
    index = read_index(stick.medium.folder)
    players = index.players if index else []
    named = {track.id: (track.artist, track.title) for player in players for track in player.tracks}
    told = [
        Told(
            Coming(
                home.get(track_of(entry.track)),
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


def _check_idle(use: Services, stick_id: int) -> None:
    if use.packer.running(stick_id):
        raise StickError("This stick is being packed or checked. Wait until it is done, or cancel first.")


def _stand_in(use: Services, stick_id: int) -> StandIn:
    medium = store.get_stick(use.database.read(), stick_id).medium
    if not isinstance(medium, StandIn):
        raise StickError("This is a real drive: take it out and put it in by hand.")
    return medium


def _moved(use: Services, stick_id: int) -> StickOut:
    """What happened to the stick itself counts too: windows tell changes by the library's number."""
    with use.database.write():
        pass
    return _changed(use, stick_id)


def _changed(use: Services, stick_id: int, *more: str) -> StickOut:
    use.changed("sticks", *more)  # type: ignore[arg-type]
    return _stick_out(use, store.get_stick(use.database.read(), stick_id))


def _stick_out(use: Services, stick: Stick, same_as: Sequence[str] = ()) -> StickOut:
    read, medium = use.database.read(), stick.medium
    packed = jobs.newest_job(read, PACK, "stick_id", stick.id)
    checked = jobs.newest_job(read, CHECK, "stick_id", stick.id)
    capacity = medium.capacity_bytes
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
        came_home=len(home_again.came_home(read, stick)) if medium.is_in else 0,
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
