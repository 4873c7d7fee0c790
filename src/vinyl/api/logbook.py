"""The Logbook: gigs, what was played at them, and what that tells of venues, tracks and years."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query

from vinyl.api.logbook_out import gigs_out, night_out
from vinyl.api.models.logbook import (
    AddIn,
    BesideOut,
    FiguresOut,
    GigChange,
    GigOut,
    GigsIn,
    MarkedOut,
    MarksIn,
    MatchIn,
    MostOut,
    MovedIn,
    NamingIn,
    NightOut,
    PairOut,
    PlayedOut,
    PlayedThereOut,
    PlaysIn,
    SharedOut,
    SplitIn,
    ThrownIn,
    TrackPlayOut,
)
from vinyl.api.models.shared import Id
from vinyl.api.services import Services, Use
from vinyl.core.logbook.beside import shared_tracks
from vinyl.core.logbook.typed import read_lines
from vinyl.library import gigs, logbook, plays, tracks, venues
from vinyl.library.clock import evening, local, minutes_of
from vinyl.library.errors import LibraryError
from vinyl.library.gigs import Gig
from vinyl.library.logbook import Sorted
from vinyl.library.named import Names
from vinyl.library.plays import Coming

router = APIRouter(prefix="/api", tags=["logbook"])

DAY_MIN = 24 * 60
PLAIN = ("venue_id", "name", "kind", "note")
# What a gig may be without.
NULLABLE = frozenset({"venue_id", "begins", "ends"})


@router.get("/gigs")
def list_gigs(use: Use, practice: bool = False) -> list[GigOut]:
    """All gigs, the newest first; or those that were thrown away as practice."""
    read = use.database.read()
    return gigs_out(read, gigs.list_gigs(read, practice))


@router.get("/gigs/{gig_id}")
def get_gig(use: Use, gig_id: int) -> NightOut:
    """A gig with what was played there."""
    return night_out(use.database.read(), gig_id)


@router.get("/gigs/{first_id}/beside/{second_id}")
def compare_gigs(use: Use, first_id: int, second_id: int) -> BesideOut:
    """Two nights beside each other, with what they share."""
    read = use.database.read()
    first, second = (plays.list_plays(read, gig_id) for gig_id in (first_id, second_id))
    shared = shared_tracks([play.name for play in first], [play.name for play in second])
    return BesideOut(
        first=night_out(read, first_id),
        second=night_out(read, second_id),
        shared=[SharedOut.model_validate(each) for each in shared],
    )


@router.patch("/gigs/{gig_id}")
def change_gig(use: Use, gig_id: int, change: GigChange) -> NightOut:
    """Say where and when a gig was, and how."""
    gig = gigs.get_gig(use.database.read(), gig_id)
    with use.database.write(f"Change the night of {_said(gig)}") as connection:
        changes = _changes(gig, change)
        if change.venue:
            changes["venue_id"] = venues.named(connection, change.venue)
        gigs.change_gig(connection, gig_id, changes)
    _tell(use)
    return night_out(use.database.read(), gig_id)


def _changes(gig: Gig, change: GigChange) -> dict[str, Any]:
    given = change.model_dump(exclude_unset=True)
    given = {name: value for name, value in given.items() if value is not None or name in NULLABLE}
    changes: dict[str, Any] = {name: given[name] for name in PLAIN if name in given}
    if given.get("venue") == "":
        changes["venue_id"] = None
    if not given.keys() & {"on", "begins", "ends"}:
        return changes
    at, end = local(gig.facts.began_at), gig.facts.ended_at
    on = change.on or at.date()
    begins = change.begins if "begins" in given else f"{at:%H:%M}" if gig.facts.timed else None
    ends = change.ends if "ends" in given else f"{local(end):%H:%M}" if end and gig.facts.timed else None
    changes["timed"] = begins is not None
    # Without a time of day the date alone moves, and what was played keeps the times that it has.
    changes["began_at"] = evening(on, minutes_of(begins or f"{at:%H:%M}"))
    changes["ended_at"] = _end(on, begins, ends)
    return changes


def _end(on: date, begins: str | None, ends: str | None) -> str | None:
    if ends is None or begins is None:
        return None
    later = DAY_MIN if minutes_of(ends) <= minutes_of(begins) else 0
    return evening(on, minutes_of(ends) + later)


@router.post("/gigs/name", status_code=204)
def name_gigs(use: Use, wanted: NamingIn) -> None:
    """Give nights a venue in one go: each that of its proposal, or all the one that is said."""
    read = use.database.read()
    found = gigs_out(read, gigs.get_gigs(read, wanted.ids))
    venue = {gig.id: gig.proposal.venue_id for gig in found if gig.proposal}
    kinds = {gig.id: gig.proposal.kind for gig in found if gig.proposal}
    if not wanted.venue and not venue:
        raise LibraryError("None of these nights fits a gig that comes again: say at which venue they were.")
    with use.database.write(f"Name {_many(len(found))}") as connection:
        said = venues.named(connection, wanted.venue) if wanted.venue else None
        for gig in found:
            venue_id = said or venue.get(gig.id)
            kind = wanted.kind or gig.kind or kinds.get(gig.id, "")
            if venue_id is not None:
                gigs.change_gig(connection, gig.id, {"venue_id": venue_id, "kind": kind})
    _tell(use)


@router.post("/gigs/thrown-away", status_code=204)
def throw_away(use: Use, wanted: ThrownIn) -> None:
    """Throw gigs away as practice, which does not count as played; or bring them back."""
    what = "Throw {} away as practice" if wanted.practice else "Bring {} back"
    with use.database.write(what.format(_many(len(wanted.ids)))) as connection:
        gigs.throw_away(connection, wanted.ids, wanted.practice)
    _tell(use)


@router.post("/gigs/delete", status_code=204)
def delete_gigs(use: Use, wanted: GigsIn) -> None:
    """Delete gigs for good, with what is known of what was played there."""
    with use.database.write(f"Delete {_many(len(wanted.ids))}") as connection:
        gigs.delete_gigs(connection, wanted.ids)
    _tell(use)


@router.post("/gigs/join")
def join_gigs(use: Use, wanted: GigsIn) -> NightOut:
    """Make one gig of several."""
    with use.database.write(f"Join {_many(len(wanted.ids))}") as connection:
        gig_id = gigs.join_gigs(connection, wanted.ids)
    _tell(use)
    return night_out(use.database.read(), gig_id)


@router.post("/gigs/{gig_id}/split")
def split_gig(use: Use, gig_id: int, wanted: SplitIn) -> NightOut:
    """Make a gig of its own of what was played from a play on; answers with it."""
    gig = gigs.get_gig(use.database.read(), gig_id)
    with use.database.write(f"Split the night of {_said(gig)}") as connection:
        new = gigs.split_gig(connection, gig_id, wanted.play_id)
    _tell(use)
    return night_out(use.database.read(), new)


@router.post("/gigs/{gig_id}/plays")
def add_plays(use: Use, gig_id: int, wanted: AddIn) -> NightOut:
    """Put tracks or typed lines into a night."""
    read = use.database.read()
    gig = gigs.get_gig(read, gig_id)
    coming = [Coming(track_id) for track_id in tracks.existing(read, wanted.track_ids)]
    lines = read_lines(wanted.text)
    names = Names(read, len(lines))
    for line in lines:
        at = None
        if line.begins_min is not None:
            at = _after(gig, line.begins_min)
        coming.append(Coming(names.find(line.artist, line.title), line.artist, line.title, at))
    if not coming:
        raise LibraryError("There is nothing to put in: type a title, or choose a track.")
    with use.database.write(f"Put {_plays(len(coming))} into {_said(gig)}") as connection:
        plays.add(connection, gig_id, coming, wanted.before, "by hand")
    _tell(use)
    return night_out(use.database.read(), gig_id)


def _after(gig: Gig, minutes: float) -> str:
    """A time of a gig's night: what is said after midnight is the next day."""
    begun = local(gig.facts.began_at)
    begins = 60 * begun.hour + begun.minute
    later = DAY_MIN if gig.facts.timed and minutes < begins - 6 * 60 else 0
    return evening(begun.date(), minutes + later)


@router.put("/plays/marks")
def mark_plays(use: Use, wanted: MarksIn) -> MarkedOut:
    """Mark plays of a night: went well, fell flat, asked for, never again."""
    marks = wanted.model_dump(exclude={"ids"}, exclude_none=True)
    with use.database.write(f"Mark {_plays(len(wanted.ids))}") as connection:
        locked = plays.mark(connection, wanted.ids, marks)
    _tell(use)
    return MarkedOut(locked=locked)


@router.post("/plays/remove", status_code=204)
def remove_plays(use: Use, wanted: PlaysIn) -> None:
    """Take plays out of a night."""
    with use.database.write(f"Take {_plays(len(wanted.ids))} out of the Logbook") as connection:
        plays.remove(connection, wanted.ids)
    _tell(use)


@router.post("/plays/move", status_code=204)
def move_plays(use: Use, wanted: MovedIn) -> None:
    """Move plays within their night."""
    with use.database.write(f"Move {_plays(len(wanted.ids))}") as connection:
        plays.move(connection, wanted.ids, wanted.before)
    _tell(use)


@router.put("/plays/{play_id}/track", status_code=204)
def match_play(use: Use, play_id: int, wanted: MatchIn) -> None:
    """Say which track a play was of."""
    with use.database.write("Say which track it was") as connection:
        plays.match(connection, play_id, wanted.track_id)
    _tell(use)


@router.get("/played")
def list_played(
    use: Use,
    venue_id: Id | None = None,
    order: Sorted = "last",
    offset: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> PlayedOut:
    """What was played at a venue, or anywhere: how often, and when last."""
    found, total = logbook.played_at(use.database.read(), venue_id, order, offset, limit)
    names = ("track_id", "artist", "title", "times", "well", "flat", "asked", "never")
    rows = [
        PlayedThereOut(
            **{name: getattr(each, name) for name in names},
            first_on=local(each.first_at).date(),
            last_on=local(each.last_at).date(),
        )
        for each in found
    ]
    return PlayedOut(rows=rows, total=total)


@router.get("/venues/{venue_id}/pairs")
def list_pairs(use: Use, venue_id: int) -> list[PairOut]:
    """Tracks that followed each other at more than one night of a venue."""
    return [PairOut.model_validate(pair) for pair in logbook.pairs_at(use.database.read(), venue_id)]


@router.get("/tracks/{track_id}/plays")
def track_plays(use: Use, track_id: int) -> list[TrackPlayOut]:
    """Where and when a track was played, the newest first."""
    found = logbook.history(use.database.read(), track_id)
    names = ("play_id", "gig_id", "venue", "gig", "practice", "went", "asked", "note", "before", "after")
    return [
        TrackPlayOut(
            **{name: getattr(each, name) for name in names},
            on=local(each.played_at).date(),
            at=f"{local(each.played_at):%H:%M}" if each.timed else None,
        )
        for each in found
    ]


@router.get("/figures/{year}")
def year_figures(use: Use, year: int) -> FiguresOut:
    """A year at a glance."""
    if not 1950 <= year <= 2150:
        raise LibraryError("Years are told from 1950 to 2150.")
    read = use.database.read()
    since, until = evening(date(year, 1, 1), 0), evening(date(year + 1, 1, 1), 0)
    found = logbook.figures(read, since, until)
    names = ("nights", "plays", "tracks", "months", "venues", "keys", "tempi", "bought", "never_played")
    most = [
        MostOut(track_id=i, title=title, artist=artist, times=times) for i, title, artist, times in found.most
    ]
    return FiguresOut(**{name: getattr(found, name) for name in names}, most=most, years=_years(use))


def _years(use: Services) -> list[int]:
    rows = use.database.read().execute(
        "SELECT DISTINCT substr(began_at, 1, 4) FROM gig WHERE NOT practice ORDER BY 1"
    )
    return [int(row[0]) for row in rows] or [datetime.now().year]


def _said(gig: Gig) -> str:
    at = local(gig.facts.began_at)
    return f"{at.day} {at:%b %Y}"


def _many(number: int) -> str:
    return "a night" if number == 1 else f"{number} nights"


def _plays(number: int) -> str:
    return "a play" if number == 1 else f"{number} plays"


def _tell(use: Services) -> None:
    use.changed("gigs", "tracks", "undo")
