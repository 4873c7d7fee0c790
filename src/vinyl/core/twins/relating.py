"""How two files' sounds relate: by their fingerprints, and where one lies in the other, by their attacks."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vinyl.core.likeness.compare import LONGEST_SILENCE, WHOLE, Match, compare
from vinyl.core.likeness.fingerprint import Fingerprint
from vinyl.core.twins.alignment import TRIALS, Alignment, align

# Share found in place from which other speeds are tried, and the error up to which what is found then is one
# recording (docs/accuracy.md); where all is found already, the error must become so much less.
WORTH_A_TRIAL, LARGEST_ERROR, BETTER = 0.3, 0.15, 0.8

Attacks = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Sound:
    """A file's fingerprint, and its attacks (n,) in seconds where they are at hand."""

    fingerprint: Fingerprint
    attacks_s: Attacks | None


@dataclass(frozen=True, slots=True)
class Relation:
    """How two sounds compare; of the same recording, where the first's times lie in the second, if known."""

    match: Match
    alignment: Alignment | None


def relate(first: Sound, second: Sound, frames_per_s: float) -> Relation:
    """Compare two files; what seems no twin, but shares much, is tried as one that runs at another speed."""
    match, speed = compare(first.fingerprint, second.fingerprint, frames_per_s), 1.0
    if match.relation != "same" and match.covered >= WORTH_A_TRIAL:
        match, speed = _at_its_speed(first.fingerprint, second.fingerprint, frames_per_s, match)
        match = _as_edit(first.fingerprint, second.fingerprint, frames_per_s, match)
    if match.relation != "same" or first.attacks_s is None or second.attacks_s is None:
        return Relation(match, None)
    near = Alignment(speed, match.offset_s, 0.0)
    return Relation(match, align(first.attacks_s, second.attacks_s, near))


def _as_edit(first: Fingerprint, second: Fingerprint, frames_per_s: float, match: Match) -> Match:
    """What is neither the same nor an edit is looked at once more as an edit of music that repeats itself."""
    if match.relation in ("same", "edit"):
        return match
    found = compare(first, second, frames_per_s, past_repeats=True)
    return found if found.relation == "edit" else match


def _at_its_speed(
    first: Fingerprint, second: Fingerprint, frames_per_s: float, match: Match
) -> tuple[Match, float]:
    """The match at the speed at which most agrees, and that speed; the given one where that is no other."""
    trials = [(compare(stretched(first, 1.0 + trial), second, frames_per_s), 1.0 + trial) for trial in TRIALS]
    best, speed = max(
        trials, key=lambda trial: (trial[0].relation == "same", trial[0].covered, -trial[0].bit_error)
    )
    spare = abs(len(second) - round(speed * len(first)))
    if best.covered < WHOLE or best.bit_error > LARGEST_ERROR or spare > LONGEST_SILENCE:
        return match, 1.0
    better = best.relation == "same" or best.bit_error < BETTER * match.bit_error
    if speed == 1.0 or (match.covered >= WHOLE and not better):
        return match, 1.0
    # Bands of another height are another voice to the comparison: what all agrees is the same here.
    return replace(best, relation="same"), speed


def stretched(fingerprint: Fingerprint, speed: float) -> Fingerprint:
    """A fingerprint as the recording would have it that lasts ``speed`` times as long."""
    frames = np.arange(round(len(fingerprint) * speed)) / speed
    words: Fingerprint = fingerprint[np.minimum(np.rint(frames).astype(np.int64), len(fingerprint) - 1)]
    return words
