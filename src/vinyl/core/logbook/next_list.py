"""The next list made from a night: what stays, what goes, and what takes the place of others in the same
role.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.tonal.key import fitting_keys, parse_key

# What plays a role in a night is alike in tempo and energy, and shares tags.
MOST_TEMPO, MOST_ENERGY = 0.06, 22
TEMPO_SAY, ENERGY_SAY, TAGS_SAY, KEY_SAY, STARS_SAY = 0.32, 0.24, 0.26, 0.1, 0.08

Fate = Literal["keep", "drop", "replace"]


@dataclass(frozen=True, slots=True)
class Role:
    """What a track is in a night; None where it is not known."""

    bpm: float | None
    energy: int | None
    key: str | None
    tags: frozenset[int] = frozenset()
    stars: int = 0


@dataclass(frozen=True, slots=True)
class Judged:
    """A play as it is judged: its marks, how often its track was played there lately, and whether another can
    play its role.
    """

    went: str = ""
    asked: bool = False
    never: bool = False
    lately: int = 1
    has_others: bool = True


@dataclass(frozen=True, slots=True)
class Verdict:
    """What becomes of a play, and why."""

    fate: Fate
    reason: str


def judge(plays: Sequence[Judged], share: float) -> list[Verdict]:
    """What of a night stays for the next: never-again goes, what went well stays, and a share of the rest is
    replaced: what fell flat first, then what was played there most.

    Args:
        share: which part of what remains is replaced, from 0 to 1.
    """
    staying = [place for place, play in enumerate(plays) if not play.never]
    open_places = [place for place in staying if plays[place].went != "well" and plays[place].has_others]
    wanted = min(len(open_places), round(share * len(staying)))
    first = sorted(open_places, key=lambda place: (*_worth(plays[place]), _spread(place)))
    replaced = set(first[:wanted])
    return [_verdict(play, place in replaced) for place, play in enumerate(plays)]


def _worth(play: Judged) -> tuple[int, int, int]:
    return (play.went != "flat", int(play.asked), -play.lately)


def _spread(place: int) -> float:
    """An order that takes places from all over a night, not from its beginning only (the golden section)."""
    return math.modf(place * 0.6180339887)[0]


def _verdict(play: Judged, replaced: bool) -> Verdict:
    if play.never:
        return Verdict("drop", "never again")
    if replaced:
        often = f"played here {play.lately} times lately" if play.lately > 1 else "for a change"
        return Verdict("replace", "fell flat" if play.went == "flat" else often)
    if play.went == "well":
        return Verdict("keep", "went well")
    return Verdict("keep", "asked for" if play.asked else "as it was")


def in_role(wanted: Role, other: Role, tag_names: Mapping[int, str]) -> tuple[float, tuple[str, ...]] | None:
    """How well a track can take another's role, from 0 to 1, with the reasons; None if it cannot."""
    tempo, energy = _tempo(wanted.bpm, other.bpm), _energy(wanted.energy, other.energy)
    if tempo is None or energy is None:
        return None
    both = wanted.tags & other.tags
    either = wanted.tags | other.tags
    score = TEMPO_SAY * tempo[0] + ENERGY_SAY * energy[0]
    score += TAGS_SAY * (len(both) / len(either) if either else 0.3)
    fits = _fits(wanted.key, other.key)
    score += KEY_SAY * fits + STARS_SAY * other.stars / 5
    reasons = [tempo[1], energy[1]]
    if both:
        reasons.append("also " + ", ".join(sorted(tag_names[tag] for tag in both if tag in tag_names)))
    if fits:
        reasons.append("key fits")
    return score, tuple(filter(None, reasons))


def _tempo(wanted: float | None, bpm: float | None) -> tuple[float, str] | None:
    if not wanted or not bpm:
        return (0.2, "tempo not known")
    change = wanted / bpm - 1
    if abs(change) > MOST_TEMPO:
        return None
    words = "same tempo" if abs(change) < 0.0005 else f"tempo {bpm - wanted:+.1f}".replace("-", "−")
    return 1 - abs(change) / MOST_TEMPO, words


def _energy(wanted: int | None, energy: int | None) -> tuple[float, str] | None:
    if wanted is None or energy is None:
        return (0.3, "")
    apart = energy - wanted
    if abs(apart) > MOST_ENERGY:
        return None
    words = "same energy" if abs(apart) <= 2 else f"energy {apart:+d}".replace("-", "−")
    return 1 - abs(apart) / MOST_ENERGY, words


def _fits(wanted: str | None, key: str | None) -> float:
    if not wanted or not key:
        return 0.0
    return float(parse_key(key) in fitting_keys(parse_key(wanted)))
