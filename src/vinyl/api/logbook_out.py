"""Gigs and plays as they go over the wire."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence

from vinyl.api.models.logbook import (
    GigOut,
    NightOut,
    PlayOut,
    RecurringBody,
    VenueOut,
    VenueProposalOut,
    WarningOut,
)
from vinyl.core.logbook.beside import pairs_in_a_row
from vinyl.core.logbook.recurring import met_by, next_date
from vinyl.library import find, gigs, logbook, plays, venues
from vinyl.library.clock import today
from vinyl.library.gigs import Gig
from vinyl.library.plays import Play
from vinyl.library.venues import Recurring

EARLIEST, LATEST = "0000", "9999"


def gigs_out(connection: sqlite3.Connection, found: Sequence[Gig]) -> list[GigOut]:
    """Gigs with their silhouettes, and what those without a venue must have been."""
    begun = [gig.facts.began_at for gig in found]
    shapes = logbook.shapes(connection, min(begun, default=LATEST), max(begun, default=EARLIEST))
    proposals = _proposals(connection, found)
    return [_gig_out(gig, shapes.get(gig.id, []), proposals.get(gig.id)) for gig in found]


def _gig_out(gig: Gig, shape: list[int], proposal: VenueProposalOut | None) -> GigOut:
    facts = gig.facts
    began, ended = facts.began, facts.ended
    return GigOut(
        id=gig.id,
        venue_id=facts.venue_id,
        name=facts.name,
        kind=facts.kind,
        on=began.date(),
        begins=f"{began:%H:%M}" if facts.timed else None,
        ends=f"{ended:%H:%M}" if facts.timed and ended else None,
        note=facts.note,
        came_from=facts.came_from,
        practice=gig.practice,
        tracks=gig.tracks,
        went_well=gig.went_well,
        not_here=gig.not_here,
        shape=shape,
        looks_like_practice=list(gig.looks_like_practice),
        proposal=proposal,
    )


def _proposals(connection: sqlite3.Connection, found: Sequence[Gig]) -> dict[int, VenueProposalOut]:
    nameless = [gig for gig in found if gig.facts.venue_id is None and gig.facts.timed and not gig.practice]
    if not nameless:
        return {}
    known = venues.list_recurring(connection)
    weeklies = [venues.weekly(each) for each in known]
    names = dict(venues.names(connection))
    proposals = {}
    for gig in nameless:
        at = gig.facts.began
        met = met_by(weeklies, at.date(), 60 * at.hour + at.minute)
        if met and not gig.looks_like_practice:
            kind = known[weeklies.index(met)].kind
            proposals[gig.id] = VenueProposalOut(venue_id=met.venue_id, name=names[met.venue_id], kind=kind)
    return proposals


def night_out(connection: sqlite3.Connection, gig_id: int) -> NightOut:
    """A gig with what was played there."""
    gig = gigs.get_gig(connection, gig_id)
    there = plays.list_plays(connection, gig_id)
    return NightOut(
        gig=gigs_out(connection, [gig])[0],
        plays=[play_out(play) for play in there],
        pairs=_pairs_before(connection, gig, there),
    )


def _pairs_before(connection: sqlite3.Connection, gig: Gig, there: Sequence[Play]) -> list[int]:
    if gig.facts.venue_id is None:
        return []
    before = logbook.pairs_before(connection, gig.facts.venue_id, gig.id)
    names = [play.name for play in there]
    again = {pair for pair in pairs_in_a_row(names) if pair in before}
    return [place for place in range(1, len(names)) if (names[place - 1], names[place]) in again]


def play_out(play: Play) -> PlayOut:
    """A play, its time by the clock on the wall."""
    return PlayOut(
        id=play.id,
        track_id=play.track_id,
        artist=play.artist,
        title=play.title,
        at=f"{play.began:%H:%M}" if play.timed else None,
        heard_s=play.heard_s,
        went=play.went,
        asked=play.asked,
        never=play.never,
        note=play.note,
        bpm=play.bpm,
        key=play.key,
        energy=play.energy,
        duration_s=play.duration_s,
    )


def venues_out(connection: sqlite3.Connection) -> list[VenueOut]:
    """All venues, with what comes again at each."""
    coming = venues.list_recurring(connection)
    found = []
    for venue in venues.list_venues(connection):
        here = [each for each in coming if each.venue_id == venue.id]
        dates = [next_date(each.weekday, today()) for each in here]
        found.append(
            VenueOut(
                id=venue.id,
                name=venue.name,
                clean_words=venue.clean_words,
                players=venue.players,
                note=venue.note,
                recurring=[_recurring_out(each) for each in here],
                next_on=min(dates, default=None),
            )
        )
    return found


def _recurring_out(each: Recurring) -> RecurringBody:
    names = ("venue_id", "weekday", "begins", "ends", "kind")
    return RecurringBody(**{name: getattr(each, name) for name in names}, said=each.id is not None)


def warnings_out(connection: sqlite3.Connection, warned: Mapping[int, str]) -> list[WarningOut]:
    """What is warned of, with titles."""
    titles = {row["id"]: row["title"] for row in find.get_rows(connection, list(warned))}
    return [
        WarningOut(track_id=track_id, title=titles.get(track_id, ""), why=why)
        for track_id, why in warned.items()
    ]
