"""Text as it is compared: without case and accents."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

# Letters and digits together; or a sign by itself, such as a star or a wave.
WORD = re.compile(r"[^\W_]+|[\u2190-\u2bff\U0001f000-\U0001faff]")
# Letters from which on a word is looked for within others; in writing without spaces each letter counts.
WITHIN = 3
INITIALS = "abcdefghijklmnopqrstuvwxyz0123456789"
_BITS = {letter: 1 << place for place, letter in enumerate(INITIALS)}


def fold(text: str) -> str:
    """Text without case and accents, for finding."""
    if text.isascii():
        return text.casefold()
    decomposed = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in decomposed if not unicodedata.combining(c))


def words_of(folded: str) -> list[str]:
    """The different words of a folded text, in order."""
    return list(dict.fromkeys(WORD.findall(folded)))


def stands_within(word: str) -> bool:
    """Whether a word that is looked for may stand anywhere in another; else it begins it."""
    return len(word) >= WITHIN or not word.isascii()


def initials_of(words: Iterable[str]) -> int:
    """Which of INITIALS begin some words, as bits."""
    bits = 0
    for word in words:
        bits |= _BITS.get(word[0], 0)
    return bits


def has_words(folded: str, wanted: str) -> bool:
    """Whether each word that is wanted, folded too, stands in a text: within a word of it or, if it is
    short, at the beginning of one. What has no letter and no digit stands there as it is.
    """
    words = words_of(folded)
    return all(
        any(piece in word if stands_within(piece) else word.startswith(piece) for word in words)
        for piece in words_of(wanted)
    ) and (bool(words_of(wanted)) or all(piece in folded for piece in wanted.split()))
