"""M3U: a path a line, before it perhaps ``#EXTINF:seconds,Artist - Title``; other lines with # are notes."""

from __future__ import annotations

import re

from vinyl.exchange.lists.model import Entry, Playlist

# Attributes may stand between the seconds and the comma.
EXTINF = re.compile(r"#EXTINF:\s*(-?\d+(?:\.\d+)?)?[^,]*,(.*)", re.IGNORECASE)
NAME = re.compile(r"#PLAYLIST:\s*(.+)", re.IGNORECASE)


def read_m3u(text: str, name: str, encoding: str) -> Playlist:
    """The entries, and the list's own name if it has one."""
    entries: list[Entry] = []
    said = Entry()
    for line in text.splitlines():
        line = line.strip()
        extended, named = EXTINF.fullmatch(line), NAME.fullmatch(line)
        if extended:
            said = _said(extended.group(1), extended.group(2))
        elif named:
            name = named.group(1).strip()
        elif line and not line.startswith("#"):
            entries.append(Entry(line, said.artist, said.title, said.duration_s))
            said = Entry()
    return Playlist(name, encoding, tuple(entries))


def _said(seconds: str | None, words: str) -> Entry:
    artist, title = split_name(words)
    length_s = float(seconds or -1)
    return Entry("", artist, title, length_s if length_s > 0 else None)


def split_name(words: str) -> tuple[str, str]:
    """Artist and title of a line like "Artist - Title"; without a dash it is all title."""
    artist, dash, title = (part.strip() for part in words.partition(" - "))
    return (artist, title) if dash and title else ("", words.strip())
