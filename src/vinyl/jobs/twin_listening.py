"""Listening to two files that seem to be one recording: whether one has something the other has not."""

from __future__ import annotations

import warnings
from collections.abc import Iterable, Iterator
from pathlib import Path

import numpy as np

from vinyl.core.likeness.residual import RATE_HZ, TELLING, Mono, SpectraMeter, difference, find_lag
from vinyl.core.likeness.tonality import LARGEST_OF_NOISE, TonalityMeter
from vinyl.library.twin_pairs import Unheard
from vinyl.media.decode import decode_blocks
from vinyl.media.errors import MediaError

# Encoders that have fewer bits a second (lossy ones) may change a sound so much as a faint voice does; only
# what is far beyond that is told.
COARSE_BITS_PER_S, COARSE = 90_000, 4.0
BLOCK = 1 << 18
# A difference that is neither that of an encoder nor surely one of the music.
UNSURE = 1.0
# So little may be of any kind: it lies far below all that is heard; and from so much on tones are a voice.
INAUDIBLE, VOICE = 0.1, 0.3
# What is surely one of the music.
OWN = 2.0


def hear(pair: Unheard) -> float | str:
    """How far the two differ (core.twins.groups has what that tells), or why they could not be listened to.
    Called in a worker process.
    """
    try:
        found = compare(_mono_blocks(pair.first_path), _mono_blocks(pair.second_path), pair.offset_s)
    except (MediaError, OSError) as error:
        return str(error) or type(error).__name__
    if pair.least_bits_per_s < COARSE_BITS_PER_S and found < COARSE:
        return min(found, UNSURE)
    return found


def compare(first: Iterable[Mono], second: Iterable[Mono], offset_s: float) -> float:
    """How far two recordings differ, of which the second has all so much later; from blocks of their samples
    at ``RATE_HZ``.
    """
    one, other = _Reader(first), _Reader(second)
    one.skip(round(max(0.0, -offset_s) * RATE_HZ))
    other.skip(round(max(0.0, offset_s) * RATE_HZ))
    lag = find_lag(one.ahead(TELLING), other.ahead(TELLING))
    one.skip(max(0, -lag))
    other.skip(max(0, lag))
    meter, tones = SpectraMeter(), TonalityMeter()
    while True:
        blocks = one.read(BLOCK), other.read(BLOCK)
        count = min(map(len, blocks))
        for each in (meter, tones):
            each.push(blocks[0][:count], blocks[1][:count])
        if count < BLOCK:
            return _with_tones(difference(meter.finish()), tones.finish())


def _with_tones(found: float, tonality: float) -> float:
    """A difference, in which tones are somebody's, however faint. From ``UNSURE`` on the two may not run side
    by side to the sample: then what is left over is the music itself, and tells nothing.
    """
    if not INAUDIBLE < found < UNSURE or tonality <= LARGEST_OF_NOISE:
        return found
    return OWN if found > VOICE else UNSURE


class _Reader:
    """Samples out of blocks of any length."""

    def __init__(self, blocks: Iterable[Mono]) -> None:
        self._blocks = iter(blocks)
        self._held: list[Mono] = []
        self._count = 0

    def ahead(self, count: int) -> Mono:
        """The next samples, which stay to be read; fewer at the end."""
        while self._count < count and (block := next(self._blocks, None)) is not None:
            self._held.append(block)
            self._count += len(block)
        joined = np.concatenate(self._held or [np.zeros(0, np.float32)])
        self._held = [joined]
        return joined[:count]

    def read(self, count: int) -> Mono:
        """The next samples; fewer at the end."""
        taken = self.ahead(count)
        self._held = [self._held[0][count:]]
        self._count = len(self._held[0])
        return taken

    def skip(self, count: int) -> None:
        """Leave samples out."""
        while count > 0 and len(self.read(min(count, BLOCK))):
            count -= min(count, BLOCK)


def _mono_blocks(path: Path) -> Iterator[Mono]:
    for block in decode_blocks(path, RATE_HZ):
        with warnings.catch_warnings():
            # A damaged float file may hold what is no number.
            warnings.simplefilter("ignore", RuntimeWarning)
            yield np.nan_to_num(np.clip(block.mean(axis=0), -8.0, 8.0))
