"""What is done with sticks: making and choosing, what players wrote on them, and letting them go."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from vinyl.library import tracks
from vinyl.library.clock import stored
from vinyl.library.plays import Coming
from vinyl.library.taking_in import Taken, Told, take_in_told
from vinyl.media.files import FolderError
from vinyl.operations.services import Services
from vinyl.sticks import home_again, store
from vinyl.sticks.drives import find_drives
from vinyl.sticks.errors import StickError
from vinyl.sticks.home_again import Choice
from vinyl.sticks.index import track_of
from vinyl.sticks.medium import Fault, StandIn, claim_drive, gid_of, make_stand_in
from vinyl.sticks.names import safe_name
from vinyl.sticks.store import Options, Stick


def make(
    services: Services, name: str, profile: str, folder: str | None, capacity_bytes: int, spare_of: int | None
) -> int:
    """Make a stand-in stick, a folder with a capacity, or take a folder on a real drive for one; returns its
    id.
    """
    drive = drive_folder(services, folder) if folder else None
    place = drive or free_beside(services.settings.sticks / safe_name(name, 40, "Stick"))
    with services.database.write() as connection:
        stick_id = store.add_stick(connection, name.strip(), place, profile, "drive" if drive else "stand-in")
        if spare_of is not None:
            store.be_spare_of(connection, stick_id, spare_of)
    # Known first: one that is known and not there can be forgotten, one that is there and not known cannot.
    try:
        if drive:
            claim_drive(place, store.get_stick(services.database.read(), stick_id).gid)
        else:
            make_stand_in(place, capacity_bytes)
    except BaseException:
        with services.database.write() as connection:
            store.forget_stick(connection, stick_id)
        raise
    # Whoever has looked meanwhile saw one that is not in the computer.
    services.changed("sticks")
    return stick_id


def free_beside(folder: Path) -> Path:
    """The folder, or the next of its name that is not there, as that of a stick that was forgotten is."""
    number, found = 2, folder
    while found.exists():
        number, found = number + 1, folder.with_name(f"{folder.name} {number}")
    return found


def drive_folder(services: Services, folder: str) -> Path:
    """A removable drive, or a folder that Vinyl may read."""
    path = Path(folder).expanduser()
    if str(path) in {drive.path for drive in find_drives()}:
        return path.resolve()
    found = services.roots.check(path)
    if not found.is_dir():
        raise StickError(f"There is no folder {found}.")
    return found


def whose(services: Services, folder: str) -> str:
    """Whose stick a drive or a folder is already: "nobody"'s, one of "here", or of "another" Vinyl."""
    try:
        gid = gid_of(drive_folder(services, folder))
    except (FolderError, StickError, OSError):
        return "nobody"
    if gid is None:
        return "nobody"
    return (
        "here" if gid in {stick.gid for stick in store.list_sticks(services.database.read())} else "another"
    )


def forget(services: Services, stick_id: int) -> None:
    """Forget a stick; what is on it stays."""
    check_idle(services, stick_id)
    with services.database.write() as connection:
        store.forget_stick(connection, stick_id)


def choose_crates(services: Services, stick_id: int, crate_ids: Sequence[int]) -> None:
    """Set which crates a stick shall carry."""
    name = store.get_stick(services.database.read(), stick_id).name
    with services.database.write(f"Choose what “{name}” carries") as connection:
        store.choose_crates(connection, stick_id, crate_ids)


def choose_players(services: Services, stick_id: int, chosen: Mapping[str, tuple[str, int | None]]) -> None:
    """Set which players a stick is packed for."""
    with services.database.write() as connection:
        store.choose_players(connection, stick_id, chosen)


def choose_options(services: Services, stick_id: int, options: Options) -> None:
    """Set how tracks go onto a stick: routes, smaller files, loudness."""
    with services.database.write() as connection:
        store.choose_options(connection, stick_id, options)


def leave_out(services: Services, stick_id: int, track_ids: Sequence[int], left_out: bool) -> None:
    """Have a stick go without tracks of its lists, or with them again."""
    with services.database.write() as connection:
        store.leave_out(connection, stick_id, track_ids, left_out)


def keep_settings(
    services: Services, name: str, answers: Mapping[str, str], settings_id: int | None = None
) -> int:
    """Keep a set of settings for players, a new one or one that is changed; returns its id."""
    what = f"{'Keep' if settings_id is None else 'Change'} the settings “{name}”"
    with services.database.write(what) as connection:
        return store.keep_settings(connection, name, answers, settings_id)


def delete_settings(services: Services, settings_id: int) -> None:
    """Delete a set of settings."""
    with services.database.write("Delete a set of settings") as connection:
        store.delete_settings(connection, settings_id)


def choose_fault(services: Services, stick_id: int, fault: Fault, after_bytes: int) -> None:
    """Choose what goes wrong with a stand-in stick."""
    stand_in(services, stick_id).set_fault(fault, after_bytes)
    services.changed("sticks")


def cancel_packing(services: Services, stick_id: int) -> None:
    """Stop packing or checking; what is finished stays."""
    running = services.packer.running(stick_id)
    if running:
        services.runner.cancel(running.id)
    services.changed("sticks")


def eject(services: Services, stick_id: int) -> None:
    """Make sure that everything is on the stick, then let it go."""
    check_idle(services, stick_id)
    store.get_stick(services.database.read(), stick_id).medium.let_go()
    services.changed("sticks")


def set_in(services: Services, stick_id: int, is_in: bool) -> None:
    """The stand-in for putting a stick into the computer, or for pulling it out without a word."""
    stand_in(services, stick_id).set_in(is_in)
    services.changed("sticks")


def take_plays(services: Services, stick_id: int) -> list[Taken]:
    """Take in what a player has written down, each play once, as nights of the Logbook."""
    stick = store.get_stick(services.database.read(), stick_id)
    told = _told(services, stick)
    with services.database.write(f"Take in the plays of “{stick.name}”") as connection:
        return take_in_told(connection, told)


def _told(services: Services, stick: Stick) -> list[Told]:
    papers = services.papers.of(stick)
    home = tracks.meant_by(services.database.read(), [track_of(play.track) for play in papers.plays])
    return [
        Told(
            Coming(
                home.get(track_of(play.track)),
                *papers.names.get(play.track, ("", f"Unknown track {play.track[:12]}")),
                stored(play.began_at),
                play.heard_s,
            ),
            play.play,
        )
        for play in papers.plays
    ]


def take_home(
    services: Services, stick_id: int, choices: Mapping[str, Choice]
) -> tuple[int, list[tuple[str, str]]]:
    """Take what was chosen of what came home, as one step; returns how many values, and what failed."""
    stick = store.get_stick(services.database.read(), stick_id)
    papers = services.papers.of(stick)
    with services.database.write(f"Take in what was changed on “{stick.name}”") as connection:
        return home_again.take_home(connection, stick, papers, choices)


def check_idle(services: Services, stick_id: int) -> None:
    """Refuse to do something with a stick while it is written or read.

    Raises:
        StickError: if it is.
    """
    if services.packer.running(stick_id):
        raise StickError("This stick is being packed or checked. Wait until it is done, or cancel first.")


def stand_in(services: Services, stick_id: int) -> StandIn:
    """The medium of a stand-in stick.

    Raises:
        StickError: for a real drive.
    """
    medium = store.get_stick(services.database.read(), stick_id).medium
    if not isinstance(medium, StandIn):
        raise StickError("This is a real drive: take it out and put it in by hand.")
    return medium
