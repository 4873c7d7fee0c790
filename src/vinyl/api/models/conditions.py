"""Conditions on tracks over the wire; each says in ``kind`` which of vinyl.core.rules.conditions it is."""

from __future__ import annotations

from dataclasses import fields as dataclass_fields
from typing import Annotated, Any, Literal

from pydantic import Field, RootModel

from vinyl.api.models.shared import Id, Model, Part, Words
from vinyl.core.rules import conditions as core
from vinyl.core.rules.conditions import Condition, Flag, How, NumberField, TextField

Number = Annotated[float, Field(allow_inf_nan=False)]
Date = Annotated[str, Field(pattern=r"^\d{4}(-\d{2}(-\d{2})?)?$")]
Parts = Annotated[list["ConditionIn"], Field(max_length=100)]


class AllIn(Model):
    """Every part holds; without parts, always."""

    kind: Literal["all"]
    parts: Annotated[Parts, Field(default_factory=list)]


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
            | ListIn
            | TaggedIn
            | BackingIn
            | LockedIn
            | FlagIn,
            Field(discriminator="kind"),
        ]
    ]
):
    """A condition on tracks."""


NODES: dict[str, type[Any]] = {
    "all": core.AllOf,
    "any": core.AnyOf,
    "none": core.NoneOf,
    "words": core.Words,
    "text": core.TextIs,
    "between": core.Between,
    "added": core.Added,
    "last played": core.LastPlayed,
    "key": core.KeyIs,
    "list": core.InList,
    "tagged": core.Tagged,
    "backing": core.OverBacking,
    "locked": core.Locked,
    "flag": core.Is,
}


def to_core(condition: ConditionIn) -> Condition:
    """The condition as the core knows it."""
    given = condition.root
    fields = {name: getattr(given, name) for name in type(given).model_fields if name != "kind"}
    if "parts" in fields:
        fields["parts"] = tuple(to_core(part) for part in fields["parts"])
    made: Condition = NODES[given.kind](**fields)
    return made


def from_core(condition: Condition) -> ConditionIn:
    """The condition as it goes over the wire."""
    return ConditionIn.model_validate(_as_dict(condition))


def _as_dict(condition: Condition) -> dict[str, Any]:
    kind = next(kind for kind, node in NODES.items() if type(condition) is node)
    fields = {field.name: getattr(condition, field.name) for field in dataclass_fields(condition)}
    if "parts" in fields:
        fields["parts"] = [_as_dict(part) for part in fields["parts"]]
    return {"kind": kind, **fields}
