"""Neighbouring pieces: in which octaves their tempi are counted, and which of them are one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vinyl.core.rhythm.paths import best_path
from vinyl.core.rhythm.piece import Piece

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# What an octave away from the track's tempo costs, against a change by an octave.
OCTAVE_PULL = 0.3
# Neighbours are one if their tempi differ by less than this share, and their beats by less than this part of
# a quarter of a beat; below this likeness a phase is hard to hear and does not count.
SAME_TEMPO = 0.0004
SAME_QUARTER = 0.1
SURE_ALIKE = 0.8
# A piece that is less alike than this is one with a neighbour of so near a tempo.
LEAST_ALIKE, NEAR_TEMPO = 0.6, 0.01


def in_octaves(bpm: float, pieces: list[Piece]) -> list[Piece]:
    """The pieces in such octaves of their tempi, within one of ``bpm``, that these change and stray least."""
    if not pieces:
        return []
    periods_s = np.array([[piece.period_s] for piece in pieces])
    periods_s = periods_s * 2.0 ** (np.rint(np.log2(60.0 / bpm / periods_s)) + np.array([-1, 0, 1]))
    octaves = np.log2(60.0 / bpm / periods_s)
    strays = np.where(np.abs(octaves) < 1.0, OCTAVE_PULL * np.abs(octaves), np.inf)
    changes = np.abs(octaves[1:, :, None] - octaves[:-1, None, :])
    chosen = periods_s[np.arange(len(pieces)), best_path(-strays, changes)]
    return [replace(each, period_s=float(period)) for each, period in zip(pieces, chosen, strict=True)]


def join_same(pieces: list[Piece]) -> list[Piece]:
    """Pieces with neighbours of the same tempo and phase (or quarters of a beat apart, or with a phase hard
    to hear, or without drums) made one.
    """
    joined = pieces[:1]
    for piece in pieces[1:]:
        before = joined[-1]
        longer, other = sorted((before, piece), key=lambda p: p.start_s - p.end_s)
        if _same(before, piece):
            joined[-1] = replace(
                _as_drummed(longer, other) if other.has_drums and not longer.has_drums else longer,
                start_s=before.start_s,
                end_s=piece.end_s,
                strength=before.strength + piece.strength,
            )
        else:
            joined.append(piece)
    return joined


def _as_drummed(piece: Piece, other: Piece) -> Piece:
    """The piece with its beats on those of another of its tempo."""
    middle_s = (other.start_s + other.end_s) / 2
    phase_s = other.phase_s + round((middle_s - other.phase_s) / other.period_s) * other.period_s
    return replace(piece, phase_s=phase_s, beat_share=other.beat_share, drums=other.drums)


def _same(a: Piece, b: Piece) -> bool:
    alike = min(a.alike, b.alike)
    if abs(a.period_s / b.period_s - 1) > (SAME_TEMPO if alike >= LEAST_ALIKE else NEAR_TEMPO):
        return False
    if alike < SURE_ALIKE or not (a.has_drums and b.has_drums):
        return True
    near = a.phase_s + round((b.start_s - a.phase_s) / a.period_s) * a.period_s
    quarters = (near - b.phase_s) / (b.period_s / 4)
    return abs(quarters - round(quarters)) < SAME_QUARTER
