"""The first frame of an MP3 file, which holds no sound but says how much there is of it."""

from __future__ import annotations

import struct
from dataclasses import dataclass

ENCODERS = (b"LAME", b"Lavf", b"Lavc")
# Where the parts stand after the mark: flags, frames, bytes, 100 bytes of a table, quality; then the encoder.
ENCODER_AT, DELAYS_AT = 120, 141
ALL_PARTS = 0b1111


@dataclass(frozen=True, slots=True)
class Mp3Info:
    """Frames, bytes, and the samples of padding at both ends."""

    frames: int
    size_bytes: int
    delay: int
    padding: int


def read_info(frame: bytes) -> Mp3Info | None:
    """What the first frame says, in the form that LAME and FFmpeg write; None where it says nothing.

    Raises:
        struct.error: if the frame is cut off.
    """
    start = max(frame.find(b"Xing", 0, 64), frame.find(b"Info", 0, 64))
    if start < 0:
        return None
    flags, frames, size = struct.unpack_from(">III", frame, start + 4)
    if flags & ALL_PARTS != ALL_PARTS or frame[start + ENCODER_AT : start + ENCODER_AT + 4] not in ENCODERS:
        return None
    delays = int.from_bytes(frame[start + DELAYS_AT : start + DELAYS_AT + 3], "big")
    return Mp3Info(frames, size, delays >> 12, delays & 0xFFF)
