"""Text as it is compared: without case and accents."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

# Letters and digits together, or other signs together.
PIECE = re.compile(r"[^\W_]+|[^\w\s]+|_+")
# Signs that mean something by themselves, such as a star or a wave.
SIGN = re.compile(r"[\u2190-\u2bff\U0001f000-\U0001faff]")
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


def searchable(text: str) -> str:
    """A text as it is searched: folded, each different piece of it once, a space before and after each."""
    return f" {' '.join(dict.fromkeys(_pieces(fold(text))))} "


def _pieces(folded: str) -> list[str]:
    plain = folded.split()
    # Most texts are of nothing but letters and digits, which need no expression to be parted.
    return plain if "".join(plain).isalnum() else PIECE.findall(folded)


def words_of(folded: str) -> list[str]:
    """The different words of a folded text, in order, without what only parts them."""
    return [piece for piece in dict.fromkeys(_pieces(folded)) if is_word(piece)]


def is_word(piece: str) -> bool:
    """Whether a piece of a text says something: it has letters, digits or signs that do."""
    return piece[0].isalnum() or SIGN.search(piece) is not None


def asked_words(text: str) -> list[str]:
    """What is looked for by a text: its words; or what there is, where it has none."""
    folded = fold(text)
    return words_of(folded) or list(dict.fromkeys(_pieces(folded)))


def stands_within(word: str) -> bool:
    """Whether a word that is looked for may stand anywhere in another; else it begins it."""
    return len(word) >= WITHIN or not word.isascii()


def as_searched(word: str) -> str:
    """What to look for in a searchable text to find a word."""
    return word if stands_within(word) else f" {word}"


def has_words(searched: str, wanted: str) -> bool:
    """Whether all words of a text that is wanted stand in a searchable one: within a word of it or, if they
    are short, at the beginning of one.
    """
    return all(as_searched(word) in searched for word in asked_words(wanted))


def initials_of(words: Iterable[str]) -> int:
    """Which of INITIALS begin some words, as bits."""
    bits = 0
    for word in words:
        bits |= _BITS.get(word[0], 0)
    return bits
