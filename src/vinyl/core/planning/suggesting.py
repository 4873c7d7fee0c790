"""What to play next: how well a track goes with another, weighed with what is known of both and of nights."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from vinyl.core.planning.fitting import USUAL, Fit, Weights

Filter = Literal["key fits", "tempo in reach", "rises", "sounds alike", "not here lately"]
# What is added to a fit (0 to 1), or taken from it: set by what DJs ask for first, not fitted.
TAGS_SAY, TOGETHER_SAY, STARS_SAY, RISE_SAY, BACKING_SAY = 0.1, 0.08, 0.05, 0.05, 0.05
FLAT_SAY, LATELY_SAY = -0.15, -0.2
# What was heard together says most.
WORKS_SAY, WORKS_NOT_SAY = 0.3, -0.5
# From this on two tracks sound alike; a step in energy up to this is a rise, not a leap.
ALIKE, LARGEST_RISE = 0.6, 15


@dataclass(frozen=True, slots=True)
class Evidence:
    """What is known beside the fit: names of tags both have, and the share of theirs that is; how often the
    one followed the other, and how that went; the day it was played at the venue if that is not long ago;
    whether both, heard together, work.
    """

    tags: tuple[str, ...] = ()
    tags_share: float = 0.0
    together: int = 0
    went_well: int = 0
    fell_flat: int = 0
    lately: str = ""
    energy_step: int | None = None
    likeness: float | None = None
    same_backing: bool = False
    stars: int = 0
    works: bool | None = None


@dataclass(frozen=True, slots=True)
class Suggestion:
    """How well a track comes next (about 0 to 1), and why, in words; ``doubts`` speak against it."""

    score: float
    reasons: tuple[str, ...]
    doubts: tuple[str, ...]


def suggest(fit: Fit, evidence: Evidence, weights: Weights = USUAL) -> Suggestion:
    """Weigh a fit with what else is known."""
    score = fit.score + STARS_SAY * evidence.stars / 5 + weights.tags * TAGS_SAY * evidence.tags_share
    score += weights.nights * _nights(evidence)
    score += weights.energy * RISE_SAY if _rises(evidence) else 0.0
    score += weights.sound * BACKING_SAY if evidence.same_backing else 0.0
    score += {True: WORKS_SAY, False: WORKS_NOT_SAY, None: 0.0}[evidence.works]
    return Suggestion(score, (*fit.reasons, *_reasons(evidence)), tuple(_doubts(evidence)))


def _nights(evidence: Evidence) -> float:
    """What nights say: how often the two were played together, how that went, and what was there lately."""
    said = TOGETHER_SAY * min(2, evidence.together - evidence.fell_flat) / 2 if evidence.together else 0.0
    said += FLAT_SAY if evidence.fell_flat > evidence.went_well else 0.0
    return said + (LATELY_SAY if evidence.lately else 0.0)


def passes(fit: Fit, evidence: Evidence, wanted: frozenset[Filter], tempo_percent: float) -> bool:
    """Whether a track is what the filters ask for; what is not known passes none that asks for it."""
    change = fit.change_percent
    return not (
        ("key fits" in wanted and fit.reasons[:1] in (("key not known",), ()))
        or ("tempo in reach" in wanted and (change is None or abs(change) > tempo_percent))
        or ("rises" in wanted and not _rises(evidence))
        or ("sounds alike" in wanted and (evidence.likeness or 0.0) < ALIKE)
        or ("not here lately" in wanted and bool(evidence.lately))
    )


def _rises(evidence: Evidence) -> bool:
    return evidence.energy_step is not None and 0 < evidence.energy_step <= LARGEST_RISE


def _reasons(evidence: Evidence) -> Iterator[str]:
    if evidence.tags:
        yield "also " + ", ".join(evidence.tags[:3])
    if evidence.same_backing:
        yield "the same backing"
    if evidence.together:
        times = {1: "once", 2: "twice"}.get(evidence.together, f"{evidence.together} times")
        went = ", it went well" if evidence.went_well > evidence.fell_flat else ""
        yield f"you played them together {times}{went}"
    if evidence.works:
        yield "you heard them together: it works"


def _doubts(evidence: Evidence) -> Iterator[str]:
    if evidence.works is False:
        yield "you heard them together: it does not work"
    if evidence.fell_flat > evidence.went_well:
        yield "it fell flat after this one"
    if evidence.lately:
        yield f"played here {evidence.lately}"
