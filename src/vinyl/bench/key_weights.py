"""How much each kind of evidence for a key counts: ``python -m vinyl.bench.key_weights`` prints
vinyl.core.tonal.evidence.WEIGHTS.

A conditional logit (McFadden, 1974) on the development set and on made-up pieces from seeds that the
bench does not use.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import log_softmax

from vinyl.bench.material import Samples, Tonal, listening_folder, tonal_pieces
from vinyl.core.analysis import RATE_HZ, bars_of, phrases_of
from vinyl.core.extraction import Extraction
from vinyl.core.rhythm.grid import estimate_grid
from vinyl.core.timing import Stopwatch
from vinyl.core.tonal.change import in_first_key
from vinyl.core.tonal.evidence import KINDS, key_evidence
from vinyl.core.tonal.key import parse_key
from vinyl.demo.fresh import fresh_piece

SEEDS = range(50_000, 50_030)
# Music that nobody here composed says more about music than what is made up.
LISTENING_SAY = 3.0
PENALTY = 0.001

FloatArray = NDArray[np.float64]


def evidence_of(samples: Samples) -> FloatArray:
    """The evidence (24, KINDS) for each key of a whole piece (channels, n)."""
    extraction = Extraction(RATE_HZ, len(samples), Stopwatch())
    extraction.push(samples)
    features = extraction.finish()
    grid = estimate_grid(features.onsets, features.chroma, features.duration_s)
    chroma, _ = in_first_key(features.chroma)
    phrases = phrases_of(features, bars_of(features, grid))
    return key_evidence(chroma, phrases, grid.doubt if grid else 1.0)


def fit_weights(evidence: FloatArray, keys: NDArray[np.int64], say: FloatArray) -> FloatArray:
    """The weights (KINDS,) under which the true keys (pieces,) are likeliest, given evidence (pieces, 24,
    KINDS).
    """
    rows = np.arange(len(keys))

    def loss(weights: FloatArray) -> float:
        chances = log_softmax(evidence @ weights, axis=1)[rows, keys]
        return float(-(say * chances).sum() / say.sum() + PENALTY * (weights**2).sum())

    return np.asarray(minimize(loss, np.ones(evidence.shape[2])).x)


def _pieces() -> Iterator[tuple[Samples, str, float]]:
    folder = listening_folder()
    known: Iterator[Tonal] = tonal_pieces(folder) if folder else iter(())
    for piece in known:
        if piece.key and piece.kind != "fresh":
            yield piece.samples, piece.key, LISTENING_SAY
    for seed in SEEDS:
        samples, score = fresh_piece(seed)
        yield samples, score.song.key, 1.0


def _index(key: str) -> int:
    parsed = parse_key(key)
    return parsed.tonic + (0 if parsed.mode == "major" else 12)


def main() -> None:
    pieces = list(_pieces())
    with ProcessPoolExecutor() as pool:
        evidence = np.stack(list(pool.map(evidence_of, [samples for samples, _, _ in pieces])))
    keys, say = np.array([_index(key) for _, key, _ in pieces]), np.array([say for _, _, say in pieces])
    weights = fit_weights(evidence, keys, say)
    right = (evidence @ weights).argmax(axis=1) == keys
    print(*(f"{kind}: {weight:.1f}" for kind, weight in zip(KINDS, weights, strict=True)), sep="\n")
    print(
        f"right: {right[say > 1].mean():.3f} of the development set, "
        f"{right[say == 1].mean():.3f} of the made-up pieces"
    )


if __name__ == "__main__":
    main()
