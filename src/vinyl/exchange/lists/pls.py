"""PLS: an ini file with File1, Title1 and Length1 for each entry."""

from __future__ import annotations

import re

from vinyl.exchange.lists.m3u import split_name
from vinyl.exchange.lists.model import Entry, Playlist
from vinyl.exchange.lists.text import lines_of

LINE = re.compile(r"\s*(File|Title|Length)(\d{1,7})\s*=(.*)", re.IGNORECASE)


def read_pls(text: str, name: str, encoding: str) -> Playlist:
    """The entries, by their numbers."""
    found: dict[int, dict[str, str]] = {}
    for line in lines_of(text):
        match = LINE.fullmatch(line)
        if match:
            found.setdefault(int(match.group(2)), {})[match.group(1).casefold()] = match.group(3)
    entries = [_entry(values) for _, values in sorted(found.items()) if values.get("file", "").strip()]
    return Playlist(name, encoding, tuple(entries))


def _entry(values: dict[str, str]) -> Entry:
    artist, title = split_name(values.get("title", ""))
    length = values.get("length", "").strip()
    return Entry(values["file"], artist, title, float(length) if length.isdecimal() and int(length) else None)
