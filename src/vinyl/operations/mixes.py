"""What is done with one track mixed into another: it is laid out to be heard, and judged."""

from __future__ import annotations

from vinyl.core.planning.mixing import Mix, Settings, Side, drops_meet, mix, moved
from vinyl.library import mixes
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.tracks import get_track


def plan(
    database: Database,
    out_track_id: int,
    in_track_id: int,
    settings: Settings,
    out_beats: int = 0,
    in_beats: int = 0,
    drops: bool = False,
) -> tuple[Mix, Side, Side]:
    """One track laid on another, with both as they are mixed; nothing is changed.

    Args:
        out_beats: by how many beats the out point is moved first, and ``in_beats`` the in point.
        drops: whether the in point is moved so that both drops meet.

    Raises:
        NotFoundError: if one is gone.
        LibraryError: if one has no beatgrid.
        MixError: for what cannot be.
    """
    read = database.read()
    out, into = mixes.read_side(read, out_track_id), mixes.read_side(read, in_track_id)
    settings = moved(out, into, settings, out_beats, in_beats)
    if drops:
        settings = drops_meet(out, into, settings)
    return mix(out, into, settings), out, into


def say(database: Database, out_track_id: int, in_track_id: int, works: bool | None) -> None:
    """Remember whether one track goes over into another; None forgets it."""
    if out_track_id == in_track_id:
        raise LibraryError("Choose two different tracks.")
    read = database.read()
    names = [get_track(read, each)["title"] or "a track" for each in (out_track_id, in_track_id)]
    word = {True: "works", False: "does not work", None: "is not decided"}[works]
    with database.write(f"Say that “{names[0]}” into “{names[1]}” {word}") as connection:
        mixes.say(connection, out_track_id, in_track_id, works)
