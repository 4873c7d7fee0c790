"""What was changed on a player, as it has written it down on a stick (docs/formats/stick.md): a stranger's
file, read by vinyl.sticks.papers.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Annotated, Literal, Self

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from vinyl.core.errors import TempoMapError
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.sticks.index import AnchorEntry, CueEntry

CHANGES_FILE = "changes.jsonl"
MOST_CUES, MOST_ANCHORS, MOST_TRACKS = 200, 20_000, 20_000

Name = Annotated[str, Field(min_length=8, max_length=80)]


class Change(BaseModel):
    """A line: the player's name for the change, when it was made, on which index, by which player."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    change: Name
    at: AwareDatetime
    on: AwareDatetime
    player: Annotated[str, Field(max_length=40)]


class CuesChange(Change):
    """All cues and loops of a track, as they are on the player after the change."""

    what: Literal["cues"]
    track: Annotated[str, Field(max_length=200)]
    cues: Annotated[tuple[CueEntry, ...], Field(max_length=MOST_CUES)]
    before: Annotated[tuple[CueEntry, ...], Field(max_length=MOST_CUES)]


class GridChange(Change):
    """The grid of a track."""

    what: Literal["grid"]
    track: Annotated[str, Field(max_length=200)]
    beats_per_bar: int
    anchors: Annotated[tuple[AnchorEntry, ...], Field(min_length=1, max_length=MOST_ANCHORS)]

    @model_validator(mode="after")
    def _is_a_grid(self) -> Self:
        try:
            self.grid()
        except TempoMapError as error:
            raise ValueError(str(error)) from error
        return self

    def grid(self) -> TempoMap:
        """The grid itself."""
        return TempoMap(anchors_from([anchor.model_dump() for anchor in self.anchors]), self.beats_per_bar)


class StarsChange(Change):
    """The stars of a track."""

    what: Literal["stars"]
    track: Annotated[str, Field(max_length=200)]
    stars: Annotated[int, Field(ge=0, le=5)]


class ListChange(Change):
    """The tracks of a list, in their order."""

    what: Literal["list"]
    list: Annotated[str, Field(max_length=200)]
    tracks: Annotated[tuple[str, ...], Field(max_length=MOST_TRACKS)]


AnyChange = CuesChange | GridChange | StarsChange | ListChange
ANY_CHANGE: TypeAdapter[AnyChange] = TypeAdapter(Annotated[AnyChange, Field(discriminator="what")])


def folded(changes: Iterable[AnyChange]) -> list[tuple[AnyChange, tuple[str, ...]]]:
    """Of each thing the last change, and the names of all; cues as they were before the first of them."""
    found: dict[tuple[str, str], list[AnyChange]] = {}
    for change in changes:
        found.setdefault((change.what, subject_of(change)), []).append(change)
    return [(_last(group), tuple(each.change for each in group)) for group in found.values()]


def _last(group: Sequence[AnyChange]) -> AnyChange:
    first, last = group[0], group[-1]
    if isinstance(first, CuesChange) and isinstance(last, CuesChange):
        return last.model_copy(update={"before": first.before, "on": first.on})
    return last


def subject_of(change: AnyChange) -> str:
    """The id of the track or list that was changed."""
    return change.list if isinstance(change, ListChange) else change.track
