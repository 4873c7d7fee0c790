"""Tags in families, and giving them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from vinyl.api.models.jobs import JobOut
from vinyl.api.models.shared import Id, Model, Words
from vinyl.api.models.tracks import Chosen
from vinyl.core.cues.bounds import Colour

TagName = Annotated[Words, Field(min_length=1, max_length=60)]
Sign = Annotated[Words, Field(max_length=16)]
Letter = Annotated[str, Field(pattern=r"^[a-z]$")]
Place = Annotated[int, Field(ge=0, le=100_000)]


class TagOut(Model):
    """A tag; without a colour and a sign of its own it has its family's."""

    id: int
    family_id: int
    name: str
    colour: Colour | None
    sign: str
    letter: str | None
    retired: bool
    tracks: int


class FamilyOut(Model):
    id: int
    name: str
    colour: Colour
    sign: str
    retired: bool
    tags: list[TagOut]


class FamilyIn(Model):
    name: TagName
    colour: Colour = "violet"
    sign: Sign = ""


class FamilyChange(Model):
    """What is to be different; ``to`` is a place among the families."""

    name: TagName | None = None
    colour: Colour | None = None
    sign: Sign | None = None
    retired: bool | None = None
    to: Place | None = None


class TagIn(Model):
    family_id: Id
    name: TagName


class TagChange(Model):
    """What is to be different; null takes a colour or a letter away, ``to`` is a place in the family."""

    name: TagName = ""
    family_id: Id = 0
    colour: Colour | None = None
    sign: Sign = ""
    letter: Letter | None = None
    retired: bool = False
    to: Place | None = None


class MergeIn(Model):
    into: Id


class GiveNewIn(Chosen):
    """Make a tag and give it to tracks."""

    family_id: Id
    name: TagName


class GiveIn(Chosen):
    """Give a tag to tracks, or take it; null takes it where all have it, and gives it where not."""

    tag_id: Id
    given: bool | None = None


class GivenOut(Model):
    """How many of the tracks were left as they were because their tags are locked; or the job, where
    there are too many to be changed at once.
    """

    changed: int
    locked: int
    job: JobOut | None = None


class AmongOut(Model):
    """How many of the chosen tracks have each tag, by its id."""

    total: int
    counts: dict[int, int]


class OfferOut(Model):
    """A style of the files: its spellings with their tracks, the tag it stands for or may, and how many
    tracks would get that.
    """

    name: str
    spellings: dict[str, int]
    tag_id: int | None
    missing: int


class TakeStylesIn(Model):
    """For a spelling of each style that is taken, the name of its tag."""

    mapping: Annotated[dict[str, TagName], Field(min_length=1, max_length=2000)]


class TracksOut(Model):
    tracks: int
