"""One track with everything the Workbench shows."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.crates import CrateName
from vinyl.api.models.cues import CueOut, ProposalOut
from vinyl.api.models.routes import RouteOut
from vinyl.api.models.shared import Model, Seconds, TempoKind
from vinyl.api.models.tracks import TrackOut


class DriftOut(Model):
    """Offset of attacks from the grid along the track, in ms (later is positive), and their spread."""

    times_s: list[float]
    offset_ms: list[float]
    spread_ms: list[float]
    worst_s: float | None


class TapsIn(Model):
    taps_s: Annotated[list[Seconds], Field(min_length=1, max_length=400)]


class TappedOut(Model):
    bpm: float
    spread_bpm: float
    by_onsets: bool


class AnchorOut(Model):
    time: float
    beat: float
    bpm: float


class GridOut(Model):
    anchors: list[AnchorOut]
    beats_per_bar: int
    phrase_bars: int
    kind: TempoKind
    by_hand: bool


class SectionOut(Model):
    start_s: float
    end_s: float
    label: str


class AlikeOut(Model):
    """A track that sounds like another, -1 to 1, and what they have to do with each other; if it is the same
    recording, how much later that begins there.
    """

    track_id: int
    title: str
    artist: str
    likeness: float
    relation: Literal["same", "edit", "same backing", "different"]
    later_s: float | None


class HeardOut(Model):
    """What analysis heard besides grid, key and loudness; empty where it has not been."""

    sections: list[SectionOut]
    phrase_s: float | None
    energy_reason: str
    range_lu: float | None
    true_peak_db: float | None
    second_key: str | None
    second_from_s: float | None
    runner_up_key: str | None
    tuning_cents: float | None


class WorkbenchOut(Model):
    """One track with everything the Workbench shows."""

    track: TrackOut
    grid: GridOut | None
    analysed: GridOut | None
    cues: list[CueOut]
    proposals: list[ProposalOut]
    routes: list[RouteOut]
    crates: list[CrateName]
    copies: list[str]
    heard: HeardOut
