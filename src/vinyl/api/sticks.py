"""Sticks: making, planning, packing, checking, ejecting, and what comes home on them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from vinyl.api.models.logbook import NightTakenOut
from vinyl.api.models.sticks import (
    CameHomeOut,
    CheckIn,
    ChoicesIn,
    DriveOut,
    FaultIn,
    LeftOutIn,
    OptionsIn,
    PlanOut,
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
from vinyl.api.services import Use
from vinyl.api.sticks_out import came_home_out, stick_out, sticks_out
from vinyl.operations import sticks
from vinyl.operations.services import Services
from vinyl.sticks import store
from vinyl.sticks.drives import find_drives
from vinyl.sticks.profiles import PROFILES
from vinyl.sticks.settings import SETTINGS

router = APIRouter(prefix="/api/sticks", tags=["sticks"])


@router.get("")
def list_sticks(use: Use) -> list[StickOut]:
    """All sticks that Vinyl knows."""
    return sticks_out(use)


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
    return WhoseOut.model_validate({"whose": sticks.whose(use, folder)})


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
    settings_id = sticks.keep_settings(use, wanted.name, wanted.answers)
    return SettingsOut(id=settings_id, name=wanted.name, answers=wanted.answers)


@router.put("/settings/{settings_id}")
def change_settings(use: Use, settings_id: int, wanted: SettingsIn) -> SettingsOut:
    """Change a set of settings."""
    sticks.keep_settings(use, wanted.name, wanted.answers, settings_id)
    return SettingsOut(id=settings_id, name=wanted.name, answers=wanted.answers)


@router.delete("/settings/{settings_id}", status_code=204)
def delete_settings(use: Use, settings_id: int) -> None:
    """Delete a set of settings."""
    sticks.delete_settings(use, settings_id)


@router.post("", status_code=201)
def make_stick(use: Use, wanted: StickIn) -> StickOut:
    """Make a stand-in stick, a folder with a capacity, or take a folder on a real drive for one."""
    capacity = wanted.capacity_mb * 1_000_000
    stick_id = sticks.make(use, wanted.name, wanted.profile, wanted.folder, capacity, wanted.spare_of)
    return _out(use, stick_id)


@router.delete("/{stick_id}", status_code=204)
def forget_stick(use: Use, stick_id: int) -> None:
    """Forget a stick; what is on it stays."""
    sticks.forget(use, stick_id)


@router.put("/{stick_id}/crates")
def choose_crates(use: Use, stick_id: int, wanted: StickCrates) -> StickOut:
    """Set which crates a stick shall carry."""
    sticks.choose_crates(use, stick_id, wanted.crate_ids)
    return _out(use, stick_id)


@router.put("/{stick_id}/players")
def choose_players(use: Use, stick_id: int, wanted: PlayersIn) -> StickOut:
    """Set which players a stick is packed for."""
    chosen = {each.profile: (each.form, each.settings_id) for each in wanted.players}
    sticks.choose_players(use, stick_id, chosen)
    return _out(use, stick_id)


@router.put("/{stick_id}/options")
def choose_options(use: Use, stick_id: int, wanted: OptionsIn) -> StickOut:
    """Set how tracks go onto a stick: routes, smaller files, loudness."""
    sticks.choose_options(use, stick_id, store.Options(**wanted.model_dump()))
    return _out(use, stick_id)


@router.put("/{stick_id}/left-out")
def leave_out(use: Use, stick_id: int, wanted: LeftOutIn) -> StickOut:
    """Have a stick go without tracks of its lists, or with them again."""
    sticks.leave_out(use, stick_id, wanted.track_ids, wanted.left_out)
    return _out(use, stick_id)


@router.put("/{stick_id}/fault")
def choose_fault(use: Use, stick_id: int, wanted: FaultIn) -> StickOut:
    """Choose what goes wrong with a stand-in stick."""
    sticks.choose_fault(use, stick_id, wanted.fault, round(wanted.after_mb * 1e6))
    return _out(use, stick_id)


@router.post("/{stick_id}/plan")
def plan_stick(use: Use, stick_id: int) -> PlanOut:
    """What packing would write, keep and remove."""
    connection = use.database.read()
    return plan_out(connection, store.get_stick(connection, stick_id), use.waveforms)


@router.post("/{stick_id}/pack", status_code=202)
def pack_stick(use: Use, stick_id: int) -> StickOut:
    """Pack a stick in the background."""
    use.packer.add(stick_id)
    return _out(use, stick_id)


@router.post("/{stick_id}/check", status_code=202)
def check_stick(use: Use, stick_id: int, wanted: CheckIn) -> StickOut:
    """See in the background whether everything is whole on a stick, and mend it if that is wished."""
    use.packer.check(stick_id, wanted.mend)
    return _out(use, stick_id)


@router.post("/{stick_id}/cancel")
def cancel_packing(use: Use, stick_id: int) -> StickOut:
    """Stop packing; what is finished stays."""
    sticks.cancel_packing(use, stick_id)
    return _out(use, stick_id)


@router.post("/{stick_id}/eject")
def eject_stick(use: Use, stick_id: int) -> StickOut:
    """Make sure that everything is on the stick, then let it go."""
    sticks.eject(use, stick_id)
    return _out(use, stick_id)


@router.post("/{stick_id}/pull")
def pull_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for pulling a stick out without a word, even while it is written."""
    sticks.set_in(use, stick_id, False)
    return _out(use, stick_id)


@router.post("/{stick_id}/insert")
def insert_stick(use: Use, stick_id: int) -> StickOut:
    """The stand-in for putting the stick into the computer; what was played from it is taken in."""
    sticks.set_in(use, stick_id, True)
    return _with_plays(use, stick_id, _out(use, stick_id))


@router.post("/{stick_id}/plays")
def take_plays(use: Use, stick_id: int) -> StickOut:
    """Take in what was played from a stick that is in the computer."""
    return _with_plays(use, stick_id, _out(use, stick_id))


def _with_plays(use: Services, stick_id: int, out: StickOut) -> StickOut:
    taken = sticks.take_plays(use, stick_id)
    out.plays_taken = sum(each.added for each in taken)
    out.nights = [NightTakenOut.model_validate(each) for each in taken]
    return out


@router.get("/{stick_id}/home")
def list_came_home(use: Use, stick_id: int) -> list[CameHomeOut]:
    """What was changed on players and is not answered yet."""
    return came_home_out(use, stick_id)


@router.post("/{stick_id}/home")
def take_home(use: Use, stick_id: int, wanted: ChoicesIn) -> TakenHomeOut:
    """Take what was chosen of what came home, as one step."""
    taken, failed = sticks.take_home(use, stick_id, wanted.choices)
    return TakenHomeOut(taken=taken, failed=[f"{subject}: {why}" for subject, why in failed])


def _out(use: Services, stick_id: int) -> StickOut:
    return stick_out(use, store.get_stick(use.database.read(), stick_id))
