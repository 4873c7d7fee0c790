"""Pairs of descriptors that are near each other, without comparing all with all: an inverted file over coarse
cells (Jégou, Douze and Schmid, 2011).
"""

from __future__ import annotations

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
Rows = NDArray[np.int64]


def near_pairs(descriptors: Matrix, of: Rows | None = None) -> Pairs:
    """Pairs (m, 2) of rows of which one is among the other's nearest, the smaller first, each once.

    Args:
        descriptors: (n, SIZE) of vinyl.core.likeness.descriptor.
        of: only the neighbours of these rows are looked for; of all, if None.
    """
    scaled = _scaled(descriptors)
    rows = np.arange(len(scaled)) if of is None else of
    if min(len(scaled), len(rows)) <= FEW:
        found = _nearest(scaled, rows, np.arange(len(scaled)))
    else:
        found = _probed(scaled, rows)
    ordered: Pairs = np.unique(np.sort(found, axis=1), axis=0)
    return ordered


def _scaled(descriptors: Matrix) -> Matrix:
    """Rows of length one whose product is the likeness that weighted descriptors have."""
    weighted = descriptors * np.sqrt(weights("sounds similar"))
    lengths = np.linalg.norm(weighted, axis=1, keepdims=True)
    scaled: Matrix = (weighted / np.maximum(lengths, 1e-9)).astype(np.float32)
    return scaled


def _probed(scaled: Matrix, rows: Rows) -> Pairs:
    """Pairs of rows with the nearest of those in the cells that each is near to."""
    centres = _centres(scaled, len(scaled) // CELL)
    home = np.concatenate([np.argmax(scaled[at : at + BLOCK] @ centres.T, 1) for at in _blocks(scaled)])
    members = np.split(
        np.argsort(home, kind="stable"), np.cumsum(np.bincount(home, minlength=len(centres)))[:-1]
    )
    probes = np.concatenate(
        [_best(scaled[rows[at : at + BLOCK]] @ centres.T, PROBES) for at in _blocks(rows)]
    )
    best = np.full((len(rows), NEAREST), -1, np.int32)
    likeness = np.full((len(rows), NEAREST), -1.0, np.float32)
    for cell, among in enumerate(members):
        asking = np.flatnonzero((probes == cell).any(axis=1)) if len(among) else ()
        for at in range(0, len(asking), BLOCK):
            part = asking[at : at + BLOCK]
            found = _likeness(scaled, rows[part], among)
            both = np.hstack([likeness[part], found])
            ids = np.hstack([best[part], np.broadcast_to(among.astype(np.int32), found.shape)])
            top = np.argpartition(-both, NEAREST - 1, axis=1)[:, :NEAREST]
            likeness[part], best[part] = (np.take_along_axis(each, top, axis=1) for each in (both, ids))
    enough = likeness >= LEAST_LIKENESS
    pairs = np.stack([np.broadcast_to(rows[:, None], best.shape), best], axis=2)
    chosen: Pairs = pairs[enough]
    return chosen


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


def _nearest(scaled: Matrix, rows: Rows, among: Rows) -> Pairs:
    """Pairs of some rows with the nearest of others."""
    found = [np.zeros((0, 2), np.int64)]
    for at in _blocks(rows):
        part = rows[at : at + BLOCK]
        likeness = _likeness(scaled, part, among)
        best = _best(likeness, NEAREST)
        enough = np.take_along_axis(likeness, best, axis=1) >= LEAST_LIKENESS
        pairs = np.stack([np.broadcast_to(part[:, None], best.shape), among[best]], axis=2)
        found.append(pairs[enough])
    return np.concatenate(found)


def _likeness(scaled: Matrix, rows: Rows, among: Rows) -> Matrix:
    """How like each row is to each of others, (rows, others); none is like itself."""
    likeness: Matrix = scaled[rows] @ scaled[among].T
    likeness[rows[:, None] == among[None, :]] = -1.0
    return likeness


def _best(values: Matrix, count: int) -> Pairs:
    """The places of the greatest of each row, the greatest first."""
    count = min(count, values.shape[1])
    best = np.argpartition(-values, count - 1, axis=1)[:, :count]
    order = np.argsort(-np.take_along_axis(values, best, axis=1), axis=1)
    ordered: Pairs = np.take_along_axis(best, order, axis=1)
    return ordered


def _blocks(rows: NDArray[np.generic]) -> range:
    return range(0, len(rows), BLOCK)
