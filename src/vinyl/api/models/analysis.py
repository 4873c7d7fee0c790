"""How tracks are analysed: when, in which turn, within which tempi, and once more with other settings."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from vinyl.api.models.shared import Ids, Model
from vinyl.api.models.tracks import Chosen
from vinyl.core.rhythm.windows import is_window
from vinyl.library.queue import PARTS, Arrival, Part, Turn

Bpm = Annotated[float, Field(ge=20, le=400)]


class WindowBody(Model):
    """A tempo window, the slower end first."""

    low: Bpm
    high: Bpm

    @model_validator(mode="after")
    def _in_order(self) -> WindowBody:
        if not is_window(self.low, self.high):
            raise ValueError("write the slower tempo first")
        return self


class StyleWindowOut(Model):
    """A style with what is learnt from ``known`` of its tracks, and the user's own window."""

    style: str
    tracks: int
    known: int
    learnt: WindowBody | None
    own: WindowBody | None


class AnalysisOut(Model):
    arrival: Arrival
    turn: Turn
    windows: list[StyleWindowOut]
    waiting: int
    heard_before: int


class AnalysisIn(Model):
    """The user's choices; ``windows`` by style, only those that are the user's own."""

    arrival: Arrival
    turn: Turn
    windows: Annotated[dict[str, WindowBody], Field(max_length=1000)]


class AnalyseIn(Chosen):
    """Tracks to be analysed: again, or only those that have not been; ``first`` before all others."""

    window: WindowBody | None = None
    parts: Annotated[list[Part], Field(min_length=1, default_factory=lambda: list(PARTS))]
    only_missing: bool = False
    first: bool = True


class QueuedOut(Model):
    queued: int


class HeardDifferenceOut(Model):
    track_id: int
    title: str
    field: str
    before: str | None
    after: str | None


class TakeIn(Model):
    """Tracks of a comparison whose new values are to be taken."""

    ids: Ids
