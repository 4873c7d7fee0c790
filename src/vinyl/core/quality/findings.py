"""What is wrong with a recording, in words and with its place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from vinyl.core.quality.bandwidth import Edge
from vinyl.core.quality.levels import Levels

# Where encoders end (up to so many Hz) at which bit rate (kbit/s): LAME's and FFmpeg's own low passes.
ENDS = ((16_200.0, 96), (17_700.0, 128), (19_250.0, 192), (19_900.0, 256))
HIGHEST_KBITS = 320
# A file that claims this many times the bit rate that its sound had is told.
CLAIMED = 1.4
CLIPPED_A_MINUTE = 3.0
SILENCE_BEFORE_S, SILENCE_AFTER_S = 3.0, 10.0
# Means of a channel, in shares of full scale.
MOST_DC = 0.005
# Both sides are one if their difference lies so far below them (a power ratio: -55 dB).
ONE_SIDED = 3e-6
# Correlation below which bass is lost when both sides are played as one.
OPPOSED = -0.4
# The last sound, in shares of the usual one, and how near to the very end, for an end that comes too early.
CUT_SHARE = 0.9
CUT_S = 0.02
LOSSLESS = frozenset({"flac", "alac"})

Kind = Literal[
    "lossy before", "clipped", "silence before", "silence after", "same on both sides", "one side silent",
    "sides opposed", "off centre", "ends early",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that was found, ``at_s`` the place to hear it."""

    kind: Kind
    words: str
    at_s: float | None = None


def findings(levels: Levels, edge: Edge | None, codec: str, bit_rate: int | None) -> tuple[Finding, ...]:
    """What there is to know of a file's sound before it is played to others.

    Args:
        codec: its name as FFmpeg has it; lossless codecs claim everything.
        bit_rate: bits a second of a lossy file, None where they are not known.
    """
    if levels.first_s is None:
        return ()
    found = [*_lossy(edge, codec, bit_rate), *_clipped(levels), *_ends(levels), *_sides(levels)]
    if levels.dc > MOST_DC:
        found.append(
            Finding("off centre", f"the wave lies {levels.dc:.1%} of full scale off its centre line")
        )
    return tuple(found)


def _lossy(edge: Edge | None, codec: str, bit_rate: int | None) -> Iterator[Finding]:
    if edge is None:
        return
    rate = next((kbits for end_hz, kbits in ENDS if edge.at_hz <= end_hz), HIGHEST_KBITS)
    lossless = codec in LOSSLESS or codec.startswith("pcm")
    if lossless or (bit_rate or 0) > CLAIMED * 1000 * rate:
        claims = "a lossless file" if lossless else f"a file of {(bit_rate or 0) / 1000:.0f} kbit/s"
        yield Finding(
            "lossy before",
            f"the sound ends at {edge.at_hz / 1000:.1f} kHz, as from about {rate} kbit/s; this is {claims}",
        )


def _clipped(levels: Levels) -> Iterator[Finding]:
    if levels.clipped > CLIPPED_A_MINUTE * max(levels.duration_s / 60.0, 1.0):
        yield Finding("clipped", f"clipped at {levels.clipped} places", levels.clipped_s[0])


def _ends(levels: Levels) -> Iterator[Finding]:
    first_s, last_s = levels.first_s or 0.0, levels.last_s or 0.0
    if first_s > SILENCE_BEFORE_S:
        yield Finding("silence before", f"{first_s:.1f} s of silence before the sound", first_s)
    after_s = levels.duration_s - last_s
    if after_s > SILENCE_AFTER_S:
        yield Finding("silence after", f"{after_s:.1f} s of silence after the sound", last_s)
    if after_s < CUT_S and levels.end > CUT_SHARE * levels.usual:
        place = max(levels.duration_s - 4.0, 0.0)
        yield Finding(
            "ends early", "it ends at once in the middle of the sound: perhaps it was cut off", place
        )


def _sides(levels: Levels) -> Iterator[Finding]:
    left, right, both = levels.power
    if levels.channels < 2:
        return
    weak, strong = min(left, right), max(left, right)
    if weak < ONE_SIDED * strong:
        yield Finding("one side silent", f"only the {'left' if left > right else 'right'} side sounds")
    elif left + right - 2 * both < ONE_SIDED * (left + right):
        yield Finding("same on both sides", "both sides are the same: mono in a stereo file")
    elif both / max(float(np.sqrt(left * right)), 1e-12) < OPPOSED:
        yield Finding("sides opposed", "the sides cancel each other: played as one, much of it is lost")
