"""Taking tracks off the Shelf, bringing them back, and throwing away files that were put aside."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.chosen import chosen_ids
from vinyl.api.models.off_shelf import (
    HasTracksOut,
    HowManyOut,
    OffShelfIn,
    OffShelfOut,
    TakeOffIn,
    ThrownAwayOut,
    WhatGoesOut,
)
from vinyl.api.models.tracks import Chosen
from vinyl.api.services import Use
from vinyl.library import off_shelf
from vinyl.operations import arrivals

router = APIRouter(prefix="/api/off-shelf", tags=["off the Shelf"])


@router.get("")
def list_off_shelf(use: Use) -> list[OffShelfOut]:
    """Tracks that are off the Shelf, those taken off last first."""
    return [OffShelfOut.model_validate(each) for each in off_shelf.list_off(use.database.read())]


@router.post("/look")
def look_what_goes(use: Use, wanted: Chosen) -> WhatGoesOut:
    """What taking tracks off the Shelf would change; nothing is changed."""
    found = off_shelf.what_goes(use.database.read(), chosen_ids(use, wanted))
    return WhatGoesOut(
        tracks=found.tracks,
        size_bytes=found.size_bytes,
        away=found.away,
        copies=found.copies,
        plays=found.plays,
        lists=[HasTracksOut(name=name, tracks=count) for name, count in found.lists],
        sticks=[HasTracksOut(name=name, tracks=count) for name, count in found.sticks],
    )


@router.post("")
def take_off(use: Use, wanted: TakeOffIn) -> HowManyOut:
    """Take tracks off the Shelf and out of all lists; their files are put aside if that is asked for."""
    return HowManyOut(tracks=arrivals.take_off(use, chosen_ids(use, wanted), wanted.aside))


@router.post("/back")
def bring_back(use: Use, wanted: OffShelfIn) -> HowManyOut:
    """Put tracks onto the Shelf again, and their files back where they were."""
    return HowManyOut(tracks=arrivals.bring_back(use, wanted.track_ids, wanted.copies))


@router.post("/throw-away")
def throw_away(use: Use, wanted: OffShelfIn) -> ThrownAwayOut:
    """Delete files for good that lie put aside. What is known of their tracks stays."""
    freed, problems = use.aside_putter.throw_away(wanted.track_ids, wanted.copies)
    return ThrownAwayOut(freed_bytes=freed, problems=problems)
