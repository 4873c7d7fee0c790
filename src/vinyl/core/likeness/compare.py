"""Whether two fingerprints are of one recording, an edit of it, versions over one backing, or nothing of the
kind.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from vinyl.core.likeness.fingerprint import BITS, Fingerprint

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

# Frames of a segment (3 s), and bits of a group of neighbouring bands.
SEGMENT = 32
GROUP_BITS = 4
# Offsets at which two recordings are compared, as long as their bits agree so far beyond chance.
OFFSETS = 8
LEAST_PEAK = 0.04
# Shares of differing bits: a segment is found for sure below the first, in part below the second (chance is
# 0.5).
SURE_ERROR = 0.29
PART_ERROR = 0.36
# A segment keeps to the main offset unless another is better by this.
HABIT = 0.06
# What a cut costs in the error of a segment, where it is told what was cut out.
CHANGE = 0.4
# What an offset that lies between frames adds to the error.
REPEAT_PLAY = 0.2
# Shares of segments: found, for the same recording or an edit; found in part, for a shared backing; in place,
# for that.
WHOLE = 0.95
PART = 0.6
LEAST_IN_PLACE = 0.25
# How much worse the worst of eight bands may be than the middle one, as it is and beyond what it usually is:
# an encoder spoils each band alike all the time, another voice a few, and mostly not all the time. Made-up
# copies at 64 kbit/s reach 0.13 and 0.08, of those with a voice at -18 dB nine in ten pass 0.14.
LARGEST_EXCESS, LARGEST_CHANGE = 0.14, 0.1
EXCESS_QUANTILES = (0.8, 0.9)
# Frames (10 s) that one of the same recordings may be longer.
LONGEST_SILENCE = 110

Relation = Literal["same", "edit", "same backing", "different"]
FloatArray = NDArray[np.float64]
Signs = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Match:
    """``offset_s`` is where the first recording's start lies in the second; ``covered`` the share of the
    shorter that is found in the longer, ``bit_error`` (0 to 0.5) how far the found parts differ, and
    ``unevenness`` how much some bands differ more than others: from 1 on that is another voice; ``missing_s``
    are the parts (start, end) of the longer, in seconds to about three, that an edit leaves out."""

    relation: Relation
    offset_s: float
    covered: float
    bit_error: float
    unevenness: float = 0.0
    missing_s: tuple[tuple[float, float], ...] = ()


def compare(a: Fingerprint, b: Fingerprint, frames_per_s: float, past_repeats: bool = False) -> Match:
    """Compare two recordings.

    The shorter is cut into segments of three seconds, and each is looked for at the few offsets at which the
    whole agrees best. All found at one offset: the same. All found, at several offsets or in part of the
    longer: an edit. Found in step but with some bands or parts that differ: versions over one backing.

    Args:
        past_repeats: also look for where a cut goes on behind the track's own repeats. A copy at another
            speed would then be found piece by piece: that is to be tried first.
    """
    if min(len(a), len(b)) < 2 * SEGMENT:
        return Match("different", 0.0, 0.0, 0.5)
    if len(a) > len(b):
        found = compare(b, a, frames_per_s, past_repeats)
        return replace(found, offset_s=-found.offset_s)
    first, second = _signs(a), _signs(b)
    sounding = _sounding(a)
    if not sounding.any():
        return Match("different", 0.0, 0.0, 0.5)
    offsets = _likely_offsets(first, second)
    groups = np.stack([_group_errors(first, second, offset) for offset in offsets])
    if past_repeats:
        offsets, groups = _past_repeats(first, second, sounding, offsets, groups)
    groups = groups[:, sounding]
    errors = groups.mean(axis=2)
    main, place = _places(errors, np.array(offsets) - (_first_sound(b) - _first_sound(a)))
    if past_repeats:
        place = _in_order(np.array(offsets), errors)
        main = int(np.bincount(place).argmax())
    chosen = np.take_along_axis(groups, place[None, :, None], axis=0)[0]
    error = chosen.mean(axis=1)
    part = error < PART_ERROR
    spare = min(len(b), int(_sounding(b).sum()) * SEGMENT) - len(a)
    relation = _relation(error, chosen, float((place == main).mean()), spare)
    starts = np.flatnonzero(_sounding(a)) * SEGMENT
    return Match(
        relation,
        offsets[main] / frames_per_s,
        float((error < SURE_ERROR).mean()),
        float(error[part].mean()) if part.any() else 0.5,
        _unevenness(chosen),
        _missing(starts, np.array(offsets), errors, _sound(b), frames_per_s) if relation == "edit" else (),
    )


def _past_repeats(
    a: Signs, b: Signs, sounding: NDArray[np.bool_], offsets: list[int], groups: FloatArray
) -> tuple[list[int], FloatArray]:
    """More offsets, with the errors there, (offsets, segments, groups of bands): what is found at none of the
    first is looked for once more by itself.

    These count only if that makes the whole complete: pieces that share a loop have many.
    """
    lost = _lost(groups) & sounding
    if not lost.any() or lost[sounding].all():
        return offsets, groups
    rest = np.repeat(lost, SEGMENT)[:, None] * a[: len(lost) * SEGMENT]
    more = [each for each in _likely_offsets(rest, b) if each not in offsets]
    found = np.concatenate([groups, *(_group_errors(a, b, each)[None] for each in more)])
    if _lost(found)[sounding].mean() > 1.0 - WHOLE:
        return offsets, groups
    return offsets + more, found


def _lost(groups: FloatArray) -> NDArray[np.bool_]:
    """The segments that are found at none of the offsets."""
    lost: NDArray[np.bool_] = groups.mean(axis=2).min(axis=0) >= SURE_ERROR
    return lost


def _missing(
    starts: NDArray[np.int64],
    offsets: NDArray[np.int64],
    errors: FloatArray,
    sound: tuple[int, int],
    frames_per_s: float,
) -> tuple[tuple[float, float], ...]:
    """The parts of the longer between those in which segments of the shorter lie, but what is too short (6 s)
    to be told.
    """
    lie = starts + offsets[_in_order(offsets, errors)]
    ends = np.concatenate([[sound[0]], lie + SEGMENT])
    gaps = zip(ends, np.concatenate([lie, [sound[1]]]), strict=True)
    return tuple(
        (float(end / frames_per_s), float(start / frames_per_s))
        for end, start in gaps
        if start - end > SEGMENT
    )


def _in_order(offsets: NDArray[np.int64], errors: FloatArray) -> NDArray[np.int64]:
    """Which of the offsets (n,) each segment lies at, by errors (n, segments), with few changes: what was cut
    out makes offsets larger, never smaller (Viterbi, 1967).
    """
    order = np.argsort(offsets)
    dearer = CHANGE * (1.0 - np.eye(len(order)))
    dearer[np.tril_indices(len(order), -1)] = np.inf
    cost, came = errors[order, 0], []
    for error in errors[order, 1:].T:
        ways = cost[:, None] + dearer
        came.append(ways.argmin(axis=0))
        cost = ways.min(axis=0) + error
    path = [int(cost.argmin())]
    for before in reversed(came):
        path.append(int(before[path[-1]]))
    chosen: NDArray[np.int64] = order[path[::-1]]
    return chosen


def _places(errors: FloatArray, apart: NDArray[np.int64]) -> tuple[int, NDArray[np.int64]]:
    """The main one of the offsets, and the one that each segment is found at.

    In music that repeats itself many offsets are as good: all segments are taken at one where they can be,
    the nearest to the starts of those that are nearly as good as the best.

    Args:
        errors: of the segments, (offsets, segments).
        apart: how far each offset lies from the one that the starts of the sound have.
    """
    found, error = (errors < SURE_ERROR).mean(axis=1), errors.mean(axis=1)
    main = int(np.argmax(found - error / errors.shape[1]))
    whole = np.flatnonzero(found >= WHOLE)
    if len(whole):
        good = whole[error[whole] < error[whole].min() + REPEAT_PLAY]
        main = int(good[np.argmin(np.abs(apart[good]))])
        return main, np.full(errors.shape[1], main)
    return main, np.where(errors[main] < errors.min(axis=0) + HABIT, main, errors.argmin(axis=0))


def _sound(words: Fingerprint) -> tuple[int, int]:
    """From the first to the last frame in which anything changes."""
    changing = np.flatnonzero(words)
    return (int(changing[0]), int(changing[-1]) + 1) if len(changing) else (0, 0)


def _first_sound(words: Fingerprint) -> int:
    """The first frame in which anything changes."""
    return int(np.argmax(words != 0))


def _relation(error: FloatArray, groups: FloatArray, in_place: float, spare: int) -> Relation:
    """From the errors of the segments, the share of them at the main offset, and the frames the longer has to
    spare.
    """
    if (error < SURE_ERROR).mean() < WHOLE:
        return (
            "same backing"
            if (error < PART_ERROR).mean() >= PART and in_place >= LEAST_IN_PLACE
            else "different"
        )
    if _unevenness(groups) > 1.0:
        return "same backing"
    return "same" if in_place >= WHOLE and spare <= LONGEST_SILENCE else "edit"


def _unevenness(groups: FloatArray) -> float:
    """The excess of the worst band, and beyond what is usual, in shares of the largest that copies have."""
    usual = np.median(groups, axis=0)
    return max(_excess(groups) / LARGEST_EXCESS, _excess(groups - usual) / LARGEST_CHANGE)


def _excess(groups: FloatArray) -> float:
    """How much worse the worst band is than the middle one, in the segments where that is most."""
    return float(np.quantile(groups.max(axis=1) - np.median(groups, axis=1), EXCESS_QUANTILES).mean())


def _signs(words: Fingerprint) -> Signs:
    bits = np.unpackbits(words.astype(">u4").view(np.uint8).reshape(-1, 4), axis=1)
    return bits.astype(np.float32) * 2.0 - 1.0


def _likely_offsets(a: Signs, b: Signs) -> list[int]:
    """Offsets in frames at which the bits agree best, by cross-correlation of all of them."""
    size = scipy.fft.next_fast_len(len(a) + len(b), real=True)
    product = (np.conj(scipy.fft.rfft(a, size, axis=0)) * scipy.fft.rfft(b, size, axis=0)).sum(axis=1)
    agreement = scipy.fft.irfft(product, size) / max(float(np.abs(a).sum()), 1.0)
    offsets: list[int] = []
    for _ in range(OFFSETS):
        peak = int(np.argmax(agreement))
        if offsets and agreement[peak] < LEAST_PEAK:
            break
        offsets.append(peak if peak < len(b) else peak - size)
        agreement[np.arange(peak - 2, peak + 3) % size] = -1.0
    return offsets


def _group_errors(a: Signs, b: Signs, offset: int) -> FloatArray:
    """Share of differing bits, (segments, groups of bands), one half where the first leaves the second."""
    whole = len(a) // SEGMENT * SEGMENT
    frames = np.full((whole, BITS // GROUP_BITS), 0.5)
    first, last = max(0, -offset), min(whole, len(b) - offset)
    if last > first:
        agree = (
            (a[first:last] * b[first + offset : last + offset])
            .reshape(last - first, -1, GROUP_BITS)
            .mean(axis=2)
        )
        frames[first:last] = 0.5 - 0.5 * agree
    errors: FloatArray = frames.reshape(-1, SEGMENT, BITS // GROUP_BITS).mean(axis=1)
    return errors


def _sounding(words: Fingerprint) -> NDArray[np.bool_]:
    """Segments that are not silence: there nothing changes, frame after frame."""
    whole = len(words) // SEGMENT * SEGMENT
    still = (words[:whole] == 0).reshape(-1, SEGMENT)
    sounding: NDArray[np.bool_] = still.mean(axis=1) < 0.5
    return sounding
