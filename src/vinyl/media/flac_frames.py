"""Where the frames of a FLAC file begin, and which is the last: enough to see that a file is whole.

The format is that of RFC 9639, sections 8 (metadata) and 9.1 (frame headers).
"""

from __future__ import annotations

from typing import BinaryIO

MARK = b"fLaC"
# A frame header of a file with blocks of one size begins so.
SYNC = b"\xff\xf8"
# The last frame begins within so much of the end; the largest that are common are 16 KB.
SEARCHED_BYTES = 131072
CRC_POLYNOMIAL = 0x07


def first_frame(file: BinaryIO) -> int | None:
    """Where the sound begins, in bytes; None for a file with something before its own mark."""
    file.seek(0)
    if file.read(4) != MARK:
        return None
    while True:
        head = file.read(4)
        if len(head) < 4:
            return None
        file.seek(int.from_bytes(head[1:], "big"), 1)
        if head[0] & 0x80:
            return file.tell()


def last_frame(file: BinaryIO, size_bytes: int) -> int | None:
    """The number of the last frame that begins before the end, or None if none is found."""
    file.seek(max(0, size_bytes - SEARCHED_BYTES))
    end = file.read(SEARCHED_BYTES)
    at = end.rfind(SYNC)
    while at >= 0:
        number = _frame_number(end[at : at + 16])
        if number is not None:
            return number
        at = end.rfind(SYNC, 0, at)
    return None


def _frame_number(header: bytes) -> int | None:
    """The number in a frame header, if its checksum says that it is one."""
    if len(header) < 16:
        return None
    length = _number_length(header[4])
    if length is None:
        return None
    blocks, rate = header[2] >> 4, header[2] & 0x0F
    end = 4 + length + {6: 1, 7: 2}.get(blocks, 0) + {12: 1, 13: 2, 14: 2}.get(rate, 0)
    if end >= len(header) or _crc8(header[:end]) != header[end]:
        return None
    number = header[4] if length == 1 else header[4] & (0x7F >> length)
    for byte in header[5 : 4 + length]:
        number = number << 6 | byte & 0x3F
    return number


def _number_length(first: int) -> int | None:
    """How many bytes a number takes that is written as UTF-8 writes letters."""
    ones = 8 - (first ^ 0xFF).bit_length()
    return 1 if ones == 0 else ones if 2 <= ones <= 7 else None


def _crc8(data: bytes) -> int:
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = (crc << 1 ^ CRC_POLYNOMIAL if crc & 0x80 else crc << 1) & 0xFF
    return crc
