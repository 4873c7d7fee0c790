"""What a player can read."""

from __future__ import annotations

from dataclasses import dataclass

from vinyl.sticks.errors import StickError


@dataclass(frozen=True, slots=True)
class Profile:
    """A player's limits. ``plays`` maps codecs to why they are fine; others are converted to
    ``converts_to``."""

    name: str
    description: str
    plays: frozenset[str]
    converts_to: str
    longest_name: int
    pads: int


QUAY_ONE = Profile(
    name="Quay One",
    description="Vinyl's stand-in for a standalone player. Plays MP3, AAC, FLAC and WAV; 8 pads.",
    plays=frozenset({"mp3", "aac", "flac", "pcm_s16le", "pcm_s24le"}),
    converts_to="flac",
    longest_name=80,
    pads=8,
)
PROFILES = {profile.name: profile for profile in (QUAY_ONE,)}


def get_profile(name: str) -> Profile:
    """A profile by name.

    Raises:
        StickError: if Vinyl has none of that name.
    """
    if name not in PROFILES:
        raise StickError(f"Vinyl knows no player called “{name}”. It knows: {', '.join(PROFILES)}.")
    return PROFILES[name]
