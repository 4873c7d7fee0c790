"""Tracks as lists show them, and what is asked about many of them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.conditions import ConditionIn, SortIn
from vinyl.api.models.jobs import JobOut
from vinyl.api.models.shared import Id, Model, Part, Source
from vinyl.core.encodings import Encoding
from vinyl.core.quality.findings import Kind as FindingKind
from vinyl.library.clearing import CueKind
from vinyl.library.pictures import PICTURES, PictureName
from vinyl.library.sorts import SortName
from vinyl.library.values import Field as ValueField


class BackingName(Model):
    id: int
    name: str


class FindingOut(Model):
    """Something wrong with the sound of a file, ``at_s`` the place to hear it."""

    kind: FindingKind
    words: str
    at_s: float | None


class ThereOut(Model):
    """When a track was last played at the venue that was asked for, and how often it was."""

    last_at: str
    times: int


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
    channels: int
    depth_bits: int | None
    bit_rate: int | None
    variable_rate: bool
    trimmed_samples: int
    padding_samples: int
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
    other_bpm: float | None
    findings: list[FindingOut]
    analysis_state: Literal["done", "waiting", "paused", "failed", "none"]
    analysis_error: str | None
    cues: str
    locks: list[Part]
    routes: int
    left: list[Part]
    replaced: bool
    remixer: str
    composer: str
    grouping: str
    catalogue: str
    language: str
    isrc: str
    colour: str
    marks: str
    explicit: bool
    never_again: bool
    wanted: bool
    plays: int
    last_played: str | None
    went_well: int
    fell_flat: int
    asked_for: int
    main_s: float | None
    tags: list[int]
    lists: list[int]
    backing: BackingName | None
    there: ThereOut | None = None


class FoundIn(Model):
    """Which tracks are wanted, and in which order; ``venue_id`` is that of the sort by when they were last
    there.
    """

    where: ConditionIn
    sort: SortName = "added_at"
    descending: bool = False
    then: Annotated[list[SortIn], Field(max_length=6, default_factory=list)]
    crate_id: Id | None = None
    venue_id: Id | None = None


class FindIn(FoundIn):
    """A stretch of what is wanted."""

    offset: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    limit: Annotated[int, Field(ge=1, le=500)] = 100


class IdsIn(FoundIn):
    """A stretch of ids of what is wanted."""

    offset: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    limit: Annotated[int, Field(ge=1, le=200_000)] = 2_000


class StretchIn(FoundIn):
    """What was found from one place to another, both included, but for some tracks."""

    first: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    last: Annotated[int, Field(ge=0, le=10_000_000)] | None = None
    without: Annotated[list[Id], Field(max_length=10_000, default_factory=list)]


class Chosen(Model):
    """Chosen tracks: by their ids, or as a stretch of what was found."""

    ids: Annotated[list[Id], Field(max_length=200_000, default_factory=list)]
    found: StretchIn | None = None


class WindowOut(Model):
    """A stretch of what was found; ``total`` is how many were found, ``library`` how many tracks there are,
    ``read_as`` what words with errors were taken for.
    """

    rows: list[TrackOut]
    total: int
    library: int
    read_as: str | None


class IdsOut(Model):
    """Ids of a stretch of what was found, in order; ``total`` is how many were found in all."""

    ids: list[int]
    total: int
    library: int


class RowsIn(Model):
    ids: Annotated[list[Id], Field(max_length=500)]
    venue_id: Id | None = None


class PicturesIn(Model):
    """Of what is wanted, the pictures to be counted."""

    where: ConditionIn
    names: Annotated[list[PictureName], Field(max_length=20, default_factory=lambda: list(PICTURES))]
    tags: bool = False


class IndexOut(Model):
    """How many tracks lie where: whole bpm, key, style, month of arrival, stars, energy in tens, year,
    colour, plays (20 and more as 20), and tags by their ids; empty what was not asked for.
    """

    bpm: dict[int, int]
    key: dict[str, int]
    genre: dict[str, int]
    month: dict[str, int]
    rating: dict[int, int]
    energy: dict[int, int]
    year: dict[int, int]
    colour: dict[str, int]
    plays: dict[int, int]
    tags: dict[int, int]


class ManyIn(Chosen):
    pass


class DifferenceOut(Model):
    """A value of a file that is not what was read of it before; null where there is none."""

    track_id: int
    title: str
    field: ValueField
    before: str | None
    after: str | None


class DifferencesOut(Model):
    """What is different in the first tracks, and how many more were not looked at."""

    differences: list[DifferenceOut]
    more: int


class RepairOut(Model):
    """A text as it is and as it was meant, and the encoding it was written in."""

    track_id: int
    title: str
    field: ValueField
    before: str
    after: str
    encoding: Encoding


class RepairsOut(Model):
    """The first repairs, and how many there are in all."""

    repairs: list[RepairOut]
    total: int


class RatingIn(Chosen):
    stars: Annotated[int, Field(ge=0, le=5)]


class RatedOut(Model):
    """How many of the tracks were left as they were because their tags are locked; or the job, where
    there are too many to be rated at once.
    """

    rated: int
    locked: int
    job: JobOut | None = None


class LocksIn(Chosen):
    part: Part
    locked: bool


class LockedOut(Model):
    """Tracks on which a part is locked or open now, and those left out because they have no grid."""

    tracks: int
    without_grid: int


class CueKindOut(Model):
    kind: CueKind
    name: str
    cues: int


class CuesOfIn(Chosen):
    kind: CueKind


class DeletedOut(Model):
    cues: int
    tracks: int
    locked: int
