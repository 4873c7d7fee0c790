"""How tags are to be written into files, and what that would change."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.shared import Model
from vinyl.api.models.tracks import Chosen
from vinyl.core.tag_form import CommentPlace, Part, TagField, WriteForm, as_parts
from vinyl.core.tonal.key import Notation


class WriteIn(Chosen):
    """Which tracks, which values, in which form; ``pattern`` for the files' names, or empty."""

    fields: Annotated[list[TagField], Field(max_length=40)]
    notation: Notation = "name"
    tempo_digits: Annotated[int, Field(ge=0, le=2)] = 2
    results: Annotated[list[Part], Field(max_length=10, default_factory=list)]
    results_place: CommentPlace = "before"
    energy_word: bool = True
    cues: bool = False
    pattern: Annotated[str, Field(max_length=200)] = ""

    def form(self) -> WriteForm:
        return WriteForm(
            frozenset(self.fields),
            self.notation,
            self.tempo_digits,
            as_parts(self.results),
            self.results_place,
            self.energy_word,
            self.cues,
        )


class TagChangeOut(Model):
    field: str
    before: str | None
    after: str


class TagPlanOut(Model):
    """One file: what would change in it, what cannot (``note``), or why nothing can (``refused``)."""

    track_id: int
    name: str
    new_name: str | None
    changes: list[TagChangeOut]
    note: str
    refused: str


class TagPlansOut(Model):
    """The first files with changes, how many of those looked at have none, and how many were not."""

    files: list[TagPlanOut]
    unchanged: int
    more: int
