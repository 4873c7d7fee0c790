"""What is measured on: the development set beside the project, and pieces made from seeds that development
did not use.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample_poly

from vinyl.core.rhythm.tempo_map import Kind
from vinyl.demo.fresh import fresh_piece, fresh_score, natural_score, only_drums
from vinyl.demo.render import render
from vinyl.demo.score import Score
from vinyl.media.decode import decode

FIRST_SEED, NATURAL_SEED = 70_000, 71_000
FRESH, NATURAL, DRUMS, ASKED = 20, 20, 8, 8
# Every so many of the tonal pieces are asked in other tunings, their first seconds alone.
TUNED_EACH, TUNED_S = 4, 100
TUNED_CENTS = (-50, -43, -30, -15, 15, 30, 43, 50)

Samples = NDArray[np.float32]
FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Rhythmic:
    """A piece with known beats; ``samples`` is (2, n) at 44.1 kHz. ``tempo`` is what it should
    be told to be."""

    name: str
    kind: str
    samples: Samples
    bpm: float
    tempo: Kind
    beats_s: FloatArray
    downbeats_s: FloatArray | None
    sections: tuple[tuple[float, str], ...]


@dataclass(frozen=True, slots=True)
class Tonal:
    """A piece with a known key, or None for drums alone."""

    name: str
    kind: str
    samples: Samples
    key: str | None
    tuning_cents: float


def listening_folder() -> Path | None:
    """Where VINYL_LISTENING points, or the listening set beside the project, if it is there."""
    beside = Path(__file__).resolve().parents[4] / "shared" / "listening"
    folder = Path(os.environ.get("VINYL_LISTENING", beside))
    return folder if (folder / "rhythm" / "truth.json").is_file() else None


def rhythm_pieces(folder: Path | None) -> Iterator[Rhythmic]:
    """The development set's pieces, then the fresh ones, one at a time in memory."""
    if folder is not None:
        for truth in json.loads((folder / "rhythm" / "truth.json").read_text()):
            samples = decode(folder / "rhythm" / truth["audio"]).samples
            yield Rhythmic(
                truth["id"],
                truth["kind"],
                samples,
                truth["tempo_bpm"],
                "steady" if truth["constant_tempo"] else "elastic",
                np.array(truth["beats"]),
                np.array(truth["downbeats"]) if truth["downbeats"] else None,
                tuple((float(start), str(label)) for start, label in truth["sections"] or ()),
            )
    for seed in range(FIRST_SEED, FIRST_SEED + FRESH):
        score = fresh_score(seed)
        yield _known(f"fresh-{seed}", f"fresh {score.tempo_map.kind}", score)
    for seed in range(NATURAL_SEED, NATURAL_SEED + NATURAL):
        yield _known(f"natural-{seed}", "natural", natural_score(seed))


def tonal_pieces(folder: Path | None) -> Iterator[Tonal]:
    """The development set's pieces, then the fresh ones."""
    if folder is not None:
        for truth in json.loads((folder / "tonal" / "truth.json").read_text()):
            samples = decode(folder / "tonal" / truth["audio"]).samples
            detuned = "detuned" if truth["tuning_cents"] else "tuned"
            kind = "drums" if truth["key"] is None else f"{truth['id'].split('-')[0]} {detuned}"
            yield Tonal(truth["id"], kind, samples, truth["key"], truth["tuning_cents"] or 0.0)
    for seed in range(FIRST_SEED, FIRST_SEED + FRESH):
        samples, score = fresh_piece(seed)
        yield Tonal(f"fresh-{seed}", "fresh", samples, score.song.key, 0.0)
    for seed in range(NATURAL_SEED, NATURAL_SEED + DRUMS):
        yield Tonal(f"drums-{seed}", "made-up drums", render(only_drums(natural_score(seed))), None, 0.0)


def detuned_pieces(folder: Path | None) -> Iterator[Tonal]:
    """The tonal pieces of the development set played 2 percent faster or slower, away from their own tuning's
    side.
    """
    for piece in tonal_pieces(folder) if folder is not None else ():
        if piece.key is None or piece.kind == "fresh":
            continue
        up, down = (48, 49) if piece.tuning_cents <= 0 else (49, 48)
        samples = resample_poly(piece.samples, up, down, axis=1).astype(np.float32)
        yield replace(
            piece,
            kind="all, 36 cents away",
            samples=samples,
            tuning_cents=piece.tuning_cents + 1200 * float(np.log2(down / up)),
        )


def tuned_pieces(folder: Path | None) -> Iterator[Tonal]:
    """Some tonal pieces of the development set in tunings up to a quarter of a tone away."""
    known = [piece for piece in tonal_pieces(folder) if piece.kind != "fresh"] if folder is not None else []
    for piece in [piece for piece in known if piece.key is not None][::TUNED_EACH]:
        for cents in TUNED_CENTS:
            ratio = Fraction(2 ** (cents / 1200)).limit_denominator(150)
            part = piece.samples[:, : TUNED_S * 44100]
            yield replace(
                piece,
                kind="in 8 tunings",
                samples=resample_poly(part, ratio.denominator, ratio.numerator, axis=1).astype(np.float32),
                tuning_cents=piece.tuning_cents + 1200 * float(np.log2(float(ratio))),
            )


def asked_pieces(folder: Path | None) -> Iterator[Samples]:
    """Pieces that are asked again in disguise: produced ones that nobody annotated, where they are at hand,
    then fresh ones.
    """
    for path in sorted((folder / "real").glob("*.opus")) if folder is not None else ():
        yield decode(path).samples
    for seed in range(FIRST_SEED, FIRST_SEED + ASKED):
        yield fresh_piece(seed)[0]


def _known(name: str, kind: str, score: Score) -> Rhythmic:
    tempo_map, metre = score.tempo_map, score.tempo_map.beats_per_bar
    beats = tempo_map.time_at(np.arange(score.end_beat + 1))
    starts = tempo_map.time_at([section.first_bar * metre for section in score.sections])
    bpm = score.song.bpm if tempo_map.kind == "elastic" else tempo_map.bpm
    sections = tuple(
        (float(start), section.label) for start, section in zip(starts, score.sections, strict=True)
    )
    return Rhythmic(
        name,
        kind,
        render(score),
        bpm,
        tempo_map.kind,
        beats,
        beats[::metre],
        sections,
    )
