"""Text that was read in a wrong encoding, and what it was meant to be."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

Encoding = Literal["UTF-8", "Shift-JIS", "Windows-1251"]

# Letters of a word of which most lie beyond ASCII are no accents on a Latin word.
FOREIGN_SHARE = 0.6
LEAST_LETTERS = 3
LEAST_CYRILLIC = 4
LEAST_JAPANESE = 2
# Bytes that begin most Japanese letters, and that hardly any text in Latin letters has.
HIGH_CONTROLS = range(0x80, 0xA0)


@dataclass(frozen=True, slots=True)
class Repair:
    """What a text was meant to be, and the encoding it was written in."""

    text: str
    encoding: Encoding


def repaired(text: str) -> Repair | None:
    """What a text was meant to be that was read as Latin-1 or Windows-1252; None where nothing is wrong."""
    if text.isascii():
        return None
    for encoding, codec, convinces in _TRIES:
        raw = _bytes_of(text)
        if raw is None:
            return None
        try:
            meant = raw.decode(codec)
        except UnicodeDecodeError:
            continue
        if meant != text and not _has_controls(meant) and convinces(text, meant):
            return Repair(meant, encoding)
    return None


def _bytes_of(text: str) -> bytes | None:
    """The bytes that a text was read from, or None if it cannot have been read so."""
    raw = bytearray()
    for char in text:
        try:
            raw += char.encode("latin-1")
        except UnicodeEncodeError:
            try:
                raw += char.encode("cp1252")
            except UnicodeEncodeError:
                return None
    return bytes(raw)


def _is_utf8(text: str, meant: str) -> bool:
    """Text that happens to be valid UTF-8 beyond ASCII is hardly ever anything else."""
    return len(meant) < len(text)


def _is_japanese(text: str, meant: str) -> bool:
    """Japanese letters, and so many bytes of them that typographic quotes do not count."""
    controls = any(ord(char) in HIGH_CONTROLS for char in text)
    mostly = sum(not char.isascii() for char in text) >= FOREIGN_SHARE * len(text)
    quoted = any(byte in HIGH_CONTROLS for byte in _bytes_of(text) or b"")
    if not controls and not (mostly and quoted):
        return False
    beyond = [char for char in meant if not char.isascii()]
    return len(beyond) >= LEAST_JAPANESE and all(
        _is_of(char, "HIRAGANA", "KATAKANA", "CJK") for char in beyond
    )


def _is_cyrillic(text: str, meant: str) -> bool:
    """Whole words in Cyrillic, of small letters after the first, as Latin words with accents never give."""
    words = [word for word in meant.split() if any(not char.isascii() for char in word)]
    letters = sum(_is_of(char, "CYRILLIC") for char in meant)
    return letters >= LEAST_CYRILLIC and all(_is_cyrillic_word(word) for word in words)


def _is_cyrillic_word(word: str) -> bool:
    letters = [char for char in word if char.isalpha()]
    foreign = [char for char in letters if _is_of(char, "CYRILLIC")]
    small_after = "".join(letters[1:]).islower() or "".join(letters).isupper()
    return len(letters) >= LEAST_LETTERS and len(foreign) > FOREIGN_SHARE * len(letters) and small_after


def _is_of(char: str, *scripts: str) -> bool:
    return unicodedata.name(char, "").startswith(scripts) or char in "、。「」・ー～　！？（）"


def _has_controls(text: str) -> bool:
    return any(unicodedata.category(char) in ("Cc", "Co", "Cn") for char in text)


_TRIES: tuple[tuple[Encoding, str, Callable[[str, str], bool]], ...] = (
    ("UTF-8", "utf-8", _is_utf8),
    ("Shift-JIS", "cp932", _is_japanese),
    ("Windows-1251", "cp1251", _is_cyrillic),
)
