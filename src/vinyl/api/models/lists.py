"""What is asked of whole lists: dividers, order, looks, series, and those that were deleted."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from vinyl.api.models.conditions import SortIn
from vinyl.api.models.rules import RuleBody
from vinyl.api.models.shared import Id, Model, Name, Words
from vinyl.core.cues.bounds import Colour
from vinyl.library.combining import Arrangement, How

Sign = Annotated[Words, Field(max_length=16)]
Note = Annotated[Words, Field(max_length=2000)]
Place = Annotated[int, Field(ge=0, le=1_000_000)]
By = Annotated[str, Field(max_length=40)]


class DividedOut(Model):
    """A divider and what is below it; without ``divider_id`` it goes by a value of the tracks."""

    divider_id: int | None
    name: str
    sign: str
    colour: str
    at: int
    tracks: int
    duration_s: float


class SortsIn(Model):
    sorts: Annotated[tuple[SortIn, ...], Field(max_length=6)] = ()


class DividedBy(Model):
    """What a list is divided by; empty for dividers by hand."""

    by: By


class DividerIn(Model):
    name: Name
    at: Place
    sign: Sign = ""
    colour: Colour | Literal[""] = ""


class DividerChange(Model):
    """What a divider says, or, with ``at``, before which track it goes."""

    name: Name | None = None
    sign: Sign = ""
    colour: Colour | Literal[""] = ""
    at: Place | None = None


class CombineIn(Model):
    other_id: Id
    how: How


class ArrangeIn(SortsIn):
    how: Arrangement


class CopyIn(Model):
    name: Name


class LooksIn(Model):
    colour: Colour | Literal[""] | None = None
    sign: Sign | None = None
    note: Note | None = None


class SeriesIn(Model):
    name: Name
    by: By
    folder_id: Id | None = None


class OrderIn(Model):
    """Whose lists to order by name; None is for those in no folder."""

    folder_id: Id | None = None


class DeletedOut(Model):
    id: int
    name: str
    deleted_at: str
    lists: int
    places: int


class MadeOut(Model):
    crate_id: int
    tracks: int
    wanted: int
    problems: list[str]


class ListDocument(Model):
    """A list or folder as Vinyl writes it (docs/formats/lists.md)."""

    document: dict[str, Any]


class ReadyMadeOut(Model):
    name: str
    says: str
    rule: RuleBody


class MovedOut(Model):
    tracks: int
