"""A running order proposed for a set: by tempo, by keys, by the arc that is wanted, or by all of it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vinyl.core.planning.arc import Point, energies
from vinyl.core.planning.running_order import Costs, Pins, cost_of, find_order
from vinyl.core.planning.transitions import Rules, Stop, Weight, cost

By = Literal["tempo", "keys", "arc", "all"]
# What is weighed by each. Rising tempo is a matter of places more than of transitions.
WEIGHTS: Mapping[By, Mapping[Weight, float]] = {
    "tempo": {"rise": 0.1},
    "keys": {"keys": 1.0, "tempo": 0.3},
    "arc": {"arc": 1.0, "tempo": 0.2, "keys": 0.1},
    "all": {"tempo": 0.5, "keys": 0.5, "arc": 0.6, "rise": 0.2},
}
# Energy away from the arc that costs as much as a transition that a DJ minds.
OFF_ARC = 20.0


@dataclass(frozen=True, slots=True)
class Proposal:
    """Places of the stops in the order that is proposed; what the order there was costs, and this; and what
    each transition of either costs.
    """

    order: tuple[int, ...]
    cost_before: float
    cost_after: float
    between_before: tuple[float, ...]
    between_after: tuple[float, ...]


def propose(
    stops: Sequence[Stop],
    by: By,
    rules: Rules,
    arc: Sequence[Point],
    pins: Pins,
    shares: Sequence[float] | None = None,
    weights: Mapping[Weight, float] | None = None,
) -> Proposal:
    """Propose an order for stops, or for a stretch of a set.

    Args:
        shares: the share of the night that is over at each place; evenly from 0 to 1 if not given.
        weights: what each is to say, in place of what is usual where all is weighed.

    Raises:
        PinsError: if the pins contradict each other.
    """
    if len(stops) < 2:
        return Proposal(tuple(range(len(stops))), 0.0, 0.0, (), ())
    weights = weights if weights is not None and by == "all" else WEIGHTS[by]
    between = np.array([[cost(out, into, rules, weights) for into in stops] for out in stops])
    at = _at_places(stops, weights, arc, np.linspace(0.0, 1.0, len(stops)) if shares is None else shares)
    if by == "tempo":
        at = at + _by_tempo(stops)
    order = find_order(between, at, pins)
    before = range(len(stops))
    return Proposal(
        tuple(order),
        cost_of(before, between, at),
        cost_of(order, between, at),
        _steps(before, between),
        _steps(order, between),
    )


def _steps(order: Sequence[int], between: Costs) -> tuple[float, ...]:
    """What each transition of an order costs."""
    return tuple(float(between[out, into]) for out, into in itertools.pairwise(order))


def _at_places(
    stops: Sequence[Stop],
    weights: Mapping[Weight, float],
    arc: Sequence[Point],
    shares: Sequence[float] | NDArray[np.float64],
) -> Costs:
    """What it costs to have each stop at each place: how far its energy is from the arc's, (n, n)."""
    wanted = energies(arc, [float(share) for share in shares])
    energy = np.array([np.nan if stop.energy is None else stop.energy for stop in stops])
    off = (energy[:, None] - wanted[None, :]) / OFF_ARC
    return np.nan_to_num(weights.get("arc", 0.0) * off**2)


def _by_tempo(stops: Sequence[Stop]) -> Costs:
    """What keeps stops in the order of their tempi, those without one where they are."""
    count = len(stops)
    bpm = np.array([np.nan if not stop.bpm else stop.bpm for stop in stops])
    rank = np.where(
        np.isnan(bpm), np.arange(count), np.argsort(np.argsort(bpm, kind="stable"), kind="stable")
    )
    costs: Costs = (rank[:, None] - np.arange(count)[None, :]) ** 2 / count
    return costs
