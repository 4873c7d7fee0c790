"""The next list made from a night: what stays, what goes, and what takes the place of others in the same
role.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
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


def role_score(wanted: Role, other: Role) -> float | None:
    """How well a track can take another's role, from 0 to 1; None if it cannot."""
    tempo, energy = _tempo(wanted.bpm, other.bpm), _energy(wanted.energy, other.energy)
    if tempo is None or energy is None:
        return None
    score = TEMPO_SAY * tempo + ENERGY_SAY * energy + STARS_SAY * other.stars / 5
    either = len(wanted.tags | other.tags)
    score += TAGS_SAY * (len(wanted.tags & other.tags) / either if either else 0.3)
    return score + KEY_SAY * _fits(wanted.key, other.key)


def role_reasons(wanted: Role, other: Role, tag_names: Mapping[int, str]) -> tuple[str, ...]:
    """Why a track can take another's role."""
    reasons = [_tempo_words(wanted.bpm, other.bpm), _energy_words(wanted.energy, other.energy)]
    if both := wanted.tags & other.tags:
        reasons.append("also " + ", ".join(sorted(tag_names[tag] for tag in both if tag in tag_names)))
    if _fits(wanted.key, other.key):
        reasons.append("key fits")
    return tuple(filter(None, reasons))


def _tempo(wanted: float | None, bpm: float | None) -> float | None:
    if not wanted or not bpm:
        return 0.2
    change = abs(wanted / bpm - 1)
    return 1 - change / MOST_TEMPO if change <= MOST_TEMPO else None


def _tempo_words(wanted: float | None, bpm: float | None) -> str:
    if not wanted or not bpm:
        return "tempo not known"
    if abs(wanted / bpm - 1) < 0.0005:
        return "same tempo"
    return f"tempo {bpm - wanted:+.1f}".replace("-", "−")


def _energy(wanted: int | None, energy: int | None) -> float | None:
    if wanted is None or energy is None:
        return 0.3
    apart = abs(energy - wanted)
    return 1 - apart / MOST_ENERGY if apart <= MOST_ENERGY else None


def _energy_words(wanted: int | None, energy: int | None) -> str:
    if wanted is None or energy is None:
        return ""
    apart = energy - wanted
    return "same energy" if abs(apart) <= 2 else f"energy {apart:+d}".replace("-", "−")


@lru_cache(maxsize=2048)
def _fits(wanted: str | None, key: str | None) -> bool:
    return bool(wanted and key) and parse_key(key or "") in fitting_keys(parse_key(wanted or ""))
