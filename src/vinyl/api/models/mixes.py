"""What goes over the wire about one track mixed into another."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Id, Model
from vinyl.core.planning.mixing import MOST_BARS, USUAL_BARS, Meet

Time = Annotated[float, Field(ge=0.0, le=1e6, allow_inf_nan=False)]
Bars = Annotated[int, Field(ge=0, le=MOST_BARS)]
Beats = Annotated[int, Field(ge=-4096, le=4096)]


class MixSettings(Model):
    """How one track goes over into another; a time that is null is the usual one."""

    out_s: Time | None = None
    in_s: Time | None = None
    over_bars: Bars = USUAL_BARS
    meet: Meet = "first"
    fade_bars: Bars | None = None
    low_bar: Annotated[int, Field(ge=1, le=MOST_BARS)] | None = None


class MixIn(Model):
    """Two tracks to be laid on each other; points are moved by beats first, or so that both drops meet."""

    out_track_id: Id
    in_track_id: Id
    settings: MixSettings = Field(default_factory=MixSettings)
    out_beats: Beats = 0
    in_beats: Beats = 0
    drops_meet: bool = False


class MixSide(Model):
    """A track as it is mixed: beats of a bar and of a phrase, and points that are known of it."""

    duration_s: float
    beats_per_bar: int
    phrase_beats: int
    in_s: float | None
    main_s: float | None
    out_s: float | None
    points_s: list[float]


class MixOut(Model):
    """Two tracks over one time, 0 where the overlap begins: times of the mix, the outgoing and the incoming
    at each beat; times, gain of the outgoing and of the incoming; where the low end changes hands.
    """

    settings: MixSettings
    out: MixSide
    into: MixSide
    knots: list[tuple[float, float, float]]
    bars_s: list[float]
    over_s: float
    fades: list[tuple[float, float, float]]
    low_s: float | None
    gain_db: float
    works: bool | None


class MixVerdictIn(Model):
    """Whether one track goes over into another; null forgets what was said."""

    out_track_id: Id
    in_track_id: Id
    works: bool | None
