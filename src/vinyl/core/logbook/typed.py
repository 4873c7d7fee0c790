"""Lists of what was played as people type them: a time if they know it, an artist and a title, or a title
alone.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from vinyl.core.logbook.clock_times import leading_clock

NUMBER = re.compile(r"\d{1,3}[.)]\s+")
DASH = re.compile(r"\s+[-–—]\s+")
# What people write where they do not know a title any more.
UNKNOWN = re.compile(r"[\W_]*|id|unknown|untitled", re.IGNORECASE)
MOST_LINES = 2000
LONGEST = 300


@dataclass(frozen=True, slots=True)
class TypedLine:
    """A line: minutes after midnight if a time stands there, and who and what."""

    begins_min: float | None
    artist: str
    title: str


def read_lines(text: str) -> list[TypedLine]:
    """What stands in a text, a play a line; empty lines and such without a name are passed over, and a
    first line that stands apart, for it is a heading.
    """
    texts = [line.strip()[:LONGEST] for line in text.strip().splitlines()[:MOST_LINES]]
    if _has_heading(texts):
        texts = texts[2:]
    return [line for line in map(_line, texts) if line is not None]


def _has_heading(texts: Sequence[str]) -> bool:
    """Whether the first line stands apart from the others: where all do, as in a list with an empty line
    between any two, it must also be written in another way.
    """
    if len(texts) < 3 or texts[1]:
        return False
    if any(first and second for first, second in pairwise(texts[2:])):
        return True
    first, *rest = (_line(each) for each in texts if each)
    return not _is_told(first) and all(map(_is_told, rest))


def _is_told(line: TypedLine | None) -> bool:
    return line is not None and (line.begins_min is not None or bool(line.artist))


def _line(line: str) -> TypedLine | None:
    clock_s, words = leading_clock(NUMBER.sub("", line, count=1) if NUMBER.match(line) else line)
    if UNKNOWN.fullmatch(words):
        return None
    artist, title = _split(words.strip())
    return TypedLine(None if clock_s is None else clock_s / 60, artist, title)


def _split(words: str) -> tuple[str, str]:
    parts = DASH.split(words, maxsplit=1)
    return (parts[0].strip(), parts[1].strip()) if len(parts) == 2 else ("", words)
