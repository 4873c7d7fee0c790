"""Bytes of a playlist as text: by its byte order mark, else UTF-8 if it is that, else as Windows wrote it."""

from __future__ import annotations

import codecs
import re

BYTE_ORDER_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
NAMES = {
    "utf-8-sig": "UTF-8",
    "utf-8": "UTF-8",
    "utf-16": "UTF-16",
    "utf-16-le": "UTF-16",
    "utf-16-be": "UTF-16",
}
# What ends a line of a list: other signs that Unicode counts as ends, such as U+0085, stand in file names.
LINE_END = re.compile(r"\r\n|\n|\r")
# Of text in UTF-16 without a mark, so many of the bytes at odd or even places are zero.
ZERO_SHARE = 0.3


def lines_of(text: str) -> list[str]:
    """The lines of a list, blanks at their ends kept."""
    return LINE_END.split(text)


def one_line(text: str) -> str:
    """A text without line ends, and without more than one blank at a time."""
    return " ".join(text.split())


def can_stand(path: str) -> bool:
    """Whether a path can be a line of a list."""
    return lines_of(path) == [path] and bool(path.strip())


def decode(data: bytes) -> tuple[str, str]:
    """The text, and the name of its encoding."""
    for mark, encoding in BYTE_ORDER_MARKS:
        if data.startswith(mark):
            return data.decode(encoding, errors="replace"), NAMES[encoding]
    head = data[:4096]
    for encoding, zeros in (("utf-16-le", head[1::2]), ("utf-16-be", head[0::2])):
        if zeros and zeros.count(0) > ZERO_SHARE * len(zeros):
            return data.decode(encoding, errors="replace"), NAMES[encoding]
    try:
        return data.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        pass
    try:
        return data.decode("cp1252"), "Windows-1252"
    except UnicodeDecodeError:
        return data.decode("latin-1"), "Latin-1"
