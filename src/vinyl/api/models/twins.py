"""What goes over the wire about twins and versions."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.cues import CueOut
from vinyl.api.models.shared import Id, Model, Words
from vinyl.core.twins.proposal import Reason

GroupKind = Literal["sure", "same", "edit", "same backing", "name"]
Relation = Literal["same", "edit", "same backing", "different"]
# Of a group, or of a work.
MOST_TRACKS = 200
Paths = Annotated[list[Annotated[str, Field(max_length=4096)]], Field(max_length=1000)]


class TwinLine(Model):
    """A group as it is listed; ``bytes`` are put aside if it is settled as proposed."""

    track_ids: list[int]
    kind: GroupKind
    title: str
    artist: str
    files: int
    bytes: int
    words: str
    later: bool


class TwinsOut(Model):
    """All groups; so many tracks were not looked at yet."""

    groups: list[TwinLine]
    unseen: int


class TwinTrack(Model):
    """A track of a group: ``time = speed * first's time + offset_s``, both None where that is not known."""

    track_id: int
    title: str
    artist: str
    path: str
    codec: str
    bit_rate: int | None
    size_bytes: int
    duration_s: float
    away: bool
    findings: list[str]
    bpm: float | None
    key: str | None
    lufs: float | None
    grid_by_hand: bool
    locks: list[str]
    cues: int
    points: list[CueOut]
    routes: int
    plays: int
    last_played: str | None
    stars: int
    tags: list[str]
    lists: list[str]
    year: int | None
    label: str
    genre: str
    added_at: str
    speed: float | None
    offset_s: float | None
    likeness: float | None
    relation: Relation


class TwinCopy(Model):
    """A file with the very sound of a track, which is no track itself."""

    track_id: int
    path: str
    size_bytes: int


class TwinGroupOut(Model):
    """A group with all by which its files are compared, and which is proposed to be kept, and why."""

    track_ids: list[int]
    kind: GroupKind
    words: str
    later: bool
    tracks: list[TwinTrack]
    copies: list[TwinCopy]
    kept_id: int
    reason: str


class GroupIn(Model):
    """A group, by the ids of its tracks."""

    track_ids: Annotated[list[Id], Field(min_length=1, max_length=MOST_TRACKS)]


class TwinCopyIn(Model):
    """A noted copy of a track, by its path."""

    track_id: Id
    path: Annotated[str, Field(max_length=4096)]


class LaterIn(GroupIn):
    later: bool


class SettlementIn(Model):
    """What becomes of a group: the track that is kept, those that give way to it, in order, files that are no
    tracks; and for what differs, by its field, the track whose word is taken.
    """

    kept_id: Id
    copy_ids: Annotated[list[Id], Field(max_length=MOST_TRACKS)]
    copies: Paths = Field(default_factory=list)
    choices: dict[Annotated[str, Field(max_length=40)], Id] = Field(default_factory=dict)


class SettleIn(SettlementIn):
    """The same with the seal of what was seen, and whether files are put aside."""

    seal: Annotated[str, Field(max_length=40)]
    aside: bool = True


class DifferenceOut(Model):
    """What a copy says otherwise than the kept file; ``carried`` where its word is taken."""

    field: str
    kept: str
    other: str
    from_id: int
    carried: bool
    by_hand: bool


class CarriedOut(Model):
    """What is carried over, in words, what differs and what is lost; ``seal`` names all of it."""

    carried: list[str]
    differs: list[DifferenceOut]
    lost: list[str]
    seal: str


class SureSample(Model):
    title: str
    carried: list[str]


class SureOut(Model):
    """What settling all sure groups comes to."""

    groups: int
    files: int
    bytes: int
    cues: int
    plays: int
    places: int
    away: int
    samples: list[SureSample]


class SureIn(Model):
    aside: bool = True


class OrderOut(Model):
    """Reasons for keeping a file, the weightiest first, and folders, the best first."""

    reasons: Annotated[list[Reason], Field(max_length=10)]
    folders: Annotated[list[Annotated[Words, Field(max_length=4096)]], Field(max_length=20)]


class VersionOut(Model):
    """A track of a work, and what kind of version it is."""

    track_id: int
    title: str
    artist: str
    duration_s: float
    work: str
    kind: str


class VersionsIn(GroupIn):
    """Tracks that are versions of one work, and of what kind, where something is said of it."""

    name: Annotated[Words, Field(min_length=1, max_length=200)]
    kinds: dict[Id, Annotated[Words, Field(max_length=60)]] = Field(default_factory=dict)
