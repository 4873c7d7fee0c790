"""One track mixed into another: how it is laid out, and whether it works."""

from __future__ import annotations

from fastapi import APIRouter

from vinyl.api.models.mixes import MixIn, MixOut, MixSettings, MixSide, MixVerdictIn
from vinyl.api.services import Use
from vinyl.core.planning.mixing import Settings, Side
from vinyl.library.mixes import verdicts
from vinyl.operations import mixes

router = APIRouter(prefix="/api/mixes", tags=["mixes"])


@router.post("")
def plan_mix(use: Use, wanted: MixIn) -> MixOut:
    """Lay two tracks on each other, beat on beat; nothing is changed."""
    out_id, in_id = wanted.out_track_id, wanted.in_track_id
    found, out, into = mixes.plan(
        use.database, out_id, in_id, Settings(**wanted.settings.model_dump()),
        wanted.out_beats, wanted.in_beats, wanted.drops_meet,
    )  # fmt: skip
    return MixOut(
        settings=MixSettings.model_validate(found.settings),
        out=_side(out),
        into=_side(into),
        knots=found.knots.tolist(),
        bars_s=found.bars_s.tolist(),
        over_s=found.over_s,
        fades=found.fades.tolist(),
        low_s=found.low_s,
        gain_db=found.gain_db,
        works=verdicts(use.database.read(), [out_id]).get((out_id, in_id)),
    )


def _side(side: Side) -> MixSide:
    bar = side.tempo_map.beats_per_bar
    points = {each for each in (side.in_s, side.main_s, side.out_s, *side.drops_s) if each is not None}
    return MixSide(
        duration_s=side.duration_s,
        beats_per_bar=bar,
        phrase_beats=bar * side.tempo_map.phrase_bars,
        in_s=side.in_s,
        main_s=side.main_s,
        out_s=side.out_s,
        points_s=sorted(points),
    )


@router.put("/verdict", status_code=204)
def say_verdict(use: Use, wanted: MixVerdictIn) -> None:
    """Remember whether one track goes over into another."""
    mixes.say(use.database, wanted.out_track_id, wanted.in_track_id, wanted.works)
