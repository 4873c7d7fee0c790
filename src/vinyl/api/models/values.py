"""Values of a track with their sources, and the rules that say which one wins."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Model, Source
from vinyl.library.values import Field as ValueField
from vinyl.library.values import Source as AnySource


class ValueOut(Model):
    """A value of a track: what a source says, and whether it wins. Long values are given in short."""

    field: ValueField
    source: AnySource
    origin: Source | None
    text: str | None
    doubt: float | None
    changed_at: str
    wins: bool


class ValueRule(Model):
    """The order of a field's free sources; a lock and what was done by hand always come before them."""

    field: ValueField
    order: Annotated[list[Source], Field(max_length=8)]


class RuleChangeOut(Model):
    """A track whose value would be another under another rule."""

    title: str
    before: str | None
    after: str | None


class RulePreview(Model):
    """How many tracks would have another value, and some of them."""

    tracks: int
    examples: list[RuleChangeOut]
