"""Keys and tuning against what is known of the pieces."""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import mir_eval
import numpy as np

from vinyl.bench.material import Samples, Tonal
from vinyl.core.analysis import analyse
from vinyl.core.tonal.key import parse_key


@dataclass(frozen=True, slots=True)
class Heard:
    """What was said of a piece: a key like "A minor" or None, tuning, and how sure."""

    key: str | None
    tuning_cents: float | None = None
    confidence: float | None = None


# Kinds that are no part of the development set as it is.
MADE = ("fresh", "all, 36 cents away", "in 8 tunings")

KeyFinder = Callable[[Samples], Heard]


def ours(samples: Samples) -> Heard:
    """Vinyl's own analysis."""
    key = analyse(samples).key
    return Heard(str(key.key) if key.key else None, key.tuning_cents, key.confidence)


def measure_keys(pieces: Iterable[Tonal], finders: Mapping[str, KeyFinder]) -> dict[str, Any]:
    """Figures by finder and kind of piece, and for all tonal pieces of the development set."""
    rows: dict[tuple[str, str], list[dict[str, Any]]] = defaultdict(list)
    for piece in pieces:
        for name, finder in finders.items():
            began = time.perf_counter()
            heard = finder(piece.samples)
            row = {
                **_compare(piece, heard),
                "seconds": time.perf_counter() - began,
                "duration": piece.samples.shape[1] / 44100,
            }
            rows[name, piece.kind].append(row)
            if piece.key is not None and piece.kind not in MADE:
                rows[name, "development set"].append(row)
    return {name: {kind: _summary(rows[n, kind]) for n, kind in rows if n == name} for name in finders}


def _at_true_tuning(heard: Heard, tuning_cents: float) -> Heard:
    """The key in the tuning that is meant: a quarter of a tone up is the next one, a quarter of a tone
    down.
    """
    if heard.key is None or heard.tuning_cents is None:
        return heard
    semitones = round((heard.tuning_cents - tuning_cents) / 100)
    return replace(heard, key=str(parse_key(heard.key).transposed(semitones)))


def _compare(piece: Tonal, heard: Heard) -> dict[str, Any]:
    heard = _at_true_tuning(heard, piece.tuning_cents)
    weighted = None
    if piece.key is not None:
        weighted = mir_eval.key.weighted_score(piece.key, heard.key) if heard.key else 0.0
        if heard.key and weighted == 0.0 and mir_eval.key.weighted_score(heard.key, piece.key) == 0.5:
            weighted = 0.5
    tuning = (
        None
        if heard.tuning_cents is None or piece.key is None
        else (heard.tuning_cents - piece.tuning_cents + 50) % 100 - 50
    )
    return {
        "name": piece.name,
        "weighted": weighted,
        "exact": weighted == 1.0,
        "none": heard.key is None,
        "tuning": tuning,
        "sure": heard.confidence,
    }


def _moved_alike(rows: list[dict[str, Any]], cents: float) -> float | None:
    """The share of tunings that lie as far from the truth as those of the same piece in its other tunings
    do: a choir is seldom at the tuning that was written down for it.
    """
    by_piece = defaultdict[str, list[float]](list)
    for row in rows:
        if row["tuning"] is not None:
            by_piece[row["name"]].append(row["tuning"])
    if not any(len(own) > 1 for own in by_piece.values()):
        return None
    near = [np.abs(np.array(own) - np.median(own)) <= cents for own in by_piece.values()]
    return round(float(np.concatenate(near).mean()), 3)


def _order(rows: list[dict[str, Any]]) -> float | None:
    """The share of pairs of a right and a wrong key of which the right one is surer: the area under the
    curve.
    """
    told = [row for row in rows if row["sure"] is not None]
    right, wrong = (
        np.array([row["sure"] for row in told if row["exact"] is exact]) for exact in (True, False)
    )
    if not len(right) or not len(wrong):
        return None
    apart = right[:, None] - wrong[None, :]
    return round(float(((apart > 0) + 0.5 * (apart == 0)).mean()), 3)


def _summary(rows: list[dict[str, Any]]) -> dict[str, Any]:
    tonal = [row for row in rows if row["weighted"] is not None]
    tunings = [abs(row["tuning"]) for row in tonal if row["tuning"] is not None]
    sure = [row["exact"] for row in tonal if row["sure"] is not None and row["sure"] > 0.9]
    return {
        "pieces": len(rows),
        "exact": round(float(np.mean([row["exact"] for row in tonal])), 3) if tonal else None,
        "weighted": round(float(np.mean([row["weighted"] for row in tonal])), 3) if tonal else None,
        "called none": sum(row["none"] for row in rows),
        **{
            f"tuning within {cents} cents": round(float(np.mean([value <= cents for value in tunings])), 3)
            if tunings
            else None
            for cents in (5, 8)
        },
        "tuning moves with the piece, within 5 cents": _moved_alike(tonal, 5),
        "exact where confidence > 0.9": f"{sum(sure)} of {len(sure)}"
        if any(row["sure"] is not None for row in rows)
        else None,
        "confidence: right above wrong": _order(tonal),
        "times real time": round(
            sum(row["duration"] for row in rows) / max(sum(row["seconds"] for row in rows), 1e-9)
        ),
    }
