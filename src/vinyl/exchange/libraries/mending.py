"""Text that says it is UTF-8 and here and there is not: what does not fit is read as Western European."""

from __future__ import annotations

import re
from typing import IO

DECLARED = re.compile(rb"""^\s*<\?xml[^>]*encoding=["']([A-Za-z0-9._-]+)["']""")
UTF8_NAMES = frozenset({b"utf-8", b"utf8"})
MARKS = (b"\xff\xfe", b"\xfe\xff")
HEAD = 200
# As many bytes of a sign may still be to come.
OPEN_END = 3


class Mended:
    """A stream of text; ``mended`` counts the places that were no UTF-8."""

    def __init__(self, file: IO[bytes]) -> None:
        self.mended = 0
        self._file, self._rest = file, b""

    def read(self, size: int = -1) -> str:
        piece = self._file.read(size)
        data = self._rest + piece
        text, at = "", 0
        while at < len(data):
            try:
                text += data[at:].decode("utf-8")
                at = len(data)
            except UnicodeDecodeError as error:
                text += data[at : at + error.start].decode("utf-8")
                start, end = at + error.start, at + error.end
                if piece and len(data) - start <= OPEN_END:
                    at = start
                    break
                text += data[start:end].decode("cp1252", "replace")
                self.mended += 1
                at = end
        self._rest = data[at:]
        return text


def mended(file: IO[bytes]) -> IO[bytes] | Mended:
    """A document's stream: mended where it is, or says that it is, UTF-8."""
    head = file.read(HEAD)
    file.seek(0)
    declared = DECLARED.match(head.removeprefix(b"\xef\xbb\xbf"))
    other = declared and declared.group(1).lower() not in UTF8_NAMES
    return file if other or head.startswith(MARKS) else Mended(file)
