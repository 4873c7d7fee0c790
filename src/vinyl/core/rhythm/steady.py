"""One tempo and one phase for a whole track, fitted to all its onsets."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from vinyl.core.rhythm.onset import OnsetEnvelopes

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# The lag is measured for each segment of so many beats: long enough for a clear profile, short enough to see
# a drift.
SEGMENT_BEATS = 16
# Values of an envelope that are folded at once, so that a long mix costs little memory.
STRETCH = 1 << 20
# Segments agree with the fit if their profile correlates so well with the mean one and lags no more.
AGREEMENT = 0.3
AGREED_LAG_S = 0.015
# Segments with less than this share of the usual onset strength are breaks: they have nothing to say.
BREAK_SHARE = 0.5
# One tempo holds to the ends if one of so many segments there agrees, with this share of the usual likeness.
END_SEGMENTS, END_SHARE = 3, 0.55
# Rounds of measuring lags and fitting them.
ROUNDS = 4
# Profiles are smoothed by so many bins of the fine envelope (1.5 ms each).
PROFILE_BINS = 1.5
# Lags are looked for within this share of a beat on either side: beyond lies the next sixteenth.
LAG_SHARE = 1 / 8
# What low, middle and high band have to say of where the beat is: bass and snare drums more than hats.
BAND_SAY = (1.0, 0.8, 0.35)
# Bins of a beat in which the bands are compared.
PHASE_BINS = 48
# An onset begins where its folded strength passes this share of its peak, looked for so far around the beat.
ONSET_SHARE = 0.5
SEARCH_S = 0.03
# Blocks from the edge of the smoothed profile to the onset itself: smoothing spreads the edge forward.
EDGE_BLOCKS = 1.4

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class SteadyFit:
    """Beats at ``phase_s + n * period_s``.

    ``lags_s`` is how far each segment of SEGMENT_BEATS beats lies from the fit and ``weights`` how much
    each has to say; ``beat_share`` (0 to 1) is how clearly the beat stands out from the off-beat.
    """

    period_s: float
    phase_s: float
    lags_s: FloatArray
    weights: FloatArray
    beat_share: float
    held: float
    ends_hold: bool = True

    @property
    def bpm(self) -> float:
        return 60.0 / self.period_s

    @property
    def spread_s(self) -> float:
        """Weighted root mean square of the segments' lags."""
        if not self.weights.sum():
            return self.period_s / 4
        return float(np.sqrt(np.average(np.square(self.lags_s), weights=self.weights)))


def fit_steady(onsets: OnsetEnvelopes, period_s: float) -> SteadyFit:
    """Fit period and phase by regressing the lag of each segment's folded onsets on time.

    Args:
        period_s: a first guess, good to about one percent.
    """
    fine = fine_sum(onsets)
    lags, weights, held, ends_hold = np.zeros(1), np.zeros(1), 0.0, True
    for _ in range(ROUNDS):
        profiles, centres_s = _segment_profiles(fine, onsets.fine_rate_hz, period_s)
        lags, weights, alike = _segment_lags(profiles, period_s)
        slope, offset = _robust_line(centres_s, lags, weights)
        period_s *= 1.0 + slope
        lags = lags - (offset + slope * centres_s)
        held = held_share(profiles, lags, alike, AGREED_LAG_S)
        ends_hold = _ends_hold(profiles, lags, alike)
    phase_s, share = beat_phase(onsets, period_s)
    return SteadyFit(period_s, phase_s, lags, weights, share, held, ends_hold)


def fine_sum(onsets: OnsetEnvelopes) -> FloatArray:
    """Low and high onsets of equal say, (n,) at the fine rate."""
    total: FloatArray = fine_bands(onsets).sum(axis=0).astype(np.float64)
    return total


def fine_bands(onsets: OnsetEnvelopes) -> NDArray[np.float32]:
    """Low and high onsets, (2, n) at the fine rate, each of one spread."""
    bands: NDArray[np.float32] = onsets.fine / (onsets.fine.std(axis=1, keepdims=True) + 1e-9)
    return bands


def fold(envelope: NDArray[np.floating], rate_hz: float, period_s: float, bins: int) -> FloatArray:
    """Sum of an envelope by phase within the period, shape (bins,); bin b holds phases from b/bins on."""
    sums: FloatArray = _folded(envelope, rate_hz, period_s, bins, None)[0]
    return sums


def _folded(
    envelope: NDArray[np.floating], rate_hz: float, period_s: float, bins: int, beats: int | None
) -> FloatArray:
    """Sums by phase (segments, bins), in segments of so many beats or in one; a stretch at a time, for the
    sake of long mixes.
    """
    count = 1 if beats is None else int((len(envelope) - 1) / (rate_hz * period_s) / beats) + 1
    sums = np.zeros((count, bins))
    for start in range(0, len(envelope), STRETCH):
        first, rows = beat_rows(envelope[start : start + STRETCH], bins / (rate_hz * period_s), bins, start)
        segments = np.minimum((first + np.arange(len(rows))) // (beats or len(envelope)), count - 1)
        starts = np.flatnonzero(np.diff(segments, prepend=-1))
        sums[segments[starts]] += np.add.reduceat(rows, starts, axis=0)
    return sums


def beat_rows(envelope: NDArray[np.floating], step: float, bins: int, start: float) -> tuple[int, FloatArray]:
    """An envelope cut into beats of so many bins: the number of the first beat, and sums (beats, bins).

    Args:
        step: bins from one value of the envelope to the next.
        start: the first value's place, counted in such steps from the start of beat 0.
    """
    first = int(np.floor(start * step)) // bins
    index = np.arange(len(envelope)) * step
    index += start * step - first * bins
    sums = np.bincount(index.astype(np.int64), weights=envelope)
    rows: FloatArray = np.zeros((-(-len(sums) // bins), bins))
    rows.reshape(-1)[: len(sums)] = sums
    return first, rows


def _segment_profiles(fine: FloatArray, rate_hz: float, period_s: float) -> tuple[FloatArray, FloatArray]:
    """Folded onsets of each segment, (segments, bins), and the segments' centres in seconds."""
    profiles = _folded(fine, rate_hz, period_s, round(period_s * rate_hz), SEGMENT_BEATS)
    centres_s = (np.arange(len(profiles)) + 0.5) * SEGMENT_BEATS * period_s
    smooth: FloatArray = gaussian_filter1d(profiles, PROFILE_BINS, axis=1, mode="wrap")
    return smooth, centres_s.astype(np.float64)


def held_share(profiles: FloatArray, lags_s: FloatArray, alike: FloatArray, agreed_lag_s: float) -> float:
    """The share of onset strength (0 to 1) in profiles (n, bins) that are alike and lag little; breaks do not
    count.
    """
    active = _active(profiles)
    agrees = (alike > AGREEMENT) & (np.abs(lags_s) < agreed_lag_s)
    return float(active[agrees].sum() / max(active.sum(), 1e-9))


def _active(profiles: FloatArray) -> FloatArray:
    """Onset strength (n,) of profiles (n, bins), 0 in breaks."""
    strengths = profiles.sum(axis=1)
    return np.where(strengths > BREAK_SHARE * np.median(strengths), strengths, 0.0)


def _ends_hold(profiles: FloatArray, lags_s: FloatArray, alike: FloatArray) -> bool:
    """Whether of the first and of the last segments that are no breaks one agrees and is much like most."""
    active = np.flatnonzero(_active(profiles))
    least = max(AGREEMENT, END_SHARE * float(np.median(alike)))
    agrees = (alike > least) & (np.abs(lags_s) < AGREED_LAG_S)
    return all(bool(agrees[end].any()) for end in (active[:END_SEGMENTS], active[-END_SEGMENTS:]))


def _segment_lags(profiles: FloatArray, period_s: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    return lags_against(profiles, profiles.sum(axis=0), period_s)


def lags_against(
    profiles: FloatArray, template: FloatArray, period_s: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Lag in seconds of each profile (segments, bins) against a template (bins,), within LAG_SHARE of a beat,
    its weight, and likeness (0 to 1).
    """
    bins = profiles.shape[1]
    centred, template = profiles - profiles.mean(axis=1, keepdims=True), template - template.mean()
    spectra = scipy.fft.rfft(centred, axis=1)
    correlation = scipy.fft.irfft(spectra * np.conj(scipy.fft.rfft(template)), bins, axis=1)
    reach = max(int(bins * LAG_SHARE), 2)
    window = np.concatenate([correlation[:, -reach:], correlation[:, : reach + 1]], axis=1)
    best = np.clip(np.argmax(window, axis=1), 1, 2 * reach - 1)
    rows = np.arange(len(best))
    left, mid, right = (window[rows, best + step] for step in (-1, 0, 1))
    bend = left - 2 * mid + right
    part = np.where(np.abs(bend) > 1e-12, 0.5 * (left - right) / np.where(bend == 0, 1, bend), 0.0)
    lags = (best - reach + np.clip(part, -0.5, 0.5)) * period_s / bins
    alike = np.maximum(mid / (np.sqrt((centred**2).sum(axis=1) * (template**2).sum()) + 1e-9), 0.0)
    return lags, np.maximum(mid, 0.0) * alike, alike


def _robust_line(x: FloatArray, y: FloatArray, weights: FloatArray) -> tuple[float, float]:
    """Slope and offset by least squares, reweighted (Huber, 1964) so that odd segments count little."""
    if len(x) < 3 or not weights.sum():
        return 0.0, 0.0
    current = weights / weights.max()
    slope = offset = 0.0
    for _ in range(6):
        share = current / current.sum()
        mean_x, mean_y = float(share @ x), float(share @ y)
        away = share * (x - mean_x)
        slope = float(away @ y) / max(float(away @ x), 1e-9)
        offset = mean_y - slope * mean_x
        error = np.abs(y - offset - slope * x)
        scale = 1.5 * float(np.sort(error)[len(error) // 2]) + 5e-4
        current = weights / weights.max() / np.maximum(error / scale, 1.0) + 1e-12
    return slope, offset


def beat_phase(onsets: OnsetEnvelopes, period_s: float) -> tuple[float, float]:
    """Time in seconds within the period where the onsets of the beat begin, and how clearly it is the beat
    (0 to 1).
    """
    near, share = _near_phase(onsets, period_s)
    folded = fold(fine_sum(onsets), onsets.fine_rate_hz, period_s, round(period_s * onsets.fine_rate_hz))
    return onset_phase(folded, near, period_s), share


def _near_phase(onsets: OnsetEnvelopes, period_s: float) -> tuple[float, float]:
    """Phase (0 to 1) of the beat, by drums and bass more than by hats, and how clearly it stands out."""
    bins = PHASE_BINS
    total = np.zeros(bins)
    for say, band in zip(BAND_SAY, (onsets.low, onsets.mid, onsets.high), strict=True):
        profile = fold(band, onsets.rate_hz, period_s, bins)
        profile = gaussian_filter1d(profile, 1.0, mode="wrap")
        spread = profile.std() + 1e-9
        total += say * (profile - profile.mean()) / spread
    best = int(np.argmax(total))
    off = max(total[(best + bins // 2 + step) % bins] for step in (-2, -1, 0, 1, 2))
    share = float(np.clip((total[best] - max(off, 0.0)) / max(total[best], 1e-9), 0.0, 1.0))
    return (best + 0.5) / bins, share


def onset_phase(folded: FloatArray, near: float, period_s: float, share: float = ONSET_SHARE) -> float:
    """Where folded onsets (bins,) rise past a share of their peak, close to a phase ``near`` (0 to 1), in
    seconds within the period.
    """
    bins = len(folded)
    profile = gaussian_filter1d(folded, 0.7, mode="wrap")
    reach = round(SEARCH_S / period_s * bins)
    centre = round(near * bins)
    window = profile[np.arange(centre - reach, centre + reach + 1) % bins]
    window = window - np.median(profile)
    peak = int(np.argmax(window))
    level = share * window[peak]
    start = peak
    while start > 0 and window[start - 1] > level:
        start -= 1
    rise = window[start] - window[start - 1] if start > 0 else 1.0
    part = (window[start] - level) / rise if rise > 0 else 0.0
    phase_s = (centre - reach + start + EDGE_BLOCKS - part) / bins * period_s
    return float(phase_s % period_s)
