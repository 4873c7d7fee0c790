"""What all models share: the base, and the kinds of fields that many have."""

from __future__ import annotations

import unicodedata
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from vinyl.core.cues.bounds import MOST_PADS

LARGEST_ID = 2**53 - 1

Seconds = Annotated[float, Field(allow_inf_nan=False, ge=-60, le=200_000)]
Bpm = Annotated[float, Field(allow_inf_nan=False)]
Snap = Literal["beat", "bar", "phrase", "off"]
Source = Literal["by hand", "another library", "analysis", "file tag", "file name"]
Id = Annotated[int, Field(ge=0, le=LARGEST_ID)]
Ids = Annotated[list[Id], Field(min_length=1, max_length=200_000)]
# A track in a list by hand, or minus the id of a further place of one (vinyl.library.places).
PlaceName = Annotated[int, Field(ge=-LARGEST_ID, le=LARGEST_ID)]
PlaceNames = Annotated[list[PlaceName], Field(min_length=1, max_length=200_000)]
Pad = Annotated[int, Field(ge=1, le=MOST_PADS)]
Part = Literal["grid", "cues", "key", "tags"]
TempoKind = Literal["steady", "stepped", "elastic"]


def _shown(text: str) -> str:
    if any(unicodedata.category(letter) in ("Cc", "Cs") for letter in text):
        raise ValueError("it holds characters that cannot be shown")
    return text


Words = Annotated[str, AfterValidator(_shown)]
Name = Annotated[Words, Field(min_length=1, max_length=200)]


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Problem(Model):
    """What every refused request answers: one message that says what happened and what to do."""

    detail: str
