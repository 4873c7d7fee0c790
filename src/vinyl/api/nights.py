"""Venues, nights that come into the Logbook, and what goes out of it: the next list, and files."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Response

from vinyl.api.files import file_out
from vinyl.api.logbook_out import gigs_out, play_out, venues_out, warnings_out
from vinyl.api.models.logbook import (
    CandidateOut,
    Form,
    MadeNextOut,
    MakeNextIn,
    NextIn,
    NextOut,
    NightTakenOut,
    PlaceOut,
    TellingIn,
    ToldNightOut,
    ToldOut,
    ToldPlayOut,
    VenueChange,
    VenueIn,
    VenueOut,
)
from vinyl.api.models.playlists import ColumnsBody, TableOut
from vinyl.api.services import Use
from vinyl.exchange.lists import Columns
from vinyl.jobs.night_export import export_night
from vinyl.jobs.nights import Given, Night, Telling
from vinyl.library import gigs, next_lists, venues
from vinyl.library.clock import local
from vinyl.library.next_lists import Place
from vinyl.library.venues import Recurring
from vinyl.operations import logbook
from vinyl.operations.services import Services

router = APIRouter(prefix="/api", tags=["logbook"])


@router.get("/venues")
def list_venues(use: Use) -> list[VenueOut]:
    """All venues by name."""
    return venues_out(use.database.read())


@router.post("/venues", status_code=201)
def make_venue(use: Use, wanted: VenueIn) -> VenueOut:
    """Make a venue."""
    made = logbook.make_venue(use.database, wanted.name)
    return next(venue for venue in venues_out(use.database.read()) if venue.id == made)


@router.patch("/venues/{venue_id}")
def change_venue(use: Use, venue_id: int, change: VenueChange) -> VenueOut:
    """Say what is known of a venue, and which gigs come again there."""
    changes = change.model_dump(exclude_none=True, exclude={"recurring"})
    said = (
        None
        if change.recurring is None
        else [
            Recurring(None, venue_id, each.weekday, each.begins, each.ends, each.kind)
            for each in change.recurring
            if each.said
        ]
    )
    logbook.change_venue(use.database, venue_id, changes, said)
    return next(venue for venue in venues_out(use.database.read()) if venue.id == venue_id)


@router.delete("/venues/{venue_id}", status_code=204)
def delete_venue(use: Use, venue_id: int) -> None:
    """Delete a venue; its nights stay."""
    logbook.delete_venue(use.database, venue_id)


@router.post("/nights/look")
def look_at_nights(use: Use, wanted: TellingIn) -> ToldOut:
    """What a file, typed lines or a list tell of, and whether the Logbook knows it; nothing is changed."""
    told = use.nights.look(_telling(wanted), _given(use, wanted))
    table = None
    if told.table:
        columns = ColumnsBody.model_validate(told.table.columns)
        rows = [list(row) for row in told.table.rows]
        table = TableOut(head=list(told.table.head), rows=rows, columns=columns)
    return ToldOut(nights=[_told(use, night) for night in told.nights], has_dates=told.has_dates, table=table)


@router.post("/nights", status_code=201)
def take_nights_in(use: Use, wanted: TellingIn) -> list[NightTakenOut]:
    """Take nights into the Logbook; what it knows already is joined, not counted twice."""
    taken = use.nights.take_in(_telling(wanted), _given(use, wanted), wanted.venue)
    return [NightTakenOut.model_validate(each) for each in taken]


def _telling(wanted: TellingIn) -> Telling:
    columns = Columns(**wanted.columns.model_dump()) if wanted.columns else None
    return Telling(Path(wanted.path) if wanted.path else None, wanted.text, wanted.crate_id, columns)


def _given(use: Services, wanted: TellingIn) -> Given:
    """What is said of a night; a venue that is not there is made by the taking in."""
    return Given(
        wanted.on,
        wanted.begins,
        wanted.ends,
        venues.by_name(use.database.read(), wanted.venue) if wanted.venue else None,
        wanted.kind,
        wanted.name,
        wanted.note,
    )


def _told(use: Services, night: Night) -> ToldNightOut:
    facts, read = night.facts, use.database.read()
    return ToldNightOut(
        on=facts.began.date(),
        begins=f"{facts.began:%H:%M}" if facts.timed else None,
        ends=f"{facts.ended:%H:%M}" if facts.timed and facts.ended else None,
        plays=[
            ToldPlayOut(
                artist=play.artist,
                title=play.title,
                track_id=play.track_id,
                at=f"{local(play.played_at, facts.offset_at(play.played_at)):%H:%M}"
                if play.played_at
                else None,
            )
            for play in night.plays
        ],
        here=sum(play.track_id is not None for play in night.plays),
        same=gigs_out(read, [gigs.get_gig(read, night.same)])[0] if night.same else None,
        shared=night.shared,
    )


@router.post("/gigs/{gig_id}/next/look")
def look_at_next(use: Use, gig_id: int, wanted: NextIn) -> NextOut:
    """What would stand in the next list, made from a night."""
    read = use.database.read()
    places = next_lists.plan(read, gig_id, wanted.on, wanted.share, wanted.weeks)
    name = next_lists.name_for(read, gigs.get_gig(read, gig_id), wanted.on)
    return NextOut(name=name, places=[_place(place) for place in places])


def _place(place: Place) -> PlaceOut:
    return PlaceOut(
        play=play_out(place.play),
        fate=place.fate,
        reason=place.reason,
        candidates=[
            CandidateOut(track_id=c.track_id, artist=c.artist, title=c.title, reasons=list(c.reasons))
            for c in place.candidates
        ],
    )


@router.post("/gigs/{gig_id}/next", status_code=201)
def make_next(use: Use, gig_id: int, wanted: MakeNextIn) -> MadeNextOut:
    """Make the next list as a crate of these tracks."""
    crate_id, warned = logbook.make_next_list(use.database, gig_id, wanted.name, wanted.track_ids)
    return MadeNextOut(crate_id=crate_id, warnings=warnings_out(use.database.read(), warned))


@router.get("/gigs/{gig_id}/file", response_class=Response)
def gig_as_file(
    use: Use,
    gig_id: int,
    form: Form,
    times: bool = True,
    recording: Annotated[str, Query(max_length=200)] = "recording.wav",
) -> Response:
    """A night as a file: a track list, a playlist, a cue sheet or a table."""
    name, made = export_night(use.database.read(), gig_id, form, times, recording)
    return file_out(made, name, form)
