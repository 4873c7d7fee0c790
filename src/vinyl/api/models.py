"""What goes over the wire."""

from __future__ import annotations

import unicodedata
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

Seconds = Annotated[float, Field(allow_inf_nan=False, ge=-60, le=200_000)]
Bpm = Annotated[float, Field(allow_inf_nan=False)]
Snap = Literal["beat", "bar", "phrase", "off"]
Role = Literal["in", "main", "out"]
Colour = Literal["vermilion", "violet", "blue", "ochre", "green", "ink"]
Source = Literal["by hand", "analysis", "file tag"]
Ids = Annotated[list[int], Field(min_length=1, max_length=100_000)]
Part = Literal["grid", "cues", "key", "tags"]
Kind = Literal["steady", "stepped", "elastic"]


def _shown(text: str) -> str:
    if any(unicodedata.category(letter) in ("Cc", "Cs") for letter in text):
        raise ValueError("it holds characters that cannot be shown")
    return text


Words = Annotated[str, AfterValidator(_shown)]
Name = Annotated[Words, Field(min_length=1, max_length=200)]


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Problem(Model):
    """What every refused request answers: one message that says what happened and what to do."""

    detail: str


class FolderOut(Model):
    name: str
    path: str


class FolderListing(Model):
    path: str
    parent: str | None
    audio_files: int
    folders: list[FolderOut]
    roots: list[str]


class OfferedFolder(Model):
    path: str
    imported: bool


class ImportIn(Model):
    folder: Annotated[str, Field(min_length=1, max_length=4096)]


class Outcomes(Model):
    added: int
    already_here: int
    not_audio: int
    broken: int


class ImportOut(Model):
    id: int
    folder: str
    state: Literal["running", "done", "cancelled", "failed"]
    total: int | None
    done: int
    error: str | None
    started_at: str
    finished_at: str | None
    seconds_left: float | None
    outcomes: Outcomes


class ImportedFileOut(Model):
    path: str
    outcome: Literal["added", "already here", "not audio", "broken"]
    reason: str
    track_id: int | None


class AnalysisWork(Model):
    waiting: int
    paused: int
    failed: int
    in_hand: int
    done: int
    seconds_left: float | None


class PackWork(Model):
    stick_id: int
    stick: str
    done_bytes: int
    total_bytes: int
    done_files: int
    total_files: int
    current: str
    seconds_left: float | None


class Work(Model):
    """All that goes on in the background."""

    imports: list[ImportOut]
    analysis: AnalysisWork
    packing: list[PackWork]


class TrackOut(Model):
    id: int
    title: str
    artist: str
    album: str
    genre: str
    label: str
    comment: str
    year: int | None
    duration_s: float
    codec: str
    rate_hz: int
    bit_rate: int | None
    has_picture: bool
    away: bool
    added_at: str
    path: str
    bpm: float | None
    bpm_source: Source | None
    key: str | None
    key_source: Source | None
    key_confidence: float | None
    lufs: float | None
    energy: int | None
    rating: int
    doubt: float | None
    doubt_reasons: list[str]
    analysis_state: Literal["done", "waiting", "paused", "failed", "none"]
    analysis_error: str | None
    cues: str
    locks: list[Part]
    routes: int
    left: list[Part]


class Order(Model):
    ids: list[int]
    total: int


class IndexOut(Model):
    bpm: dict[int, int]
    key: dict[str, int]
    genre: dict[str, int]
    month: dict[str, int]
    rating: dict[int, int]
    energy: dict[int, int]


class RatingIn(Model):
    ids: Ids
    stars: Annotated[int, Field(ge=0, le=5)]


class RatedOut(Model):
    """How many of the tracks were left as they were because their tags are locked."""

    rated: int
    locked: int


class LocksIn(Model):
    ids: Ids
    part: Part
    locked: bool


class FinishRulesBody(Model):
    """When a track counts as prepared."""

    grid: Literal["sure", "by hand or locked", "locked", "any"] = "sure"
    key: bool = True
    cues: Annotated[int, Field(ge=0, le=32)] = 1
    roles: list[Role] = []
    stars: bool = False


class CueColourBody(Model):
    """What a colour means: its name, a letter or two that stand for it, and a shade of its own, if any."""

    colour: Colour
    name: Annotated[Words, Field(max_length=40)]
    sign: Annotated[Words, Field(max_length=2)]
    hex: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] | None = None


class AnchorOut(Model):
    time: float
    beat: float
    bpm: float


class GridOut(Model):
    anchors: list[AnchorOut]
    beats_per_bar: int
    phrase_bars: int
    kind: Kind
    by_hand: bool


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
    by_attacks: bool


class CueOut(Model):
    id: int
    position_s: float
    length_s: float | None
    label: str
    role: Role | None
    colour: Colour
    pad: int | None
    engages: bool


class ProposalOut(Model):
    """A cue that analysis proposes and that no cue answers yet."""

    position_s: float
    role: Role | None
    label: str


class JumpBody(Model):
    from_s: Seconds
    to_s: Seconds


class RouteIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=80)]
    jumps: Annotated[list[JumpBody], Field(min_length=1, max_length=64)]


class StretchOut(Model):
    start_s: float
    end_s: float


class RouteOut(Model):
    """A shortened or re-ordered way through a track; ``stretches`` is what is played, in order."""

    id: int
    name: str
    jumps: list[JumpBody]
    stretches: list[StretchOut]
    length_s: float


class RouteHeardOut(Model):
    """What is left of key and energy when only a route's stretches are played."""

    key: str | None
    key_confidence: float
    energy: int
    lufs: float | None


class CrateName(Model):
    id: int
    name: str


class SectionOut(Model):
    start_s: float
    end_s: float
    label: str


class AlikeOut(Model):
    """A track that sounds like another, -1 to 1, and what they have to do with each other."""

    track_id: int
    title: str
    artist: str
    likeness: float
    relation: Literal["same", "edit", "same backing", "different"]


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


class Shift(Model):
    edit: Literal["shift"]
    by_s: Annotated[float, Field(allow_inf_nan=False, ge=-60, le=60)]


class BarStartsHere(Model):
    edit: Literal["bar starts here"]
    time_s: Seconds


class FirstBarHere(Model):
    edit: Literal["first bar here"]
    time_s: Seconds


class MoveBeatHere(Model):
    edit: Literal["move beat here"]
    time_s: Seconds


class MoveBarStarts(Model):
    edit: Literal["move bar starts"]
    beats: Annotated[int, Field(ge=-64, le=64)]


class SnapHere(Model):
    """Shift the grid so that the line nearest to a time falls on the attack nearest to it."""

    edit: Literal["snap to attack"]
    time_s: Seconds


class Halve(Model):
    edit: Literal["halve"]


class Double(Model):
    edit: Literal["double"]


class ThreeForTwo(Model):
    edit: Literal["three for two"]


class TwoForThree(Model):
    edit: Literal["two for three"]


class Stretch(Model):
    """Without ``to_s``, the line is stretched to the attack nearest to it."""

    edit: Literal["stretch"]
    hold_s: Seconds
    line_s: Seconds
    to_s: Seconds | None = None


class AddAnchor(Model):
    edit: Literal["add anchor"]
    time_s: Seconds


class MoveAnchor(Model):
    edit: Literal["move anchor"]
    time_s: Seconds
    to_s: Seconds


class PinBeat(Model):
    """Make a line an anchor and move it; without ``to_s`` to the attack nearest to it."""

    edit: Literal["pin beat"]
    time_s: Seconds
    to_s: Seconds | None = None


class DeleteAnchor(Model):
    edit: Literal["delete anchor"]
    time_s: Seconds


class JoinAnchors(Model):
    edit: Literal["join anchors"]
    start_s: Seconds
    end_s: Seconds


class PartTempo(Model):
    edit: Literal["tempo of this part"]
    time_s: Seconds
    bpm: Bpm


class TakeFrom(Model):
    """The tempo of another track, held at a time; or its whole map, held at bar 1."""

    edit: Literal["take from another track"]
    track_id: int
    what: Literal["tempo", "map"]
    hold_s: Seconds | None = None


class Rescan(Model):
    """Hear the rhythm anew, of the whole track or of a stretch of it."""

    edit: Literal["rescan"]
    kind: Kind
    start_s: Seconds | None = None
    end_s: Seconds | None = None


class SetTempo(Model):
    edit: Literal["set tempo"]
    bpm: Bpm
    hold_s: Seconds | None = None


class TempoFromHere(Model):
    edit: Literal["tempo from here"]
    time_s: Seconds
    bpm: Bpm


class SetMetre(Model):
    edit: Literal["beats in a bar"]
    beats_per_bar: Annotated[int, Field(ge=3, le=7)]


GridEdit = Annotated[
    Shift
    | BarStartsHere
    | FirstBarHere
    | MoveBarStarts
    | MoveBeatHere
    | SnapHere
    | Halve
    | Double
    | ThreeForTwo
    | TwoForThree
    | SetTempo
    | TempoFromHere
    | PartTempo
    | Stretch
    | AddAnchor
    | MoveAnchor
    | PinBeat
    | DeleteAnchor
    | JoinAnchors
    | TakeFrom
    | Rescan
    | SetMetre,
    Field(discriminator="edit"),
]


class CueIn(Model):
    position_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=200_000)]
    snap: Snap = "beat"
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    label: Annotated[Words, Field(max_length=80)] = ""
    role: Role | None = None
    colour: Colour | None = None
    pad: Annotated[int, Field(ge=1, le=8)] | None = None
    engages: bool = False


class CueChange(Model):
    """Only what is given changes; ``length_beats`` null makes a loop a point."""

    position_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=200_000)] | None = None
    move_ms: Annotated[float, Field(allow_inf_nan=False, ge=-60_000, le=60_000)] | None = None
    move_beats: Annotated[float, Field(allow_inf_nan=False, ge=-4096, le=4096)] | None = None
    snap: Snap = "beat"
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    label: Annotated[Words, Field(max_length=80)] | None = None
    role: Role | None = None
    colour: Colour | None = None
    pad: Annotated[int, Field(ge=1, le=8)] | None = None
    engages: bool | None = None


class CuesIn(Model):
    """Several cues in one step."""

    cues: Annotated[list[CueIn], Field(min_length=1, max_length=64)]


class OntoGridIn(Model):
    """Without ``apply`` only what would happen is told. Without ``cue_ids`` all cues are meant."""

    snap: Snap = "beat"
    cue_ids: Annotated[list[int], Field(max_length=1000)] | None = None
    apply: bool = False


class MovedCue(Model):
    cue_id: int
    label: str
    from_s: float
    to_s: float
    by_ms: float


class TemplateCueBody(Model):
    """A cue so many beats after each place of a kind; a loop where ``length_beats`` is given."""

    place: Literal["in", "main", "out", "break", "drop"]
    offset_beats: Annotated[float, Field(allow_inf_nan=False, ge=-4096, le=4096)] = 0.0
    length_beats: Annotated[float, Field(allow_inf_nan=False, gt=0, le=4096)] | None = None
    label: Annotated[Words, Field(max_length=80)] = ""
    role: Role | None = None
    colour: Colour = "blue"
    pad: Annotated[int, Field(ge=1, le=8)] | None = None
    engages: bool = False


class TemplateIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=80)]
    cues: Annotated[list[TemplateCueBody], Field(min_length=1, max_length=32)]


class TemplateOut(TemplateIn):
    id: int


class TemplateUse(Model):
    """Without ``apply`` only what would happen is told."""

    ids: Annotated[list[int], Field(min_length=1, max_length=5000)]
    apply: bool = False


class WantedCueOut(Model):
    position_s: float
    length_s: float | None
    label: str
    role: Role | None
    colour: Colour
    pad: int | None
    engages: bool
    there: bool


class TemplateResultOut(Model):
    track_id: int
    title: str
    wanted: list[WantedCueOut]
    hindrance: str


class CrateOut(Model):
    id: int
    name: str
    tracks: int
    duration_s: float


class CrateIn(Model):
    name: Name


class CrateChange(Model):
    name: Name | None = None
    position: Annotated[int, Field(ge=0)] | None = None


class CrateTracks(Model):
    ids: Ids
    at: Annotated[int, Field(ge=0)] | None = None


class Added(Model):
    added: int
    already_in: int


class UndoOut(Model):
    undo: str | None
    redo: str | None


class StickIn(Model):
    name: Annotated[Words, Field(min_length=1, max_length=40)]
    capacity_mb: Annotated[int, Field(ge=1, le=1_000_000)]
    profile: str = "Quay One"


class ProfileOut(Model):
    name: str
    description: str
    pads: int


class PackResult(Model):
    state: Literal["running", "done", "cancelled", "failed"]
    error: str | None
    tracks: int | None
    written: int | None
    removed: int | None
    finished_at: str | None


class StickOut(Model):
    id: int
    name: str
    folder: str
    profile: ProfileOut
    is_in: bool
    capacity_bytes: int
    used_bytes: int
    crate_ids: list[int]
    last_run: PackResult | None


class StickCrates(Model):
    crate_ids: Annotated[list[int], Field(max_length=10_000)]


class PlannedTrackOut(Model):
    file: str
    title: str
    artist: str
    action: Literal["copy", "convert", "keep", "update"]
    size_bytes: int


class PlanOut(Model):
    tracks: list[PlannedTrackOut]
    crates: list[str]
    removed: list[str]
    left_out: list[str]
    write_bytes: int
    removed_bytes: int
    free_bytes: int
    capacity_bytes: int
    missing_bytes: int
