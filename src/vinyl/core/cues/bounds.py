"""What a cue can be: its place in the track, its length, role, pad, colour and words. Whoever says it, a
person, a player or another program, is held to this.
"""

from __future__ import annotations

from typing import Literal, get_args

from vinyl.core.errors import VinylError

Role = Literal["in", "main", "out"]
Colour = Literal["vermilion", "violet", "blue", "ochre", "green", "ink"]
ROLES: tuple[Role, ...] = get_args(Role)
COLOURS: tuple[Colour, ...] = get_args(Colour)
MOST_PADS = 8
LONGEST_LABEL = 80
LONGEST_S = 200_000.0
# A loop may end so much behind the track's last sample, by rounding.
ROUNDING_S = 1e-3


class CueError(VinylError):
    """A cue that cannot be, in words."""


def check_cue(
    position_s: float,
    length_s: float | None,
    role: str | None,
    pad: int | None,
    colour: str,
    duration_s: float,
) -> None:
    """Whether a cue can be in a track of this duration.

    Raises:
        CueError: if not.
    """
    if not 0 <= position_s <= duration_s:
        raise CueError(f"A cue must lie within the track, between 0 and {duration_s:.1f} s.")
    if length_s is not None and not 0 < length_s <= duration_s - position_s + ROUNDING_S:
        raise CueError(
            "This loop would reach past the end of the track: make it shorter or start it earlier."
        )
    if role is not None and role not in ROLES:
        raise CueError(f"A cue can be an in, a main or an out point, not “{role}”.")
    if pad is not None and not 1 <= pad <= MOST_PADS:
        raise CueError(f"There are pads from 1 to {MOST_PADS}; {pad} is none.")
    if colour not in COLOURS:
        raise CueError(f"“{colour}” is no colour of a cue.")
