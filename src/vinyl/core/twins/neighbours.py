"""Pairs of descriptors that are near each other, without comparing all with all: an inverted file over coarse
cells (Jégou, Douze and Schmid, 2011).
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from vinyl.core.likeness.index import weights

# So many are looked at whole; more are parted into cells of about CELL each, of which the nearest PROBES are
# looked into.
FEW, CELL, PROBES = 2000, 400, 8
ROUNDS, SAMPLE = 4, 20_000
# Neighbours of each that are looked at, if they are so much alike.
NEAREST, LEAST_LIKENESS = 10, 0.5
BLOCK = 1000

Matrix = NDArray[np.float32]
Pairs = NDArray[np.int64]


def near_pairs(descriptors: Matrix) -> Pairs:
    """Pairs (m, 2) of rows that are among each other's nearest, the smaller first, each once.

    Args:
        descriptors: (n, SIZE) of vinyl.core.likeness.descriptor.
    """
    scaled = _scaled(descriptors)
    found = [_nearest(scaled, rows, among) for rows, among in _cells(scaled)]
    pairs = np.concatenate([np.zeros((0, 2), np.int64), *found])
    ordered: Pairs = np.unique(np.sort(pairs, axis=1), axis=0)
    return ordered


def _scaled(descriptors: Matrix) -> Matrix:
    """Rows of length one whose product is the likeness that weighted descriptors have."""
    weighted = descriptors * np.sqrt(weights("sounds similar"))
    lengths = np.linalg.norm(weighted, axis=1, keepdims=True)
    scaled: Matrix = (weighted / np.maximum(lengths, 1e-9)).astype(np.float32)
    return scaled


def _cells(scaled: Matrix) -> Iterator[tuple[Pairs, Pairs]]:
    """Rows that lie together, and those that they are to be compared with."""
    everything = np.arange(len(scaled))
    if len(scaled) <= FEW:
        yield everything, everything
        return
    centres = _centres(scaled, len(scaled) // CELL)
    near = np.concatenate([_best(scaled[at : at + BLOCK] @ centres.T, PROBES) for at in _blocks(scaled)])
    members = [np.flatnonzero(near[:, 0] == cell) for cell in range(len(centres))]
    for cell, rows in enumerate(members):
        if len(rows):
            # What the cell's rows would look into is what most of them are near to.
            probed = np.bincount(near[rows].ravel(), minlength=len(centres))
            others = np.argsort(probed)[::-1][: 2 * PROBES]
            yield rows, np.concatenate([members[other] for other in {cell, *others[probed[others] > 0]}])


def _centres(scaled: Matrix, count: int) -> Matrix:
    """Centres of cells, by a few rounds of k-means over a sample (Lloyd, 1982)."""
    random = np.random.default_rng(0)
    sample = scaled[random.choice(len(scaled), min(SAMPLE, len(scaled)), replace=False)]
    centres: Matrix = sample[random.choice(len(sample), count, replace=False)]
    for _ in range(ROUNDS):
        nearest = np.concatenate(
            [np.argmax(sample[at : at + BLOCK] @ centres.T, 1) for at in _blocks(sample)]
        )
        sums = np.zeros_like(centres)
        np.add.at(sums, nearest, sample)
        lengths = np.linalg.norm(sums, axis=1, keepdims=True)
        centres = np.where(lengths > 0, sums / np.maximum(lengths, 1e-9), centres).astype(np.float32)
    return centres


def _nearest(scaled: Matrix, rows: Pairs, among: Pairs) -> Pairs:
    """Pairs of some rows with the nearest of others."""
    found = [np.zeros((0, 2), np.int64)]
    for at in _blocks(rows):
        part = rows[at : at + BLOCK]
        likeness = scaled[part] @ scaled[among].T
        likeness[part[:, None] == among[None, :]] = -1.0
        best = _best(likeness, NEAREST)
        enough = np.take_along_axis(likeness, best, axis=1) >= LEAST_LIKENESS
        pairs = np.stack([np.broadcast_to(part[:, None], best.shape), among[best]], axis=2)
        found.append(pairs[enough])
    return np.concatenate(found)


def _best(values: Matrix, count: int) -> Pairs:
    """The places of the greatest of each row, the greatest first."""
    count = min(count, values.shape[1])
    best = np.argpartition(-values, count - 1, axis=1)[:, :count]
    order = np.argsort(-np.take_along_axis(values, best, axis=1), axis=1)
    ordered: Pairs = np.take_along_axis(best, order, axis=1)
    return ordered


def _blocks(rows: NDArray[np.generic]) -> range:
    return range(0, len(rows), BLOCK)
