"""Cue sheets: FILE lines, under each TRACK lines with a title and an INDEX 01 in minutes:seconds:frames."""

from __future__ import annotations

import re

from vinyl.exchange.lists.model import Entry, Mark, Playlist, Sheet
from vinyl.exchange.lists.text import lines_of, one_line

FRAMES_A_SECOND = 75
FILE = re.compile(r'FILE\s+(?:"(.*)"[^"]*|(\S+).*)', re.IGNORECASE)
TRACK = re.compile(r"TRACK\s+\d+.*", re.IGNORECASE)
WORDS = re.compile(r'(TITLE|PERFORMER)\s+(?:"(.*)"|(.*))', re.IGNORECASE)
INDEX = re.compile(r"INDEX\s+0*1\s+(\d{1,4}):(\d{1,2}):(\d{1,2})", re.IGNORECASE)


def quoted(text: str) -> str:
    """A text as it can stand between quotation marks."""
    return one_line(text).replace('"', "”")


class _Track:
    """A track as it is being read."""

    def __init__(self) -> None:
        self.words: dict[str, str] = {}
        self.start_s: float | None = None


def read_cue_sheet(text: str, name: str, encoding: str) -> Playlist:
    """A sheet that divides a file gives its marks; one of a file a track is a list like others."""
    files: list[tuple[str, list[_Track]]] = []
    head: dict[str, str] = {}
    for line in lines_of(text):
        line = line.strip()
        words, index = WORDS.fullmatch(line), INDEX.fullmatch(line)
        opened = FILE.fullmatch(line)
        if opened:
            files.append((opened.group(1) or opened.group(2) or "", []))
        elif TRACK.fullmatch(line) and files:
            files[-1][1].append(_Track())
        elif words:
            tracks = files[-1][1] if files else []
            target = tracks[-1].words if tracks else head
            target[words.group(1).casefold()] = (words.group(2) or words.group(3) or "").strip()
        elif index and files and files[-1][1]:
            minutes, seconds, frames = (int(part) for part in index.groups())
            files[-1][1][-1].start_s = 60 * minutes + seconds + frames / FRAMES_A_SECOND
    return _playlist(files, head, head.get("title") or name, encoding)


def _playlist(
    files: list[tuple[str, list[_Track]]], head: dict[str, str], name: str, encoding: str
) -> Playlist:
    if any(len(tracks) > 1 for _, tracks in files):
        return Playlist(name, encoding, sheets=tuple(Sheet(path, _marks(tracks)) for path, tracks in files))
    entries = [
        Entry(path, words.get("performer", head.get("performer", "")), words.get("title", ""))
        for path, tracks in files
        for words in [tracks[0].words if tracks else {}]
    ]
    return Playlist(name, encoding, tuple(entries))


def _marks(tracks: list[_Track]) -> tuple[Mark, ...]:
    """The tracks that say where they begin, in order, named by artist and title."""
    marks = []
    for number, track in enumerate(tracks, 1):
        if track.start_s is not None:
            said = (track.words.get("performer", ""), track.words.get("title", ""))
            marks.append(Mark(track.start_s, " – ".join(filter(None, said)) or f"{number}"))
    return tuple(sorted(marks, key=lambda mark: mark.start_s))
