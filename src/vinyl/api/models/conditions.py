"""Conditions on tracks over the wire; each says in ``kind`` which of vinyl.core.rules.conditions it is."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, RootModel

from vinyl.api.models.shared import Id, Model, Part, Words
from vinyl.core.rules.conditions import (
    MOST_DAYS,
    MOST_FIRST,
    Condition,
    Flag,
    How,
    NumberField,
    TextField,
    TimeField,
)
from vinyl.core.rules.notation import as_json, from_json
from vinyl.library.sorts import SortName

Number = Annotated[float, Field(allow_inf_nan=False)]
Date = Annotated[str, Field(pattern=r"^\d{4}(-\d{2}(-\d{2})?)?$")]
Parts = Annotated[list["ConditionIn"], Field(max_length=100)]


class SortIn(Model):
    """What tracks are sorted by."""

    sort: SortName
    descending: bool = False


class AllIn(Model):
    """Every part holds; without parts, always."""

    kind: Literal["all"]
    parts: Parts


class AnyIn(Model):
    """One part at least holds."""

    kind: Literal["any"]
    parts: Parts


class NoneIn(Model):
    """No part holds."""

    kind: Literal["none"]
    parts: Parts


class WordsIn(Model):
    """Each word occurs somewhere in the track's text."""

    kind: Literal["words"]
    text: Annotated[Words, Field(max_length=400)]


class TextIn(Model):
    """A text field, compared without case and accents."""

    kind: Literal["text"]
    field: TextField
    text: Annotated[Words, Field(max_length=400)]
    how: How = "is"


class BetweenIn(Model):
    """A number, both ends included."""

    kind: Literal["between"]
    field: NumberField
    low: Number | None = None
    high: Number | None = None


class AddedIn(Model):
    """Came in between two dates, both included; a date may be a year or a month."""

    kind: Literal["added"]
    since: Date | None = None
    until: Date | None = None


class LastPlayedIn(Model):
    """Was last played between two dates, both included; a date may be a year or a month."""

    kind: Literal["last played"]
    since: Date | None = None
    until: Date | None = None


class KeyIn(Model):
    """The key, or with ``fits`` any key that fits it."""

    kind: Literal["key"]
    key: Annotated[str, Field(max_length=20)]
    fits: bool = True


class ListIn(Model):
    """Has a place in a list."""

    kind: Literal["list"]
    list_id: Id


class LatelyIn(Model):
    """Came in, or was last played, in the last so many days, whenever one looks."""

    kind: Literal["lately"]
    field: TimeField
    days: Annotated[int, Field(ge=0, le=MOST_DAYS)]


class PlayedAtIn(Model):
    """Was played so many times, at a venue or anywhere, in the last so many days or ever."""

    kind: Literal["played at"]
    venue_id: Id | None = None
    low: Annotated[int, Field(ge=0, le=1_000_000)] | None = 1
    high: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    days: Annotated[int, Field(ge=0, le=MOST_DAYS)] | None = None


class LastPlayedAtIn(Model):
    """Was last played at a venue between two dates, both included; a date may be a year or a month."""

    kind: Literal["last played at"]
    venue_id: Id
    since: Date | None = None
    until: Date | None = None


class NeverAtIn(Model):
    """Is never to be played again at a venue, or anywhere."""

    kind: Literal["never at"]
    venue_id: Id


class FirstIn(Model):
    """Is among the first so many of what meets a condition, in an order."""

    kind: Literal["first"]
    where: ConditionIn
    order: Annotated[list[SortIn], Field(max_length=6)]
    count: Annotated[int, Field(ge=1, le=MOST_FIRST)]


class TaggedIn(Model):
    """Has a tag."""

    kind: Literal["tagged"]
    tag_id: Id


class BackingIn(Model):
    """Lies over a shared instrumental."""

    kind: Literal["backing"]
    backing_id: Id


class LockedIn(Model):
    """A part of the track is locked."""

    kind: Literal["locked"]
    part: Part


class FlagIn(Model):
    """A plain fact about the track."""

    kind: Literal["flag"]
    flag: Flag


class ConditionIn(
    RootModel[
        Annotated[
            AllIn
            | AnyIn
            | NoneIn
            | WordsIn
            | TextIn
            | BetweenIn
            | AddedIn
            | LastPlayedIn
            | KeyIn
            | LatelyIn
            | PlayedAtIn
            | LastPlayedAtIn
            | NeverAtIn
            | ListIn
            | FirstIn
            | TaggedIn
            | BackingIn
            | LockedIn
            | FlagIn,
            Field(discriminator="kind"),
        ]
    ]
):
    """A condition on tracks."""


def to_core(condition: ConditionIn) -> Condition:
    """The condition as the core knows it."""
    return from_json(condition.model_dump())


def from_core(condition: Condition) -> ConditionIn:
    """The condition as it goes over the wire."""
    return ConditionIn.model_validate(as_json(condition))
