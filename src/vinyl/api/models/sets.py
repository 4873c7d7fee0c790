"""What goes over the wire about sets."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.mixes import MixSettings
from vinyl.api.models.shared import Id, Model, Name, Words
from vinyl.api.models.tracks import Chosen
from vinyl.core.planning.clearance import State, Verdict
from vinyl.core.planning.fitting import MOST_WEIGHT
from vinyl.core.planning.proposing import By
from vinyl.core.planning.transitions import Kind
from vinyl.library.chains import Held

Note = Annotated[Words, Field(max_length=1000)]
Short = Annotated[Words, Field(max_length=10)]
Share = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
Energy = Annotated[float, Field(ge=0.0, le=100.0, allow_inf_nan=False)]
MOST_ENTRIES = 2000
LONGEST_TABLE = 2_000_000
Short400 = Annotated[Words, Field(max_length=400)]
EntryIds = Annotated[list[Id], Field(max_length=MOST_ENTRIES)]


class SetLine(Model):
    """A set as it is listed."""

    id: int
    name: str
    venue_id: int | None
    venue: str
    on_day: str
    begins: str
    ends: str
    placed: int
    in_tray: int


class SetMade(Model):
    id: int


class SetAdded(Model):
    """How many tracks came into a set."""

    added: int


class SetFactsIn(Model):
    """What a set is called, and where and when it is; a venue of a new name is made."""

    name: Name
    venue: Annotated[Words, Field(max_length=120)] = ""
    on_day: Short = ""
    begins: Short = ""
    ends: Short = ""


class SetIn(SetFactsIn):
    """A new set; its tray is filled from a list or from a night."""

    crate_id: Id | None = None
    gig_id: Id | None = None


class SetChangeIn(Model):
    """What changes of a set; what is not given stays."""

    name: Name | None = None
    venue: Annotated[Words, Field(max_length=120)] | None = None
    on_day: Short | None = None
    begins: Short | None = None
    ends: Short | None = None
    note: Note | None = None
    tempo_percent: Annotated[float, Field(ge=0.5, le=50.0, allow_inf_nan=False)] | None = None
    key_held: bool | None = None


class CautionOut(Model):
    """What speaks against a track or a joint, and what would help."""

    kind: Kind
    words: str
    help: str


class SetEntryOut(Model):
    """A track of a set: when it begins, from the start of the set on, and when it was last played there."""

    id: int
    track_id: int | None
    artist: str
    title: str
    on_shelf: bool
    pin: str
    with_next: bool
    note: str
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float
    main_s: float | None
    explicit: bool
    begins_s: float
    at: str
    cautions: list[CautionOut]
    last_here: str
    times_here: int


class SetJointOut(Model):
    """Where an entry goes over into the next."""

    out_id: int
    in_id: int
    settings: MixSettings
    over_s: float
    works: bool | None
    words: list[str]
    cautions: list[CautionOut]
    note: str


class ArcPoint(Model):
    """The energy wanted when a share of the night is over."""

    share: Share
    energy: Energy


class SetOut(SetLine):
    """A set with its running order, its tray and the arc that is wanted."""

    note: str
    tempo_percent: float
    key_held: bool
    arc: list[ArcPoint]
    slot_s: float | None
    lasts_s: float
    order: list[SetEntryOut]
    tray: list[SetEntryOut]
    joints: list[SetJointOut]


class SetArcIn(Model):
    points: Annotated[list[ArcPoint], Field(max_length=24)]


class SetAddIn(Chosen):
    """Tracks for the tray, or for the running order, before an entry or at the end."""

    placed: bool = False
    before: Id | None = None


class SetWantIn(Model):
    """A track that is not owned yet, for the tray, or for the running order."""

    artist: Short400
    title: Short400
    placed: bool = False
    before: Id | None = None


class SetWanted(Model):
    """Whether a track that was wanted is on the Shelf already."""

    owned: bool


class SetEntriesIn(Model):
    entry_ids: Annotated[EntryIds, Field(min_length=1)]


class SetMoveIn(SetEntriesIn):
    placed: bool = True
    before: Id | None = None


class SetEntryIn(Model):
    """What changes of an entry; what is not given stays."""

    note: Note | None = None
    pin: Annotated[str, Field(max_length=5)] | None = None
    with_next: bool | None = None


class SetJointIn(Model):
    out_id: Id
    in_id: Id
    settings: MixSettings = Field(default_factory=MixSettings)
    note: Note = ""


Says = Annotated[float, Field(ge=0, le=MOST_WEIGHT, allow_inf_nan=False)]


class OrderWeights(Model):
    """What each is to say where all is weighed."""

    tempo: Says
    keys: Says
    arc: Says
    rise: Says


class SetOrderIn(Model):
    """By what the running order, or a stretch of it, is ordered."""

    by: By
    entry_ids: EntryIds = Field(default_factory=list)
    weights: OrderWeights | None = None


class SetOrderOut(Model):
    """An order that is proposed, what joints and places cost before and after, and each joint of either."""

    entry_ids: list[int]
    cost_before: float
    cost_after: float
    joints_before: list[float]
    joints_after: list[float]


class ChainStepIn(Model):
    """A track that is gone on to from a step, or with which a chain begins."""

    track_id: Id
    from_id: Id | None = None


class ChainStepOut(Model):
    """A step of a chain, the step it was gone on to from, and where in the set its track stands by now."""

    id: int
    from_id: int | None
    track_id: int | None
    artist: str
    title: str
    on_shelf: bool
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float
    main_s: float | None
    held: Held


class ClearanceLine(Model):
    """A track of a running order, and whether it may be published within a recording: where, and by whom."""

    track_id: int | None
    artist: str
    title: str
    at: str
    state: State
    places: list[str]
    condition: str
    source: str
    on_day: str
    is_doubtful: bool


class ClearanceOut(Model):
    """Whether a set's recording may be published, why not, and what is known of each track."""

    may: Verdict
    words: list[str]
    lines: list[ClearanceLine]


class ClearanceIn(Model):
    """What is said by hand of tracks."""

    track_ids: Annotated[list[Id], Field(min_length=1, max_length=MOST_ENTRIES)]
    state: State
    places: Short400 = ""
    condition: Short400 = ""


class ClearanceTableIn(Model):
    """A table that somebody sent, and who."""

    text: Annotated[str, Field(max_length=LONGEST_TABLE)]
    source: Annotated[Words, Field(max_length=80)] = "a table"


class ClearanceTaken(Model):
    """What came of asking for clearances."""

    changed: int
    not_known: int
    by_hand: int
    notes: list[str]


class SuggestionOut(Model):
    """A track that can come next, and why."""

    track_id: int
    title: str
    artist: str
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float
    main_s: float | None
    in_tray: bool
    score: float
    reasons: list[str]
    doubts: list[str]
