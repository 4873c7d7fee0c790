"""M3U: a path a line, before it perhaps ``#EXTINF:seconds,Artist - Title``; other lines with # are notes, but
for those that name a file in a folder such as "#1 Hits".
"""

from __future__ import annotations

import re
from pathlib import PurePosixPath

from vinyl.exchange.lists.model import Entry, Playlist
from vinyl.exchange.lists.text import lines_of
from vinyl.media.probe import AUDIO_SUFFIXES

# Attributes may stand between the seconds and the comma.
EXTINF = re.compile(r"#EXTINF:\s*(-?\d+(?:\.\d+)?)?[^,]*,(.*)", re.IGNORECASE)
NAME = re.compile(r"#PLAYLIST:\s*(.+)", re.IGNORECASE)


def read_m3u(text: str, name: str, encoding: str) -> Playlist:
    """The entries, and the list's own name if it has one."""
    entries: list[Entry] = []
    said = Entry()
    for line in lines_of(text):
        words = line.strip()
        extended, named = EXTINF.fullmatch(words), NAME.fullmatch(words)
        if extended:
            said = _said(extended.group(1), extended.group(2))
        elif named:
            name = named.group(1).strip()
        elif words and (not words.startswith("#") or _is_file(words)):
            entries.append(Entry(line, said.artist, said.title, said.duration_s))
            said = Entry()
    return Playlist(name, encoding, tuple(entries))


def _is_file(line: str) -> bool:
    """Whether a line with # names a file and is no note."""
    suffix = PurePosixPath(line).suffix.lower()
    return not line.startswith(("#EXT", "# ")) and "/" in line and suffix in AUDIO_SUFFIXES


def as_line(path: str) -> str:
    """A path as a line that is not taken for a note."""
    return f"./{path}" if path.lstrip().startswith("#") else path


def _said(seconds: str | None, words: str) -> Entry:
    artist, title = split_name(words)
    length_s = float(seconds or -1)
    return Entry("", artist, title, length_s if length_s > 0 else None)


def split_name(words: str) -> tuple[str, str]:
    """Artist and title of a line like "Artist - Title"; without a dash it is all title."""
    artist, dash, title = (part.strip() for part in words.partition(" - "))
    return (artist, title) if dash and title else ("", words.strip())
