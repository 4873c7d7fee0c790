"""Listening to two files that seem to be one recording: whether one has something the other has not."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from vinyl.core.likeness.band_energy import RATE_HZ, BandMeter, Energies, difference
from vinyl.library.twin_pairs import Unheard
from vinyl.media.decode import decode_blocks
from vinyl.media.errors import MediaError

# Encoders that have fewer bits a second (lossy ones) may change a sound so much as a faint voice does; only
# what is far beyond that is told.
COARSE_BITS_PER_S, COARSE = 90_000, 4.0


def hear(pair: Unheard) -> float | str:
    """How far the two differ (1 and more: another version), or why they could not be listened to. Called in a
    worker process.
    """
    try:
        first = _energies(pair.first_path, max(0.0, -pair.offset_s))
        second = _energies(pair.second_path, max(0.0, pair.offset_s))
    except (MediaError, OSError) as error:
        return str(error) or type(error).__name__
    found = difference(first, second)
    if pair.least_bits_per_s < COARSE_BITS_PER_S and found < COARSE:
        return min(found, 1.0)
    return found


def _energies(path: Path, from_s: float) -> Energies:
    meter = BandMeter(round(from_s * RATE_HZ))
    for mono in _mono_blocks(path):
        meter.push(mono)
    return meter.finish()


def _mono_blocks(path: Path) -> Iterator[np.ndarray[tuple[int], np.dtype[np.float32]]]:
    for block in decode_blocks(path, RATE_HZ):
        with warnings.catch_warnings():
            # A damaged float file may hold what is no number.
            warnings.simplefilter("ignore", RuntimeWarning)
            yield np.nan_to_num(np.clip(block.mean(axis=0), -8.0, 8.0))
