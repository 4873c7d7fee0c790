"""Limits in plain words, and what goes with a track."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter

from vinyl.api.convert import tracks_out
from vinyl.api.models.conditions import SortIn, from_core
from vinyl.api.models.describing import FitIn, FitOut, LimitOut, LimitPart, LimitsIn
from vinyl.api.services import Use
from vinyl.core.rules.offering import Offer, offers
from vinyl.library import find, rule_lists
from vinyl.library.fitting import find_fitting
from vinyl.library.knowing import known

router = APIRouter(prefix="/api", tags=["finding"])


@router.post("/limits")
def offer_limits(use: Use, wanted: LimitsIn) -> list[LimitOut]:
    """What a search, or its end, may be as a limit, such as "tempo 120 to 126", the likeliest first."""
    connection = use.database.read()
    found = offers(wanted.text, known(connection), partial(rule_lists.name_of, connection))
    return [_limit_out(each) for each in found]


def _limit_out(offer: Offer) -> LimitOut:
    return LimitOut(
        words=offer.words,
        where=None if offer.condition is None else from_core(offer.condition),
        rest=offer.rest,
        parts=[LimitPart(words=words, where=from_core(part)) for words, part in offer.parts],
        order=[SortIn.model_validate({"sort": name, "descending": down}) for name, down in offer.order],
        sure=offer.is_sure,
    )


@router.post("/tracks/{track_id}/fits")
def what_fits(use: Use, track_id: int, wanted: FitIn) -> list[FitOut]:
    """The tracks that go best with one, each with its reasons."""
    connection = use.database.read()
    found = find_fitting(connection, track_id, wanted.reach, wanted.key_held)
    rows = find.get_rows(connection, [each.track_id for each in found])
    shown = {row.id: row for row in tracks_out(connection, rows, use.keeper)}
    return [
        FitOut(
            track=shown[each.track_id],
            score=each.fit.score,
            reasons=list(each.fit.reasons),
            change_percent=each.fit.change_percent,
            cents=each.fit.cents,
            heard_key=each.fit.heard_key,
        )
        for each in found
        if each.track_id in shown
    ]
