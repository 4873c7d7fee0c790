"""From sound to features, block by block, so that the length of a track costs little memory."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vinyl.core.likeness.fingerprint import Fingerprint, FingerprintMeter
from vinyl.core.loudness.bs1770 import Loudness, LoudnessMeter
from vinyl.core.loudness.peak import PeakMeter
from vinyl.core.quality.bandwidth import BandwidthMeter, Edge
from vinyl.core.quality.levels import LevelMeter, Levels
from vinyl.core.rhythm.onset import OnsetEnvelopes, OnsetMeter
from vinyl.core.rhythm.onset_times import find_onset_times
from vinyl.core.rhythm.tempo import flattened
from vinyl.core.spectrum import SpectrumMeter
from vinyl.core.timing import Stopwatch
from vinyl.core.tonal.chroma import Chroma, ChromaMeter
from vinyl.core.waveform.summary import SummaryMeter, WaveformSummary

BLOCK = 262144

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Features:
    """What all results are computed from."""

    duration_s: float
    onsets: OnsetEnvelopes
    chroma: Chroma
    fingerprint: Fingerprint
    loudness: Loudness
    true_peak_db: float | None
    waveform: WaveformSummary
    edge: Edge | None
    levels: Levels


class Extraction:
    """Takes samples (channels, n) in pieces of any length and gives their features."""

    def __init__(self, rate_hz: int, channels: int, watch: Stopwatch) -> None:
        self._rate_hz, self._watch = rate_hz, watch
        self._rest = np.zeros((channels, 0), np.float32)
        self._seen = 0
        self._spectra = SpectrumMeter(rate_hz)
        self._onsets, self._chroma = OnsetMeter(rate_hz), ChromaMeter(self._spectra.rate_hz)
        self._fingerprint = FingerprintMeter(self._spectra.rate_hz)
        self._loudness, self._peak = LoudnessMeter(rate_hz, channels), PeakMeter(channels)
        self._summary = SummaryMeter(rate_hz)
        self._bandwidth, self._levels = BandwidthMeter(rate_hz), LevelMeter(rate_hz, channels)

    def push(self, samples: FloatArray) -> None:
        """Take the next samples (channels, n)."""
        self._seen += samples.shape[1]
        joined = np.concatenate([self._rest, samples], axis=1) if self._rest.shape[1] else samples
        whole = joined.shape[1] // BLOCK * BLOCK
        for start in range(0, whole, BLOCK):
            self._take(joined[:, start : start + BLOCK])
        self._rest = joined[:, whole:].copy()

    def finish(self) -> Features:
        """The features of all that came."""
        self._take(self._rest)
        self._rest = self._rest[:, :0]
        with self._watch.stage("chroma"):
            last = self._spectra.finish()
            self._chroma.push(last)
            self._fingerprint.push(last)
            chroma = self._chroma.finish()
        with self._watch.stage("onsets"):
            onsets = self._onsets.finish()
        with self._watch.stage("waveform"):
            low, mid, high = flattened(onsets)
            waveform = self._summary.finish(low, mid + high, find_onset_times(onsets))
        return Features(
            self._seen / self._rate_hz,
            onsets,
            chroma,
            self._fingerprint.finish(),
            self._loudness.finish(),
            self._peak.finish_db(),
            waveform,
            self._bandwidth.finish(),
            self._levels.finish(),
        )

    def _take(self, samples: FloatArray) -> None:
        if not samples.shape[1]:
            return
        mono = np.full(len(samples), 1.0 / len(samples), np.float32) @ samples
        with self._watch.stage("onsets"):
            low = self._onsets.push(mono)
        with self._watch.stage("chroma"):
            spectra = self._spectra.push(mono)
            self._chroma.push(spectra)
        with self._watch.stage("likeness"):
            self._fingerprint.push(spectra)
        with self._watch.stage("loudness"):
            self._loudness.push(samples)
            self._peak.push(samples)
        with self._watch.stage("waveform"):
            self._summary.push(mono, low)
        with self._watch.stage("quality"):
            self._bandwidth.push(mono)
            self._levels.push(samples)
