"""Which tracks go with one: by key, tempo, energy and sound, each with its reason in words."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, NamedTuple

from vinyl.core.tonal.key import Key, after_tempo_change, parse_key

Reach = Literal["near", "wide"]
# The change of tempo, in percent, that is in reach: what most slides allow without sounding odd, and more.
REACH_PERCENT: dict[Reach, float] = {"near": 6.0, "wide": 10.0}
# A change this small is not heard in the pitch.
UNHEARD_CENTS = 15.0
# What each part has to say: set by what DJs ask for first, not fitted.
KEY_SAY, TEMPO_SAY, ENERGY_SAY, SOUND_SAY = 0.4, 0.25, 0.15, 0.2
# What the user may make a part say, in times of the usual.
MOST_WEIGHT = 2.0
# Metrical levels at which a tempo is met, in words.
LEVELS = {1.0: "", 2.0: ", counted in half time", 0.5: ", counted in double time"}
# Energy that a next track may have more or less before it counts as another mood.
FAR_ENERGY = 40.0


@dataclass(frozen=True, slots=True)
class Weights:
    """What the user makes each part say, from 0 (nothing) over 1 (as usual) to ``MOST_WEIGHT``."""

    key: float = 1.0
    tempo: float = 1.0
    energy: float = 1.0
    sound: float = 1.0
    tags: float = 1.0
    nights: float = 1.0


USUAL = Weights()


@dataclass(frozen=True, slots=True)
class Facts:
    """What is known of a track; None where it is not. ``likeness`` is that to the chosen one (-1 to 1)."""

    bpm: float | None
    key: str | None
    energy: int | None
    likeness: float | None = None


@dataclass(frozen=True, slots=True)
class Fit:
    """How well a track goes with the chosen one, from 0 to 1, and why.

    ``change_percent`` is how much faster it must be played, ``cents`` by how much that raises its pitch if
    the key is not held, ``heard_key`` the key it then sounds in.
    """

    score: float
    reasons: tuple[str, ...]
    change_percent: float | None
    cents: float
    heard_key: str | None


def key_relations(key: Key, reach: Reach) -> dict[Key, tuple[str, float]]:
    """The keys that go with one, each with how it is related and how well it goes (0 to 1)."""
    steps = {
        key: ("same key", 1.0),
        key.relative: ("relative key", 0.9),
        key.transposed(7): ("a fifth up", 0.85),
        key.transposed(5): ("a fifth down", 0.85),
    }
    if reach == "wide":
        wider = {
            key.parallel: ("parallel key", 0.6),
            key.relative.transposed(7): ("relative’s fifth up", 0.55),
            key.relative.transposed(5): ("relative’s fifth down", 0.55),
            key.transposed(2): ("two fifths up", 0.5),
            key.transposed(10): ("two fifths down", 0.5),
            key.transposed(1): ("a semitone up", 0.4),
        }
        steps = {**wider, **steps}
    return steps


def tempo_ranges(bpm: float, reach: Reach) -> list[tuple[float, float]]:
    """Tempi from which the chosen one's can be reached, at half and double time too."""
    most = REACH_PERCENT[reach] / 100.0
    return [(bpm * times / (1.0 + most), bpm * times / (1.0 - most)) for times in (0.5, 1.0, 2.0)]


def fit(
    chosen: Facts, other: Facts, reach: Reach = "near", key_held: bool = True, weights: Weights = USUAL
) -> Fit | None:
    """How a track goes with the chosen one; None where its tempo or its key is out of reach.

    Args:
        key_held: whether the player keeps the key when the tempo changes; else that which it then sounds in
            counts.
    """
    weighed = _weigh(chosen, other, reach, key_held, weights)
    return _told(chosen, other, weighed) if weighed else None


def best_fits(
    chosen: Facts,
    others: Iterable[tuple[int, Facts]],
    most: int,
    reach: Reach = "near",
    key_held: bool = True,
    weights: Weights = USUAL,
) -> list[tuple[int, Fit]]:
    """The tracks that go best with the chosen one, by their ids, the best first: of very many, only these are
    told in words.
    """
    weighed = ((number, each, _weigh(chosen, each, reach, key_held, weights)) for number, each in others)
    found = [(number, other, each) for number, other, each in weighed if each]
    best = sorted(found, key=lambda each: (-each[2].score, each[0]))[:most]
    return [(number, _told(chosen, other, each)) for number, other, each in best]


class _Weighed(NamedTuple):
    """A fit in figures, with how its key is related, and at which metrical level its tempo is met."""

    score: float
    related: str
    change_percent: float | None
    at: str
    cents: float
    heard: Key | None


def _told(chosen: Facts, other: Facts, weighed: _Weighed) -> Fit:
    score, related, change, at, cents, heard = weighed
    reasons = tuple(_reasons(related, change, at, chosen, other))
    return Fit(score, reasons, change, cents, str(heard) if heard else None)


def _weigh(chosen: Facts, other: Facts, reach: Reach, key_held: bool, weights: Weights) -> _Weighed | None:
    change, at = change_of_tempo(chosen.bpm, other.bpm)
    if change is not None and abs(change) > REACH_PERCENT[reach]:
        return None
    key = _parsed(other.key)
    heard, cents = after_tempo_change(key, change) if key and change else (key, 0.0)
    # Of a shift by nearly a semitone most is in the key that is heard; told is the whole of it.
    shift = 1200.0 * math.log2(1.0 + change / 100.0) if change else 0.0
    counted = key if key_held else heard
    related = _related(chosen.key, counted, reach)
    if related is None:
        return None
    if not key_held and abs(cents) > UNHEARD_CENTS * 2:
        related = (f"{related[0]}, {abs(cents):.0f} cents off", related[1] * 0.6)
    parts = [
        (KEY_SAY * weights.key, related[1]),
        (
            TEMPO_SAY * weights.tempo,
            1.0 - abs(change) / 2 / REACH_PERCENT[reach] if change is not None else 0.3,
        ),
        (ENERGY_SAY * weights.energy, _energy(chosen.energy, other.energy)),
        (SOUND_SAY * weights.sound, max(0.0, other.likeness) if other.likeness is not None else 0.3),
    ]
    says = sum(say for say, _ in parts)
    score = sum(say * part for say, part in parts) / says if says else 0.0
    return _Weighed(score, related[0], change, at, shift, heard)


def change_of_tempo(wanted: float | None, bpm: float | None) -> tuple[float | None, str]:
    """Percent by which a track must be faster to meet a tempo, at the metrical level where that is least."""
    if not wanted or not bpm:
        return None, ""
    change, level = min(((wanted * times / bpm - 1.0, times) for times in LEVELS), key=_size)
    return 100.0 * change, LEVELS[level]


def _size(change: tuple[float, float]) -> float:
    return abs(change[0])


def _related(chosen: str | None, key: Key | None, reach: Reach) -> tuple[str, float] | None:
    if chosen is None or key is None:
        return ("key not known", 0.3)
    return _relations(chosen, reach).get(key)


@lru_cache(maxsize=256)
def _relations(chosen: str, reach: Reach) -> dict[Key, tuple[str, float]]:
    return key_relations(parse_key(chosen), reach)


@lru_cache(maxsize=256)
def _parsed(key: str | None) -> Key | None:
    return parse_key(key) if key else None


def _energy(chosen: int | None, other: int | None) -> float:
    if chosen is None or other is None:
        return 0.4
    return max(0.0, 1.0 - abs(other - chosen) / FAR_ENERGY)


def _reasons(related: str, change: float | None, at: str, chosen: Facts, other: Facts) -> Iterator[str]:
    yield related
    if change is None:
        yield "tempo not known"
    elif abs(change) < 0.05:
        yield f"same tempo{at}"
    else:
        yield f"{abs(change):.1f} % {'faster' if change > 0 else 'slower'}{at}"
    if chosen.energy is not None and other.energy is not None:
        more = other.energy - chosen.energy
        yield "same energy" if abs(more) <= 3 else f"energy {'+' if more > 0 else '−'}{abs(more)}"
    if other.likeness is not None and other.likeness > 0.6:
        yield "sounds alike"
