"""What the texts of tags mean: numbers, years, stars, energy, yes and no, decibels."""

from __future__ import annotations

import re
from collections.abc import Iterable

MOST_STARS = 5
MOST_ENERGY = 100
# POPM ratings from which on there are so many stars, as most programs write them.
STAR_STEPS = (1, 64, 128, 196, 255)
LARGEST_GAIN_DB = 64.0
# A word for energy, then its number: from 1 to 10, or from 11 to 100.
ENERGY_WORD = re.compile(r"\benergy\s*(?:level)?\s*[:=-]?\s*(\d{1,3})\b", re.IGNORECASE)
BLANKS = re.compile(r"[\x00-\x20\x7f]+")
GAIN = re.compile(r"\s*([+-]?\d+(?:[.,]\d+)?)\s*(?:dB)?\s*", re.IGNORECASE)
YES, NO = frozenset({"1", "true", "yes", "explicit"}), frozenset({"0", "false", "no", "clean", "2"})
LIST_SEPARATOR = "; "


def clean(text: str) -> str:
    """Text on one line, without control characters of ASCII and doubled blanks.

    Those from 128 on stay: they are letters of an encoding that was not the one it was read in
    (vinyl.core.encodings).
    """
    return BLANKS.sub(" ", text).strip(" ")


def joined(texts: Iterable[object]) -> str:
    """Several texts as one, each of them once."""
    parts = [clean(part) for text in texts for part in str(text).split("\x00")]
    return LIST_SEPARATOR.join(dict.fromkeys(part for part in parts if part))


def number(text: str) -> float | None:
    """A positive number of sensible size."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    return value if 0 < value < 10000 else None


def year(text: str) -> int | None:
    """The year a date begins with; only plain digits count, not those that are superscripts or in circles."""
    digits = text[:4]
    return int(digits) if len(digits) == 4 and digits.isdecimal() else None


def count(text: str) -> int | None:
    """How often something happened."""
    return int(text) if text.isdecimal() and len(text) < 8 else None


def stars_of_popm(rating: int) -> int:
    """Stars of a POPM rating from 0 to 255."""
    return sum(rating >= step for step in STAR_STEPS)


def stars(text: str) -> int:
    """Stars written as 0 to 1 with a point, 0 to 5, or 0 to 100."""
    value = number(text) or 0.0
    if value <= 1.0 and "." in text:
        value *= MOST_STARS
    elif value > MOST_STARS:
        value *= MOST_STARS / 100
    return max(0, min(MOST_STARS, round(value)))


def energy(text: str) -> int | None:
    """Energy from 0 to 100, written as 1 to 10 or as 11 to 100."""
    value = number(text)
    if value is None or value > MOST_ENERGY or value != int(value):
        return None
    return int(value) * (10 if value <= 10 else 1)


def energy_in(comment: str) -> int | None:
    """The number that a comment gives for energy, where it has one."""
    found = ENERGY_WORD.search(comment)
    return energy(found.group(1)) if found else None


def flag(text: str) -> bool | None:
    """Yes or no, or None where it says neither."""
    word = text.strip().casefold()
    return True if word in YES else False if word in NO else None


def gain_db(text: str) -> float | None:
    """A gain in dB such as "-6.70 dB"."""
    found = GAIN.fullmatch(text)
    if not found:
        return None
    value = float(found.group(1).replace(",", "."))
    return value if abs(value) <= LARGEST_GAIN_DB else None
