"""A player's settings that a stick carries along, in plain words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from vinyl.sticks.errors import StickError

SettingName = Literal["start", "range", "key held", "direction", "brightness", "language", "loop"]


@dataclass(frozen=True, slots=True)
class Setting:
    """A setting, what it is about, and its answers, the usual one first."""

    name: SettingName
    says: str
    answers: tuple[str, ...]


SETTINGS: Mapping[SettingName, Setting] = {
    each.name: each
    for each in (
        Setting("start", "A track starts", ("at its in point", "at its main point", "at its first sound")),
        Setting("range", "The tempo slide reaches", ("6 %", "10 %", "16 %", "50 %")),
        Setting("key held", "When the tempo changes, the key", ("is held", "goes with it")),
        Setting("direction", "The waveform runs", ("to the left", "to the right")),
        Setting("brightness", "The display is", ("of middle brightness", "dim", "bright")),
        Setting("language", "The player speaks", ("English", "Deutsch", "Français", "Español", "Italiano")),
        Setting("loop", "A new loop is", ("4 beats long", "8 beats long", "16 beats long", "32 beats long")),
    )
}
assert tuple(SETTINGS) == get_args(SettingName)


def usual_settings(names: tuple[SettingName, ...]) -> dict[str, str]:
    """The usual answers of settings."""
    return {name: SETTINGS[name].answers[0] for name in names}


def check_settings(given: Mapping[str, str]) -> None:
    """Raise StickError unless all are answers that there are."""
    for name, answer in given.items():
        setting = SETTINGS.get(name)  # type: ignore[call-overload]
        if setting is None or answer not in setting.answers:
            raise StickError(f"“{answer}” is no answer for the setting “{name}”.")
