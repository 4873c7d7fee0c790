"""File names that every file system on a stick can hold."""

from __future__ import annotations

import re
import unicodedata

FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f]')
# Letters that do not fall apart into a plain one and an accent.
SPELT = str.maketrans({
    "ß": "ss", "æ": "ae", "Æ": "AE", "ø": "o", "Ø": "O", "å": "a", "Å": "A", "ð": "d", "þ": "th", "ł": "l",
    "Ł": "L", "œ": "oe", "Œ": "OE", "ı": "i", "–": "-", "—": "-", "’": "'",
})  # fmt: skip
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


def plain_name(name: str) -> str:
    """A name in plain letters only, for players that know no others."""
    letters = unicodedata.normalize("NFKD", name.translate(SPELT))
    return "".join(
        each if " " <= each <= "~" else "" if unicodedata.combining(each) else "_" for each in letters
    )


class Layout:
    """Where files of sound stand: an artist's in a folder, and no folder with more entries than it may have.

    ``taken`` are names that are not free, folded as file systems on sticks fold them.
    """

    def __init__(
        self, root: str, taken: set[str], longest: int, plain: bool, folder_files: int | None
    ) -> None:
        self._root, self._taken, self._longest, self._plain = root, taken, longest, plain
        self._most = folder_files
        self._inside: dict[str, set[str]] = {}
        for path in taken:
            self._count(path)

    def place(self, artist: str, title: str, suffix: str) -> str:
        """A free path for a track; it is then taken."""
        stem = self._name(title, len(suffix))
        path = distinct(f"{self._folder(artist)}/{stem}{suffix}", self._taken)
        self._count(path.casefold())
        return path

    def _folder(self, artist: str) -> str:
        name = self._name(artist)
        above = self._root
        if self._most:
            first = plain_name(name)[:1].upper()
            above = self._free(f"{self._root}/{first if first.isalnum() else '_'}", name)
        return self._free(f"{above}/{name}", None)

    def _free(self, folder: str, child: str | None) -> str:
        """The folder, or the next of that name with room for another entry."""
        candidate, number = folder, 2
        while self._is_full(candidate.casefold(), child):
            candidate, number = f"{folder} {number}", number + 1
        return candidate

    def _is_full(self, folder: str, child: str | None) -> bool:
        inside = self._inside.get(folder, set())
        is_new = child is None or child.casefold() not in inside
        return self._most is not None and is_new and len(inside) >= self._most

    def _name(self, text: str, suffix: int = 0) -> str:
        # A number may come behind it where a name is there twice.
        longest = self._longest - suffix - len(" (99)") if self._plain else self._longest
        return safe_name(plain_name(text) if self._plain else text, longest, "Unknown")

    def _count(self, path: str) -> None:
        while "/" in path:
            path, _, name = path.rpartition("/")
            self._inside.setdefault(path, set()).add(name)
