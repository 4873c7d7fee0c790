"""How much each kind of evidence for a metrical level counts: ``python -m vinyl.bench.level_weights`` prints
vinyl.core.rhythm.level.WEIGHTS.

A multinomial logit on the development set and on made-up pieces from seeds that the bench does not use.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from vinyl.bench.material import Samples, listening_folder
from vinyl.core.analysis import RATE_HZ
from vinyl.core.extraction import Extraction
from vinyl.core.rhythm.level import FACTORS, KINDS, level_chances, level_evidence
from vinyl.core.rhythm.tempo import estimate_tempo
from vinyl.core.timing import Stopwatch
from vinyl.demo.fresh import fresh_score, natural_score
from vinyl.demo.render import render
from vinyl.demo.score import Score
from vinyl.media.decode import decode

FRESH_SEEDS, NATURAL_SEEDS = range(50_000, 50_120), range(51_000, 51_100)
LISTENING_SAY = 3.0
PENALTY = 1e-4
# A tempo is a level of the true one within this.
NEAR = 0.04

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Known:
    """Where to hear a piece, and its tempo."""

    source: str | Score
    bpm: float
    say: float


def pieces() -> Iterator[Known]:
    """All that the weights are fitted on."""
    folder = listening_folder()
    if folder is not None:
        for truth in json.loads((folder / "rhythm" / "truth.json").read_text()):
            bpm = 60.0 / float(np.median(np.diff(truth["beats"])))
            yield Known(str(folder / "rhythm" / truth["audio"]), bpm, LISTENING_SAY)
    for score in (*map(fresh_score, FRESH_SEEDS), *map(natural_score, NATURAL_SEEDS)):
        yield Known(score, score.song.bpm, 1.0)


def evidence_of(piece: Known) -> tuple[FloatArray, int] | None:
    """The evidence of a piece, and the place in FACTORS of what makes its tempo of the one that was found;
    None where none does.
    """
    samples = _samples(piece)
    extraction = Extraction(RATE_HZ, len(samples), Stopwatch())
    extraction.push(samples)
    features = extraction.finish()
    tempo = estimate_tempo(features.onsets)
    for place, factor in enumerate(FACTORS):
        if abs(tempo.bpm * factor / piece.bpm - 1.0) < NEAR:
            return level_evidence(tempo, features.chroma), place
    return None


def _samples(piece: Known) -> Samples:
    return render(piece.source) if isinstance(piece.source, Score) else decode(Path(piece.source)).samples


def fit_weights(evidence: FloatArray, places: NDArray[np.int64], say: FloatArray) -> FloatArray:
    """The weights (2, KINDS) under which the true levels (pieces,) are likeliest, given evidence (pieces,
    KINDS).
    """
    rows = np.arange(len(places))

    def loss(weights: FloatArray) -> float:
        chances = level_chances(evidence, weights.reshape(2, -1))[rows, places]
        return float(-(say * np.log(chances + 1e-12)).sum() / say.sum() + PENALTY * (weights**2).sum())

    return np.asarray(minimize(loss, np.zeros(2 * len(KINDS))).x).reshape(2, -1)


def main() -> None:
    known = list(pieces())
    with ProcessPoolExecutor() as pool:
        found = [
            (*told, piece.say)
            for piece, told in zip(known, pool.map(evidence_of, known), strict=True)
            if told is not None
        ]
    evidence = np.stack([each[0] for each in found])
    places, say = np.array([each[1] for each in found]), np.array([each[2] for each in found])
    weights = fit_weights(evidence, places, say)
    right = level_chances(evidence, weights).argmax(axis=1) == places
    for name, row in zip(("half", "double"), weights, strict=True):
        print(name, *(f"{kind}: {weight:.1f}" for kind, weight in zip(KINDS, row, strict=True)), sep="\n  ")
    print(f"right: {right.mean():.3f} of {len(right)} pieces, {(places == 1).mean():.3f} without")


if __name__ == "__main__":
    main()
