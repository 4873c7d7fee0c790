"""Venues, gigs, what was played there, and the next list made from it. Dates and times are by the clock on
the wall.
"""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.arrivals import PathText
from vinyl.api.models.playlists import ColumnsBody, TableOut
from vinyl.api.models.shared import Id, Model, Name, Words
from vinyl.core.logbook.next_list import Fate
from vinyl.library.plays import Never, Went

Clock = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
Text = Annotated[str, Field(max_length=4000)]
Short = Annotated[Words, Field(max_length=200)]
GigIds = Annotated[list[Id], Field(min_length=1, max_length=10_000)]
PlayIds = Annotated[list[Id], Field(min_length=1, max_length=2_000)]
# The calendar's own limits would overflow when a time zone is reckoned in.
Date = Annotated[date, Field(ge=date(1950, 1, 1), le=date(2150, 1, 1))]


class RecurringBody(Model):
    """A gig that comes again: the weekday (0 is Monday), from and to. ``said`` is false for one that was
    found among the nights.
    """

    venue_id: Id
    weekday: Annotated[int, Field(ge=0, le=6)]
    begins: Clock
    ends: Clock | None = None
    kind: Short = ""
    said: bool = True


class VenueIn(Model):
    name: Name


class VenueChange(Model):
    """What is to be different; the rest stays."""

    name: Name | None = None
    clean_words: bool | None = None
    players: Short | None = None
    note: Text | None = None
    recurring: Annotated[list[RecurringBody], Field(max_length=20)] | None = None


class VenueOut(Model):
    """A venue. ``next_on`` is when the next of its gigs that come again is."""

    id: int
    name: str
    clean_words: bool
    players: str
    note: str
    recurring: list[RecurringBody]
    next_on: date | None


class VenueProposalOut(Model):
    """What a night without a venue must have been, by the gigs that come again."""

    venue_id: int
    name: str
    kind: str


class GigOut(Model):
    """A gig. Times are null where only the date is known; ``shape`` is the energy through it as bars (0 to
    100).
    """

    id: int
    venue_id: int | None
    name: str
    kind: str
    on: date
    begins: Clock | None
    ends: Clock | None
    note: str
    came_from: str
    practice: bool
    tracks: int
    went_well: int
    not_here: int
    shape: list[int]
    looks_like_practice: list[str]
    proposal: VenueProposalOut | None


class GigChange(Model):
    """What is to be different; the rest stays. ``venue`` names one, which is made if there is none."""

    venue_id: Id | None = None
    venue: Short | None = None
    name: Short | None = None
    kind: Short | None = None
    on: Date | None = None
    begins: Clock | None = None
    ends: Clock | None = None
    note: Text | None = None


class GigsIn(Model):
    ids: GigIds


class NamingIn(Model):
    """Nights that get a venue: each that of its proposal, or all the one that is said."""

    ids: GigIds
    venue: Short | None = None
    kind: Short | None = None


class ThrownIn(Model):
    ids: GigIds
    practice: bool


class SplitIn(Model):
    play_id: Id


class PlayOut(Model):
    """A play in the order of its night. ``at`` is null where its time is not known."""

    id: int
    track_id: int | None
    artist: str
    title: str
    at: str | None
    heard_s: float | None
    went: Went
    asked: bool
    never: Never
    note: str
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float | None


class NightOut(Model):
    """A gig with what was played there; ``pairs`` are the places of tracks that followed the one before at an
    earlier night of the venue too.
    """

    gig: GigOut
    plays: list[PlayOut]
    pairs: list[int]


class MarksIn(Model):
    """Marks for plays of a night; those that are not said stay."""

    ids: PlayIds
    went: Went | None = None
    asked: bool | None = None
    never: Never | None = None
    note: Short | None = None


class MarkedOut(Model):
    """For how many tracks "never again" could not be said, because their tags are locked."""

    locked: int


class PlaysIn(Model):
    ids: PlayIds


class MovedIn(Model):
    """Plays that go before another, or to the end."""

    ids: PlayIds
    before: Id | None = None


class AddIn(Model):
    """Tracks, or typed lines, that go into a night before one of its plays, or at its end."""

    track_ids: Annotated[list[Id], Field(max_length=2_000, default_factory=list)]
    text: Annotated[str, Field(max_length=400_000)] = ""
    before: Id | None = None


class MatchIn(Model):
    track_id: Id | None


class SharedOut(Model):
    """A track of two nights: its places in both, and whether the same stood beside it at both."""

    first: int
    second: int
    in_a_row: bool


class BesideOut(Model):
    first: NightOut
    second: NightOut
    shared: list[SharedOut]


class PlannedOut(Model):
    """A track of a set's running order, with when it was to begin."""

    at: str
    artist: str
    title: str
    note: str


class PlanBesideOut(Model):
    """A set beside the night it was planned for: places in the plan (first) and in the night (second)."""

    name: str
    planned: list[PlannedOut]
    night: NightOut
    shared: list[SharedOut]


class TellingIn(Model):
    """What tells of a night: a file, typed lines or a list; and what is said of the night beside."""

    path: PathText | None = None
    text: Annotated[str, Field(max_length=400_000)] | None = None
    crate_id: Id | None = None
    columns: ColumnsBody | None = None
    on: Date | None = None
    begins: Clock | None = None
    ends: Clock | None = None
    venue: Short = ""
    kind: Short = ""
    name: Short = ""
    note: Text = ""


class ToldPlayOut(Model):
    artist: str
    title: str
    track_id: int | None
    at: str | None


class ToldNightOut(Model):
    """A night that is told of; ``same`` is the gig that tells of it already, and ``shared`` what both tell
    of.
    """

    on: date
    begins: Clock | None
    ends: Clock | None
    plays: list[ToldPlayOut]
    here: int
    same: GigOut | None
    shared: int


class ToldOut(Model):
    nights: list[ToldNightOut]
    has_dates: bool
    table: TableOut | None


class NightTakenOut(Model):
    """A night that was taken in: into which gig, whether that was there, what it added and what both told
    of, and by how many seconds its clock was ahead.
    """

    gig_id: int
    was_there: bool
    added: int
    shared: int
    clock_off_s: float


class PlayedThereOut(Model):
    track_id: int | None
    artist: str
    title: str
    times: int
    first_on: date
    last_on: date
    well: int
    flat: int
    asked: int
    never: bool


class PlayedOut(Model):
    rows: list[PlayedThereOut]
    total: int


class PairOut(Model):
    first_id: int
    first: str
    then_id: int
    then: str
    nights: int


class TrackPlayOut(Model):
    """A play of a track: at which night, and what was played before and after."""

    play_id: int
    gig_id: int | None
    venue: str
    gig: str
    practice: bool
    on: date
    at: str | None
    went: Went
    asked: bool
    note: str
    before: str
    after: str


class MostOut(Model):
    track_id: int
    title: str
    artist: str
    times: int


class FiguresOut(Model):
    """A year at a glance."""

    nights: int
    plays: int
    tracks: int
    months: dict[str, int]
    venues: dict[str, int]
    keys: dict[str, int]
    tempi: dict[int, int]
    most: list[MostOut]
    bought: int
    never_played: int
    years: list[int]


class NextIn(Model):
    """How the next list is made: for when, which share is replaced, by what was not played there for so
    many weeks.
    """

    on: Date
    share: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.2
    weeks: Annotated[int, Field(ge=0, le=520)] = 4


class CandidateOut(Model):
    track_id: int
    artist: str
    title: str
    reasons: list[str]


class PlaceOut(Model):
    play: PlayOut
    fate: Fate
    reason: str
    candidates: list[CandidateOut]


class NextOut(Model):
    """What would stand in the next list, and what it would be called."""

    name: str
    places: list[PlaceOut]


class MakeNextIn(Model):
    on: Date
    name: Name
    track_ids: Annotated[list[Id], Field(min_length=1, max_length=2_000)]


class WarningOut(Model):
    """A track that shall not be played, and why."""

    track_id: int
    title: str
    why: str


class MadeNextOut(Model):
    crate_id: int
    warnings: list[WarningOut]


Form = Literal["text", "m3u8", "cue", "csv"]
