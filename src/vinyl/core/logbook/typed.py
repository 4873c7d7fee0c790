"""Lists of what was played as people type them: a time if they know it, an artist and a title, or a title
alone.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

LINE = re.compile(
    r"(?:(?P<number>\d{1,3})[.)]\s+)?"
    r"(?:\[?(?P<hour>\d{1,2})[:.h](?P<minute>\d{2})(?:[:.](?P<second>\d{2}))?\]?\s*[-–—|]?\s+)?"
    r"(?P<words>.*)"
)
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
    if len(texts) > 2 and not texts[1]:
        texts = texts[2:]
    return [line for line in map(_line, texts) if line is not None]


def _line(line: str) -> TypedLine | None:
    found = LINE.fullmatch(line)
    if found is None or UNKNOWN.fullmatch(found["words"]):
        return None
    before, dash, after = _split(found["words"].strip())
    artist, title = (before, after) if dash else ("", before)
    return TypedLine(_minutes(found), artist, title)


def _split(words: str) -> tuple[str, bool, str]:
    parts = DASH.split(words, maxsplit=1)
    return (parts[0].strip(), True, parts[1].strip()) if len(parts) == 2 else (words, False, "")


def _minutes(found: re.Match[str]) -> float | None:
    if found["hour"] is None or int(found["hour"]) > 23 or int(found["minute"]) > 59:
        return None
    return 60 * int(found["hour"]) + int(found["minute"]) + int(found["second"] or 0) / 60
