"""By what two names are told to be the same: artist and title, and names of files, without what varies."""

from __future__ import annotations

import re

from vinyl.core.text import fold

NOT_LETTERS = re.compile(r"[^\w]+")
# Words that say that nothing was changed; a title with them is the title without.
PLAIN_VERSION = re.compile(r"[(\[](original|album|main)( mix| version)?[)\]]")
WITH = re.compile(r"\b(feat|ft|featuring)\b")


def name_key(artist: str, title: str) -> str:
    """A key under which an artist's title is found; empty where either is not known."""
    parts = (_words(artist), _words(PLAIN_VERSION.sub(" ", fold(title))))
    return " – ".join(parts) if all(parts) else ""


def file_key(name: str) -> str:
    """A key under which a file is found by its name, in whatever case and normal form; not by its suffix, for
    the same music comes in several formats.
    """
    stem, dot, suffix = name.rpartition(".")
    return fold(stem if dot and stem and len(suffix) <= 4 else name).strip()


def _words(text: str) -> str:
    return " ".join(NOT_LETTERS.sub(" ", WITH.sub("feat", fold(text))).split())
