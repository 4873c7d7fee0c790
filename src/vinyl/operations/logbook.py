"""What is done in the Logbook: nights and what was played at them, venues, and lists made from nights."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from vinyl.core.logbook.typed import read_lines
from vinyl.library import gigs, next_lists, plays, tracks, venues
from vinyl.library.clock import evening
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.gigs import Gig
from vinyl.library.named import Names
from vinyl.library.plays import Coming
from vinyl.library.venues import Recurring, Venue
from vinyl.operations.words import many

DAY_MIN = 24 * 60


def change_night(
    database: Database, gig_id: int, changes: Mapping[str, Any], venue: str | None = None
) -> None:
    """Say where and when a gig was, and how; a venue that is named is made if there is none."""
    with database.write(f"Change the night of {_said(gigs.get_gig(database.read(), gig_id))}") as connection:
        given = dict(changes)
        if venue:
            given["venue_id"] = venues.named(connection, venue)
        gigs.change_gig(connection, gig_id, given)


def name_nights(
    database: Database,
    gig_ids: Sequence[int],
    venue: str | None,
    kind: str | None,
    proposed: Mapping[int, tuple[int, str]],
) -> None:
    """Give nights a venue in one go: all the one that is said, or each what is proposed for it.

    Args:
        proposed: a venue and a kind for nights that must have been a gig that comes again.

    Raises:
        LibraryError: if no venue is said and none is proposed.
    """
    if not venue and not proposed:
        raise LibraryError("None of these nights fits a gig that comes again: say at which venue they were.")
    found = gigs.get_gigs(database.read(), gig_ids)
    with database.write(f"Name {_nights(found)}") as connection:
        said = venues.named(connection, venue) if venue else None
        for gig in found:
            usual_id, usual_kind = proposed.get(gig.id, (None, ""))
            venue_id = said or usual_id
            if venue_id is not None:
                changes = {"venue_id": venue_id, "kind": kind or gig.facts.kind or usual_kind}
                gigs.change_gig(connection, gig.id, changes)


def throw_away(database: Database, gig_ids: Sequence[int], practice: bool) -> None:
    """Throw gigs away as practice, which does not count as played; or bring them back."""
    what = f"Throw {_nights(gig_ids)} away as practice" if practice else f"Bring {_nights(gig_ids)} back"
    with database.write(what) as connection:
        gigs.throw_away(connection, gig_ids, practice)


def delete_nights(database: Database, gig_ids: Sequence[int]) -> None:
    """Delete gigs, with what is known of what was played there."""
    with database.write(f"Delete {_nights(gig_ids)}") as connection:
        gigs.delete_gigs(connection, gig_ids)


def join_nights(database: Database, gig_ids: Sequence[int]) -> int:
    """Make one gig of several; returns its id."""
    with database.write(f"Join {_nights(gig_ids)}") as connection:
        return gigs.join_gigs(connection, gig_ids)


def split_night(database: Database, gig_id: int, play_id: int) -> int:
    """Make a gig of its own of what was played from a play on; returns its id."""
    with database.write(f"Split the night of {_said(gigs.get_gig(database.read(), gig_id))}") as connection:
        return gigs.split_gig(connection, gig_id, play_id)


def add_plays(
    database: Database, gig_id: int, track_ids: Sequence[int], text: str, before: int | None
) -> None:
    """Put tracks or typed lines into a night, before one of its plays or at its end.

    Raises:
        LibraryError: if there is nothing to put in.
    """
    read = database.read()
    gig = gigs.get_gig(read, gig_id)
    coming = [Coming(track_id) for track_id in tracks.existing(read, track_ids)]
    lines = read_lines(text)
    names = Names(read, len(lines))
    for line in lines:
        at = None if line.begins_min is None else _after(gig, line.begins_min)
        coming.append(Coming(names.find(line.artist, line.title), line.artist, line.title, at))
    if not coming:
        raise LibraryError("There is nothing to put in: type a title, or choose a track.")
    with database.write(f"Put {_plays(coming)} into {_said(gig)}") as connection:
        plays.add(connection, gig_id, coming, before, "by hand")


def _after(gig: Gig, minutes: float) -> str:
    """A time of a gig's night: what is said after midnight is the next day."""
    begun = gig.facts.began
    begins = 60 * begun.hour + begun.minute
    later = DAY_MIN if gig.facts.timed and minutes < begins - 6 * 60 else 0
    return evening(begun.date(), minutes + later, gig.facts.zone)


def mark_plays(database: Database, play_ids: Sequence[int], marks: Mapping[str, Any]) -> int:
    """Mark plays of a night: went well, fell flat, asked for, never again; returns for how many the last was
    not said, because their tags are locked.
    """
    with database.write(f"Mark {_plays(play_ids)}") as connection:
        return plays.mark(connection, play_ids, marks)


def remove_plays(database: Database, play_ids: Sequence[int]) -> None:
    """Take plays out of a night."""
    with database.write(f"Take {_plays(play_ids)} out of the Logbook") as connection:
        plays.remove(connection, play_ids)


def move_plays(database: Database, play_ids: Sequence[int], before: int | None) -> None:
    """Move plays within their night."""
    with database.write(f"Move {_plays(play_ids)}") as connection:
        plays.move(connection, play_ids, before)


def match_play(database: Database, play_id: int, track_id: int | None) -> None:
    """Say which track a play was of."""
    with database.write("Say which track it was") as connection:
        plays.match(connection, play_id, track_id)


def make_venue(database: Database, name: str) -> int:
    """Make a venue; returns its id."""
    with database.write(f"Make the venue “{name}”") as connection:
        return venues.make_venue(connection, name)


def change_venue(
    database: Database, venue_id: int, changes: Mapping[str, Any], recurring: list[Recurring] | None
) -> None:
    """Say what is known of a venue, and which gigs come again there."""
    with database.write(f"Change the venue “{_venue(database, venue_id).name}”") as connection:
        venues.change_venue(connection, venue_id, changes)
        if recurring is not None:
            venues.say_recurring(connection, venue_id, recurring)


def delete_venue(database: Database, venue_id: int) -> None:
    """Delete a venue; its nights stay."""
    with database.write(f"Delete the venue “{_venue(database, venue_id).name}”") as connection:
        venues.delete_venue(connection, venue_id)


def make_next_list(
    database: Database, gig_id: int, name: str, track_ids: Sequence[int]
) -> tuple[int, dict[int, str]]:
    """Make the next list as a crate of these tracks; returns its id, and of which tracks it is warned."""
    with database.write(f"Make the list “{name}”") as connection:
        return next_lists.make_list(connection, gig_id, name, track_ids)


def _venue(database: Database, venue_id: int) -> Venue:
    return venues.get_venue(database.read(), venue_id)


def _said(gig: Gig) -> str:
    at = gig.facts.began
    return f"{at.day} {at:%b %Y}"


def _nights(gig_ids: Sequence[object]) -> str:
    return many(gig_ids, "a night", "nights")


def _plays(plays: Sequence[object]) -> str:
    return many(plays, "a play", "plays")
