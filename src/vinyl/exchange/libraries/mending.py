"""Text that says it is UTF-8 and here and there is not: what does not fit is read as Western European."""

from __future__ import annotations

import codecs
import re
import threading
from typing import IO

DECLARED = re.compile(rb"""^\s*<\?xml[^>]*encoding=["']([A-Za-z0-9._-]+)["']""")
UTF8_NAMES = frozenset({b"utf-8", b"utf8"})
MARKS = (b"\xff\xfe", b"\xfe\xff")
HEAD = 200
HANDLER = "vinyl-western"

_counted = threading.local()


def _as_western(error: UnicodeError) -> tuple[str, int]:
    if not isinstance(error, UnicodeDecodeError):
        raise error
    _counted.number = getattr(_counted, "number", 0) + 1
    return error.object[error.start : error.end].decode("cp1252", "replace"), error.end


codecs.register_error(HANDLER, _as_western)


class Mended:
    """A stream of text; ``mended`` counts the places that were no UTF-8."""

    def __init__(self, file: IO[bytes]) -> None:
        self.mended = 0
        self._file = file
        self._decoder = codecs.getincrementaldecoder("utf-8")(HANDLER)

    def read(self, size: int = -1) -> str:
        piece = self._file.read(size)
        _counted.number = 0
        text = self._decoder.decode(piece, final=not piece)
        self.mended += _counted.number
        return text


def mended(file: IO[bytes]) -> IO[bytes] | Mended:
    """A document's stream: mended where it is, or says that it is, UTF-8."""
    head = file.read(HEAD)
    file.seek(0)
    declared = DECLARED.match(head.removeprefix(codecs.BOM_UTF8))
    other = declared and declared.group(1).lower() not in UTF8_NAMES
    return file if other or head.startswith(MARKS) else Mended(file)
