"""What a player has written down of its plays on a stick (docs/formats/stick.md)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, TypeAdapter

PLAYS_FILE = "plays.jsonl"
# What was heard for less was only looked for.
LEAST_HEARD_S = 10.0


class PlayEntry(BaseModel):
    """A line: the player's name for the play, the track's id in the index, when it began, how long it was
    heard. A player may write a play anew when it ends: the last line counts.
    """

    model_config = ConfigDict(extra="ignore")

    play: Annotated[str, Field(min_length=8, max_length=80)]
    track: Annotated[str, Field(max_length=200)]
    began_at: AwareDatetime
    heard_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=200_000)]


PLAY_ENTRY = TypeAdapter(PlayEntry)


def that_count(entries: Iterable[PlayEntry]) -> list[PlayEntry]:
    """The plays that count, each once as it was written last."""
    last = {entry.play: entry for entry in entries}
    return [entry for entry in last.values() if entry.heard_s >= LEAST_HEARD_S]
