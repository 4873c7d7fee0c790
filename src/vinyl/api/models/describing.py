"""Describing many tracks at once, limits in words, and what goes with a track."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from vinyl.api.models.conditions import ConditionIn, SortIn
from vinyl.api.models.shared import Id, Model, Words
from vinyl.api.models.tracks import Chosen, TrackOut
from vinyl.core.cues.bounds import Colour
from vinyl.core.likeness.compare import Relation
from vinyl.core.planning.fitting import Reach
from vinyl.core.rules.text_edits import Case
from vinyl.library.describing import EditName, TextName

EditText = Annotated[str, Field(max_length=4000)]


class CommonOut(Model):
    """What tracks have in a field: the one value, or null and how many different ones."""

    value: str | None
    different: int


class CommonIn(Chosen):
    fields: Annotated[list[EditName], Field(min_length=1, max_length=40)]


class InCommonOut(Model):
    total: int
    fields: dict[EditName, CommonOut]


class EditIn(Chosen):
    """Values to give by hand; null takes the hand's word back."""

    values: Annotated[dict[EditName, EditText | None], Field(min_length=1)]


class ReplaceEdit(Model):
    kind: Literal["replace"]
    find: Annotated[Words, Field(min_length=1, max_length=400)]
    put: Annotated[Words, Field(max_length=400)] = ""
    match_case: bool = False
    whole_words: bool = False


class CleanEdit(Model):
    """White space and case put right."""

    kind: Literal["clean"]
    spaces: bool = True
    case: Case | None = None


class SplitEdit(Model):
    """Names written as "artist - title" taken apart."""

    kind: Literal["split names"]


class TextEditIn(Chosen):
    fields: Annotated[list[TextName], Field(max_length=20, default_factory=list)]
    edit: Annotated[ReplaceEdit | CleanEdit | SplitEdit, Field(discriminator="kind")]


class TextChangeOut(Model):
    track_id: int
    field: TextName
    before: str
    after: str


class TextChangesOut(Model):
    """The first changes, and how many there are in all; tracks whose tags are locked are left out."""

    changes: list[TextChangeOut]
    total: int
    tracks: int


class LimitsIn(Model):
    text: Annotated[str, Field(max_length=400)]


class LimitPart(Model):
    """One of the limits that a text is made of."""

    words: str
    where: ConditionIn


class LimitOut(Model):
    """A limit that a text, or its end, may be. Without a condition its words are to be gone on with; ``rest``
    is what is left to be looked for as words. ``sure`` says that the text can hardly mean something else.
    """

    words: str
    where: ConditionIn | None
    rest: str
    parts: list[LimitPart]
    order: list[SortIn]
    sure: bool


class ColourMeaning(Model):
    """What a colour of tracks means to the user."""

    colour: Colour
    name: Annotated[Words, Field(max_length=60)]
    sign: Annotated[Words, Field(max_length=2)]
    hex: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] | None = None


class FitOut(Model):
    """A track that goes with another: how well (0 to 1), why, how much faster it must be played, and what
    that does to its pitch if the key is not held.
    """

    track: TrackOut
    score: float
    reasons: list[str]
    change_percent: float | None
    cents: float
    heard_key: str | None


class FitIn(Model):
    reach: Reach = "near"
    key_held: bool = True


class BackingOut(Model):
    id: int
    name: str
    tracks: int


class LikelyOut(Model):
    """A track that seems to lie over the same instrumental: how much of it is found, and how."""

    track: TrackOut
    relation: Relation
    covered: float


class TogetherIn(Chosen):
    """Tracks to put into a group: a new one, or the one named by its id, which gets this name."""

    name: Annotated[Words, Field(max_length=200)]
    backing_id: Id | None = None


class PlayedIn(Chosen):
    """When tracks were played; now, if it is not said."""

    at: AwareDatetime | None = None
