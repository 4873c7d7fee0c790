"""Keys: their names in several notations, their neighbours, and what a change of tempo does to them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

TONICS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
SHARP_TONICS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
OTHER_NAMES = {
    "C#": "Db",
    "D#": "Eb",
    "Gb": "F#",
    "G#": "Ab",
    "A#": "Bb",
    "Cb": "B",
    "B#": "C",
    "E#": "F",
    "Fb": "E",
}
MODE_NAMES = {
    "major": "major",
    "maj": "major",
    "dur": "major",
    "": "major",
    "minor": "minor",
    "min": "minor",
    "m": "minor",
    "moll": "minor",
}

Mode = Literal["major", "minor"]
Notation = Literal["name", "short", "sharps", "wheel", "wheel letters"]
NOTATIONS: tuple[Notation, ...] = ("name", "short", "sharps", "wheel", "wheel letters")

_NAME = re.compile(r"([A-Ga-g])\s*([#♯b♭]?)\s*[- ]?\s*([A-Za-z]*)")
_WHEEL = re.compile(r"0?(1[0-2]|[1-9])\s*([ABabDMdm])")


@dataclass(frozen=True, slots=True)
class Key:
    """A tonic (0 is C) and a mode."""

    tonic: int
    mode: Mode

    def __str__(self) -> str:
        return f"{TONICS[self.tonic]} {self.mode}"

    @property
    def fifths(self) -> int:
        """Place on the circle of fifths, 0 for C major and A minor, 1 for G major and E minor, up to 11."""
        major = self.tonic if self.mode == "major" else self.tonic + 3
        return major * 7 % 12

    @property
    def relative(self) -> Key:
        """The key of the other mode with the same notes."""
        return (
            Key((self.tonic + 9) % 12, "minor")
            if self.mode == "major"
            else Key((self.tonic + 3) % 12, "major")
        )

    @property
    def parallel(self) -> Key:
        """The key of the other mode on the same tonic."""
        return Key(self.tonic, "minor" if self.mode == "major" else "major")

    def transposed(self, semitones: int) -> Key:
        """The key that many semitones up."""
        return Key((self.tonic + semitones) % 12, self.mode)

    def written(self, notation: Notation) -> str:
        """The key as text.

        "name" is "A minor", "short" is "Am", "sharps" is "G#m" where short has "Abm"; "wheel" counts the
        circle of fifths from C major and A minor, "1d" and "1m"; "wheel letters" counts from Ab minor and B
        major, "1A" and "1B".
        """
        minor = self.mode == "minor"
        if notation == "wheel":
            return f"{self.fifths + 1}{'m' if minor else 'd'}"
        if notation == "wheel letters":
            return f"{(self.fifths + 7) % 12 + 1}{'A' if minor else 'B'}"
        if notation == "name":
            return str(self)
        return (TONICS if notation == "short" else SHARP_TONICS)[self.tonic] + ("m" if minor else "")


@lru_cache(maxsize=512)
def parse_key(text: str) -> Key:
    """The key that a text in any of the notations stands for, as found in files.

    Raises:
        ValueError: for anything else.
    """
    text = text.strip()
    if wheel := _WHEEL.fullmatch(text):
        return _from_wheel(int(wheel[1]), wheel[2])
    name = _NAME.fullmatch(text)
    mode = MODE_NAMES.get(name[3] if name and name[3] in ("m", "M") else name[3].lower() if name else "?")
    if name is None or mode is None:
        raise ValueError(f"{text!r} is not a key: write it like 'A minor', 'Am' or 'Eb major'.")
    tonic = name[1].upper() + name[2].replace("♯", "#").replace("♭", "b")
    return Key(TONICS.index(OTHER_NAMES.get(tonic, tonic)), "major" if mode == "major" else "minor")


def _from_wheel(number: int, letter: str) -> Key:
    minor = letter in "AaMm"
    fifths = number - 1 if letter in "DdMm" else number - 8
    major_tonic = fifths * 7 % 12
    return Key((major_tonic + 9) % 12, "minor") if minor else Key(major_tonic, "major")


def fitting_keys(key: Key) -> tuple[Key, ...]:
    """The key itself, its neighbours on the circle of fifths, and its relative."""
    return (key, key.transposed(7), key.transposed(5), key.relative)


def after_tempo_change(key: Key, percent: float) -> tuple[Key, float]:
    """The key that is heard when a track plays ``percent`` faster without key hold, and the cents left over
    (-50 to 50).
    """
    semitones = 12.0 * math.log2(1.0 + percent / 100.0)
    whole = round(semitones)
    return key.transposed(whole), 100.0 * (semitones - whole)
