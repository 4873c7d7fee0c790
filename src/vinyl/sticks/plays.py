"""What a player has written down of its plays on a stick (docs/formats/stick.md)."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from vinyl.sticks.papers import lines_of

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


def read_plays(folder: Path) -> list[PlayEntry]:
    """The plays on a stick that count. Lines that cannot be read, such as a cut off one, are passed over."""
    entries = {entry.play: entry for entry in map(_entry, lines_of(folder / PLAYS_FILE)) if entry is not None}
    return [entry for entry in entries.values() if entry.heard_s >= LEAST_HEARD_S]


def _entry(line: bytes) -> PlayEntry | None:
    try:
        return PlayEntry.model_validate_json(line)
    except ValidationError:
        return None
