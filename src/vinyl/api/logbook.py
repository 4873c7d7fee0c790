"""The Logbook: gigs, what was played at them, and what that tells of venues, tracks and years."""

from __future__ import annotations

from datetime import date
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
    PlanBesideOut,
    PlannedOut,
    PlayedOut,
    PlayedThereOut,
    PlaysIn,
    SharedOut,
    SplitIn,
    ThrownIn,
    TrackPlayOut,
)
from vinyl.api.models.shared import Id
from vinyl.api.services import Use
from vinyl.core.logbook.beside import shared_tracks
from vinyl.library import gigs, logbook, plays, set_planning
from vinyl.library.clock import evening, local, minutes_of, today
from vinyl.library.errors import LibraryError
from vinyl.library.gigs import Facts, Gig
from vinyl.library.logbook import Sorted
from vinyl.operations import logbook as operations
from vinyl.operations.services import Services
from vinyl.operations.sets import at_clock

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


@router.get("/gigs/{gig_id}/plan/{set_id}")
def compare_with_plan(use: Use, gig_id: int, set_id: int) -> PlanBesideOut:
    """A night beside the set that was planned for it."""
    read = use.database.read()
    plan, played = set_planning.read_plan(read, set_id), plays.list_plays(read, gig_id)
    entries = [each.entry for each in plan.placed]
    planned = [plays.name_of(each.track_id, each.artist, each.title) for each in entries]
    return PlanBesideOut(
        name=plan.set.name,
        planned=[
            PlannedOut(
                at=at_clock(plan, each.begins_s),
                artist=each.entry.artist,
                title=each.entry.title,
                note=each.entry.note,
            )
            for each in plan.placed
        ],
        night=night_out(read, gig_id),
        shared=[
            SharedOut.model_validate(each) for each in shared_tracks(planned, [play.name for play in played])
        ],
    )


@router.patch("/gigs/{gig_id}")
def change_gig(use: Use, gig_id: int, change: GigChange) -> NightOut:
    """Say where and when a gig was, and how."""
    gig = gigs.get_gig(use.database.read(), gig_id)
    operations.change_night(use.database, gig_id, _changes(gig, change), change.venue)
    return night_out(use.database.read(), gig_id)


def _changes(gig: Gig, change: GigChange) -> dict[str, Any]:
    given = change.model_dump(exclude_unset=True)
    given = {name: value for name, value in given.items() if value is not None or name in NULLABLE}
    changes: dict[str, Any] = {name: given[name] for name in PLAIN if name in given}
    if given.get("venue") == "":
        changes["venue_id"] = None
    if not given.keys() & {"on", "begins", "ends"}:
        return changes
    facts = gig.facts
    on = change.on or facts.began.date()
    begins = change.begins if "begins" in given else f"{facts.began:%H:%M}" if facts.timed else None
    if given.keys() & {"on", "begins"}:
        # Without a time of day the date alone moves, and what was played keeps the times that it has.
        began_at = _began(facts, on, begins)
        changes |= {
            "timed": begins is not None,
            "began_at": began_at,
            "began_offset_min": facts.offset_at(began_at),
        }
    ends = change.ends if "ends" in given else f"{facts.ended:%H:%M}" if facts.ended and facts.timed else None
    ended_at = _end(facts, on, begins, ends)
    return changes | {"ended_at": ended_at, "ended_offset_min": facts.offset_at(ended_at) if ended_at else 0}


def _began(facts: Facts, on: date, begins: str | None) -> str:
    """When a gig began that is said to have begun so; the seconds of a time that stays are kept."""
    minutes = 60 * facts.began.hour + facts.began.minute
    if begins is None or minutes_of(begins) == minutes:
        return evening(on, minutes + facts.began.second / 60 + facts.began.microsecond / 6e7, facts.zone)
    return evening(on, minutes_of(begins), facts.zone)


def _end(facts: Facts, on: date, begins: str | None, ends: str | None) -> str | None:
    if ends is None or begins is None:
        return None
    later = DAY_MIN if minutes_of(ends) <= minutes_of(begins) else 0
    return evening(on, minutes_of(ends) + later, facts.zone)


@router.post("/gigs/name", status_code=204)
def name_gigs(use: Use, wanted: NamingIn) -> None:
    """Give nights a venue in one go: each that of its proposal, or all the one that is said."""
    read = use.database.read()
    found = gigs_out(read, gigs.get_gigs(read, wanted.ids))
    proposed = {gig.id: (gig.proposal.venue_id, gig.proposal.kind) for gig in found if gig.proposal}
    operations.name_nights(use.database, wanted.ids, wanted.venue, wanted.kind, proposed)


@router.post("/gigs/thrown-away", status_code=204)
def throw_away(use: Use, wanted: ThrownIn) -> None:
    """Throw gigs away as practice, which does not count as played; or bring them back."""
    operations.throw_away(use.database, wanted.ids, wanted.practice)


@router.post("/gigs/delete", status_code=204)
def delete_gigs(use: Use, wanted: GigsIn) -> None:
    """Delete gigs for good, with what is known of what was played there."""
    operations.delete_nights(use.database, wanted.ids)


@router.post("/gigs/join")
def join_gigs(use: Use, wanted: GigsIn) -> NightOut:
    """Make one gig of several."""
    gig_id = operations.join_nights(use.database, wanted.ids)
    return night_out(use.database.read(), gig_id)


@router.post("/gigs/{gig_id}/split")
def split_gig(use: Use, gig_id: int, wanted: SplitIn) -> NightOut:
    """Make a gig of its own of what was played from a play on; answers with it."""
    new = operations.split_night(use.database, gig_id, wanted.play_id)
    return night_out(use.database.read(), new)


@router.post("/gigs/{gig_id}/plays")
def add_plays(use: Use, gig_id: int, wanted: AddIn) -> NightOut:
    """Put tracks or typed lines into a night."""
    operations.add_plays(use.database, gig_id, wanted.track_ids, wanted.text, wanted.before)
    return night_out(use.database.read(), gig_id)


@router.put("/plays/marks")
def mark_plays(use: Use, wanted: MarksIn) -> MarkedOut:
    """Mark plays of a night: went well, fell flat, asked for, never again."""
    marks = wanted.model_dump(exclude={"ids"}, exclude_none=True)
    return MarkedOut(locked=operations.mark_plays(use.database, wanted.ids, marks))


@router.post("/plays/remove", status_code=204)
def remove_plays(use: Use, wanted: PlaysIn) -> None:
    """Take plays out of a night."""
    operations.remove_plays(use.database, wanted.ids)


@router.post("/plays/move", status_code=204)
def move_plays(use: Use, wanted: MovedIn) -> None:
    """Move plays within their night."""
    operations.move_plays(use.database, wanted.ids, wanted.before)


@router.put("/plays/{play_id}/track", status_code=204)
def match_play(use: Use, play_id: int, wanted: MatchIn) -> None:
    """Say which track a play was of."""
    operations.match_play(use.database, play_id, wanted.track_id)


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
            first_on=date.fromisoformat(each.first_on),
            last_on=date.fromisoformat(each.last_on),
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
            on=date.fromisoformat(each.on_day),
            at=f"{local(each.played_at, each.offset_min):%H:%M}" if each.timed else None,
        )
        for each in found
    ]


@router.get("/figures/{year}")
def year_figures(use: Use, year: int) -> FiguresOut:
    """A year at a glance."""
    if not 1950 <= year <= 2150:
        raise LibraryError("Years are told from 1950 to 2150: choose one between.")
    read = use.database.read()
    found = logbook.figures(read, f"{year}-01-01", f"{year}-12-31")
    names = ("nights", "plays", "tracks", "months", "venues", "keys", "tempi", "bought", "never_played")
    most = [
        MostOut(track_id=i, title=title, artist=artist, times=times) for i, title, artist, times in found.most
    ]
    return FiguresOut(**{name: getattr(found, name) for name in names}, most=most, years=_years(use))


def _years(use: Services) -> list[int]:
    rows = use.database.read().execute(
        "SELECT DISTINCT substr(on_day, 1, 4) FROM gig WHERE NOT practice ORDER BY 1"
    )
    return [int(row[0]) for row in rows] or [today().year]
