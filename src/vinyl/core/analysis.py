"""Everything that is computed about one track, from its samples."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.errors import AnalysisError
from vinyl.core.loudness.bs1770 import integrated_lufs, sample_peak_db
from vinyl.core.rhythm.grid import GridEstimate, estimate_grid
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.tempo import accent_envelope
from vinyl.core.tonal.chroma import chroma
from vinyl.core.tonal.estimate import KeyEstimate, estimate_key
from vinyl.core.waveform.summary import WaveformSummary, summarise

VERSION = 1
RATE_HZ = 44100
SHORTEST_S = 0.5


@dataclass(frozen=True, slots=True)
class Analysis:
    """The results for one track; ``grid`` is None where no beat was found."""

    duration_s: float
    grid: GridEstimate | None
    key: KeyEstimate
    lufs: float | None
    peak_db: float | None
    waveform: WaveformSummary


def analyse(samples: NDArray[np.float32], window_bpm: tuple[float, float] | None = None) -> Analysis:
    """Analyse samples of shape (channels, n) at RATE_HZ.

    Raises:
        AnalysisError: if there is less than half a second of sound.
    """
    duration_s = samples.shape[1] / RATE_HZ
    if duration_s < SHORTEST_S:
        raise AnalysisError(f"There are only {duration_s:.2f} s of sound in this file.")
    mono = samples.mean(axis=0, dtype=np.float32)
    found = onsets(mono, RATE_HZ)
    pitches = chroma(mono, RATE_HZ)
    return Analysis(
        duration_s=duration_s,
        grid=estimate_grid(found, pitches, duration_s, window_bpm),
        key=estimate_key(pitches),
        lufs=integrated_lufs(samples, RATE_HZ),
        peak_db=sample_peak_db(samples),
        waveform=summarise(mono, RATE_HZ, accent_envelope(found)),
    )
