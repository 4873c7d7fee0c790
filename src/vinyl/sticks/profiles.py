"""What players can read: one document each in ``players/``, described in docs/formats/players.md."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from vinyl.sticks.errors import StickError
from vinyl.sticks.settings import SettingName

Grids = Literal["steady", "stepped", "elastic"]


class Limits(BaseModel):
    """What of a codec a player takes; no rates means all."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    rates_hz: tuple[int, ...] = ()


class Profile(BaseModel):
    """A player's limits. ``plays`` has the codecs that it plays; other files are converted to the first of
    ``converts_to``, or to another that was chosen.

    ``places`` is how many cues and loops it holds, ``grids`` the most that its grids can say, ``keys`` the
    notation it shows, ``waveforms`` whether it shows whole waveforms, ``plain_names`` whether names are of
    plain letters only, ``folder_files`` how many entries a folder may have. Other homes may still know it by
    names that it had ``formerly``.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Annotated[str, Field(min_length=1, max_length=40)]
    formerly: tuple[str, ...] = ()
    description: str
    plays: Mapping[str, Limits]
    converts_to: Annotated[tuple[str, ...], Field(min_length=1)]
    places: Annotated[int, Field(ge=0, le=64)]
    grids: Grids
    keys: Literal["name", "short", "wheel"]
    engages: bool
    longest_name: Annotated[int, Field(ge=12, le=200)]
    picture_pixels: Annotated[int, Field(ge=0, le=2000)]
    settings: tuple[SettingName, ...] = ()
    routes: bool = False
    waveforms: bool = False
    writes_back: bool = False
    plain_names: bool = False
    folder_files: int | None = None
    largest_bytes: int | None = None

    def can_play(self, codec: str, rate_hz: int) -> bool:
        """Whether it plays a file of such sound as it is."""
        limits = self.plays.get(codec)
        return limits is not None and (not limits.rates_hz or rate_hz in limits.rates_hz)


def _profiles() -> Mapping[str, Profile]:
    documents = sorted(
        (each for each in (files("vinyl.sticks") / "players").iterdir() if each.name.endswith(".toml")),
        key=lambda each: each.name,
    )
    found = [Profile.model_validate(tomllib.loads(each.read_text("utf-8"))) for each in documents]
    return {profile.name: profile for profile in found}


PROFILES = _profiles()
FORMER_NAMES = {name: profile.name for profile in PROFILES.values() for name in profile.formerly}


def get_profile(name: str) -> Profile:
    """A profile by its name, or by one that it had formerly.

    Raises:
        StickError: if Vinyl has none of that name.
    """
    name = FORMER_NAMES.get(name, name)
    if name not in PROFILES:
        raise StickError(f"Vinyl knows no player called “{name}”. It knows: {', '.join(PROFILES)}.")
    return PROFILES[name]
