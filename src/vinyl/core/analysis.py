"""Everything that is computed about one track, from its samples."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.cues.proposals import CueProposal, propose_cues
from vinyl.core.errors import AnalysisError
from vinyl.core.extraction import Extraction, Features
from vinyl.core.likeness.descriptor import Descriptor, describe
from vinyl.core.likeness.fingerprint import Fingerprint
from vinyl.core.loudness.bs1770 import Loudness
from vinyl.core.quality.bandwidth import Edge
from vinyl.core.quality.levels import Levels
from vinyl.core.rhythm.grid import GridEstimate, estimate_grid
from vinyl.core.structure.bars import Bars, describe_bars
from vinyl.core.structure.energy import Energy, estimate_energy
from vinyl.core.structure.phrases import phrase_places
from vinyl.core.structure.sections import Structure, find_structure
from vinyl.core.timing import Stopwatch
from vinyl.core.tonal.estimate import KeyEstimate, estimate_key
from vinyl.core.tonal.evidence import Phrases
from vinyl.core.waveform.summary import WaveformSummary

VERSION = 9
RATE_HZ = 44100
SHORTEST_S = 0.5
# A first bar that begins so little before the sound belongs to it.
EARLIEST_S = 0.03
# Far above full scale, far below where sums of squares overflow.
LOUDEST = 64.0

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Analysis:
    """The results for one track; ``grid`` is None where no beat was found, and then there is no structure
    either.
    """

    duration_s: float
    grid: GridEstimate | None
    structure: Structure
    cues: tuple[CueProposal, ...]
    key: KeyEstimate
    energy: Energy
    loudness: Loudness
    true_peak_db: float | None
    waveform: WaveformSummary
    fingerprint: Fingerprint
    descriptor: Descriptor
    edge: Edge | None
    levels: Levels


def analyse(samples: FloatArray, window_bpm: tuple[float, float] | None = None) -> Analysis:
    """Analyse samples of shape (channels, n) at RATE_HZ.

    Raises:
        AnalysisError: if there is less than half a second of sound.
    """
    return analyse_blocks([samples], window_bpm)


def analyse_blocks(
    blocks: Iterable[FloatArray],
    window_bpm: tuple[float, float] | None = None,
    watch: Stopwatch | None = None,
) -> Analysis:
    """Analyse pieces of samples (channels, n) at RATE_HZ as they come, without holding them.

    Args:
        watch: counts the time of each stage.

    Raises:
        AnalysisError: if there is less than half a second of sound.
    """
    watch = watch or Stopwatch()
    extraction: Extraction | None = None
    for samples in blocks:
        extraction = extraction or Extraction(RATE_HZ, len(samples), watch)
        extraction.push(_sound(samples))
    features = extraction.finish() if extraction else None
    if features is None or features.duration_s < SHORTEST_S:
        raise AnalysisError(
            f"There are only {features.duration_s if features else 0.0:.2f} s of sound in this file."
        )
    return _results(features, window_bpm, watch)


def _sound(samples: FloatArray) -> FloatArray:
    """Samples without what is no sound; most are left as they are."""
    if samples.size and samples.max() <= LOUDEST and samples.min() >= -LOUDEST:  # false for NaN
        return samples
    return np.clip(np.nan_to_num(samples, posinf=0.0, neginf=0.0), -LOUDEST, LOUDEST)


def _results(features: Features, window_bpm: tuple[float, float] | None, watch: Stopwatch) -> Analysis:
    onsets, chroma, duration_s = features.onsets, features.chroma, features.duration_s
    with watch.stage("grid"):
        grid = estimate_grid(onsets, chroma, duration_s, window_bpm)
    with watch.stage("structure"):
        bars = bars_of(features, grid)
        structure, cues = _structure(bars, grid)
        energy = estimate_energy(onsets)
    with watch.stage("key"):
        key = estimate_key(chroma, phrases_of(features, bars), grid.doubt if grid else 1.0)
    with watch.stage("likeness"):
        descriptor = describe(onsets, chroma, grid.tempo_map if grid else None, duration_s)
    return Analysis(
        duration_s,
        grid,
        structure,
        cues,
        key,
        energy,
        features.loudness,
        features.true_peak_db,
        features.waveform,
        features.fingerprint,
        descriptor,
        features.edge,
        features.levels,
    )


def bars_of(features: Features, grid: GridEstimate | None) -> Bars | None:
    """What each bar sounds like, if there are any."""
    if grid is None:
        return None
    starts_s = np.maximum(grid.tempo_map.downbeats_between(-EARLIEST_S, features.duration_s), 0.0)
    return describe_bars(features.onsets, features.chroma, starts_s) if len(starts_s) > 1 else None


def phrases_of(features: Features, bars: Bars | None) -> Phrases | None:
    """Where phrases may begin, if there are bars."""
    return None if bars is None else Phrases(bars.starts_s, phrase_places(features.onsets, bars))


def _structure(bars: Bars | None, grid: GridEstimate | None) -> tuple[Structure, tuple[CueProposal, ...]]:
    if bars is None or grid is None:
        return Structure(), ()
    structure = find_structure(bars)
    return structure, propose_cues(structure, grid.tempo_map)
