"""Edits of texts, one text at a time: finding and replacing, white space, case, and names written as
"artist - title".
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from vinyl.core.errors import VinylError

Case = Literal["Each Word", "First word", "small", "CAPITALS"]
CASES: tuple[Case, ...] = ("Each Word", "First word", "small", "CAPITALS")
# Small words stay small within a title.
SMALL = frozenset(
    {
        "a",
        "an",
        "and",
        "at",
        "by",
        "de",
        "del",
        "for",
        "from",
        "in",
        "of",
        "on",
        "or",
        "the",
        "to",
        "vs",
        "with",
    }
)
# Words that are written as they are, such as DJ, II or 2am, are left alone.
MIXED = re.compile(r"\d|[^\W\d_][A-Z]|^[IVX]+$")
DASH = re.compile(r"\s+[-–—]\s+")
TRACK_NUMBER = re.compile(r"^\s*(\(?[A-D]?\d{1,3}\)?[.\s]*[-–—.]\s*|\d{2}\s+)")


class TextEditError(VinylError):
    """An edit that makes no sense, in words."""


@dataclass(frozen=True, slots=True)
class Replace:
    """Find a text and put another in its place."""

    find: str
    put: str
    match_case: bool = False
    whole_words: bool = False

    def __call__(self, text: str) -> str:
        if not self.find:
            raise TextEditError("Say which text is to be found.")
        # A letter must not go on; a bracket or a full stop, as in "(live)" and "feat.", ends by itself.
        before = r"(?<!\w)" if self.whole_words and re.match(r"\w", self.find) else ""
        after = r"(?!\w)" if self.whole_words and re.search(r"\w$", self.find) else ""
        words = f"{before}{re.escape(self.find)}{after}"
        pattern = re.compile(words, 0 if self.match_case else re.IGNORECASE)
        return pattern.sub(lambda _: self.put, text)


def clean_spaces(text: str) -> str:
    """Without white space at the ends and in rows; no space after an opening bracket or before a comma."""
    text = " ".join(text.replace("_", " ").split()) if " " not in text else " ".join(text.split())
    text = re.sub(r"([(\[])\s+", r"\1", text)
    return re.sub(r"\s+([)\],;])", r"\1", text)


def in_case(text: str, case: Case) -> str:
    """A text with its letters in another case."""
    if case == "small":
        return text.lower()
    if case == "CAPITALS":
        return text.upper()
    words = text.split(" ")
    shouting = text.isupper()
    return " ".join(_word(word, i == 0, case, shouting) for i, word in enumerate(words))


def _word(word: str, first: bool, case: Case, shouting: bool) -> str:
    opening = re.match(r"[^\w]*", word)
    lead = opening.group() if opening else ""
    small, bare = word.lower(), word[len(lead) :].lower()
    if MIXED.search(word) and not shouting and bare not in SMALL:
        return word
    starts = first or bool(lead)
    if case == "First word":
        return lead + bare[:1].upper() + bare[1:] if first else small
    if bare in SMALL and not starts:
        return small
    return lead + bare[:1].upper() + bare[1:]


def split_name(title: str, artist: str) -> tuple[str, str] | None:
    """Title and artist of a name written as "artist - title", or None where it is not one.

    A name in front of the dash counts as the artist only where none is known, or where it is that artist.
    """
    parts = DASH.split(TRACK_NUMBER.sub("", title, count=1), maxsplit=1)
    if len(parts) != 2 or not all(part.strip() for part in parts):
        return None
    said, rest = (part.strip() for part in parts)
    if artist and said.casefold() != artist.casefold():
        return None
    return rest, artist or said
