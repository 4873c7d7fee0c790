"""File names that every file system on a stick can hold."""

from __future__ import annotations

import re
import unicodedata

FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f]')
RESERVED = re.compile(r"(con|prn|aux|nul|com\d|lpt\d)", re.IGNORECASE)


def safe_name(text: str, longest: int, otherwise: str) -> str:
    """One part of a path: no forbidden signs, no trailing dots or spaces, not too long, never empty."""
    name = FORBIDDEN.sub("-", unicodedata.normalize("NFC", text))
    name = " ".join(name.split())[:longest].strip(" .")
    if not name:
        return otherwise
    return f"{name}-" if RESERVED.fullmatch(name) else name


def distinct(path: str, taken: set[str]) -> str:
    """The path, with a number before its suffix if it is taken (case does not count); the result is then
    taken.
    """
    stem, dot, suffix = path.rpartition(".")
    candidate, number = path, 2
    while candidate.casefold() in taken:
        candidate = f"{stem} ({number}){dot}{suffix}"
        number += 1
    taken.add(candidate.casefold())
    return candidate
