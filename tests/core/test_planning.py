"""Sets are ordered at the least cost with every pin held, and what speaks against a transition is said."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vinyl.core.planning.arc import ArcError, check_arc, energies
from vinyl.core.planning.proposing import By, propose
from vinyl.core.planning.running_order import Pins, PinsError, cost_of, find_order
from vinyl.core.planning.transitions import (
    Handover,
    Rules,
    Stop,
    Weight,
    begins_s,
    cautions_at,
    cautions_between,
    cost,
    transition,
)

RULES = Rules()


def _costs(count: int, seed: int) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    return rng.random((count, count)), rng.random((count, count)) * rng.random()


@given(st.integers(2, 7), st.integers(0, 10**6))
@settings(deadline=None, max_examples=60)
def test_small_sets_are_ordered_as_well_as_can_be(count: int, seed: int) -> None:
    between, at = _costs(count, seed)
    best = min(cost_of(each, between, at) for each in itertools.permutations(range(count)))
    assert cost_of(find_order(between, at), between, at) == pytest.approx(best)


def test_large_sets_come_near_the_optimum_where_it_is_known() -> None:
    rng = np.random.default_rng(3)
    for _ in range(2):
        # Points on a circle: the best way is around it, but for its longest gap.
        angles = rng.permutation(np.linspace(0, 2 * np.pi, 40, endpoint=False))
        place = np.stack([np.cos(angles), np.sin(angles)], axis=1)
        between = np.linalg.norm(place[:, None] - place[None], axis=2)
        order = find_order(between, np.zeros((40, 40)))
        assert cost_of(order, between, np.zeros((40, 40))) < 1.02 * 39 * 2 * np.sin(np.pi / 40)


@st.composite
def _pinned(draw: st.DrawFn) -> tuple[int, Pins]:
    """Pins that some order holds."""
    count = draw(st.integers(2, 14))
    held = draw(st.permutations(range(count)))
    fixed = draw(st.sets(st.integers(0, count - 1)))
    together = draw(st.sets(st.integers(0, count - 2), max_size=6))
    places = {held[place]: place for place in fixed}
    return count, Pins(places, {held[place]: held[place + 1] for place in together})


@given(_pinned(), st.integers(0, 1000))
@settings(deadline=None, max_examples=30)
def test_no_pin_is_ever_broken(pinned: tuple[int, Pins], seed: int) -> None:
    count, pins = pinned
    order = find_order(*_costs(count, seed), pins)
    assert sorted(order) == list(range(count))
    assert all(order[place] == item for item, place in pins.places.items())
    assert all(order[order.index(first) + 1] == then for first, then in pins.followed_by.items())


@pytest.mark.parametrize(
    "pins",
    [
        Pins({0: 1, 1: 1}),
        Pins({0: 0, 1: 3}, {0: 1}),
        Pins({}, {0: 1, 1: 0}),
        Pins({}, {0: 2, 1: 2}),
        Pins({2: 1}, {0: 1}),
        Pins({0: 3}, {0: 1}),
    ],
)
def test_pins_that_contradict_each_other_are_refused(pins: Pins) -> None:
    with pytest.raises(PinsError):
        find_order(*_costs(4 if 3 in pins.places.values() or len(pins.places) != 1 else 3, 1), pins)


def _stops(seed: int, count: int) -> list[Stop]:
    rng = random.Random(seed)
    keys = ["A minor", "E minor", "C major", "D minor", "F# major", "Eb major"]
    return [
        Stop(
            rng.uniform(96, 140), rng.choice(keys), rng.randint(20, 95), 240.0, f"artist {rng.randint(0, 9)}"
        )
        for _ in range(count)
    ]


def test_rising_tempo_rises_and_keeps_what_is_pinned() -> None:
    stops = _stops(1, 20)
    found = propose(stops, "tempo", RULES, (), Pins({4: 0}))
    bpm = [stops[each].bpm or 0 for each in found.order]
    assert found.order[0] == 4 and bpm[1:] == sorted(bpm[1:])
    assert found.cost_after <= found.cost_before


def test_the_arc_is_followed_and_all_weighted_is_between() -> None:
    stops, arc = _stops(2, 30), ((0.0, 30.0), (0.7, 90.0), (1.0, 50.0))

    def off(by: By) -> float:
        order = propose(stops, by, RULES, arc, Pins()).order
        wanted = energies(arc, [place / 29 for place in range(30)])
        return float(
            np.mean([abs((stops[each].energy or 0) - want) for each, want in zip(order, wanted, strict=True)])
        )

    assert off("arc") < off("all") < off("keys")


def test_what_weighs_alone_decides_alone_and_each_joint_tells_its_part() -> None:
    stops, alone = _stops(3, 9), list[Weight](["keys", "tempo"])
    for weight in alone:
        found = propose(stops, "all", RULES, (), Pins(), weights={weight: 1.0})
        steps = [cost(stops[a], stops[b], RULES, {weight: 1.0}) for a, b in itertools.pairwise(found.order)]
        assert found.between_after == pytest.approx(steps)
        assert found.cost_after == pytest.approx(sum(steps)), "no place costs anything"
        assert found.cost_before == pytest.approx(sum(found.between_before))
        assert found.cost_after < found.cost_before
    assert propose(stops, "all", RULES, (), Pins(), weights={}).cost_after == 0.0


def test_sixty_tracks_are_ordered_while_one_waits() -> None:
    found = propose(_stops(5, 60), "all", RULES, ((0.0, 40.0), (1.0, 80.0)), Pins({3: 0}, {7: 8}))
    assert sorted(found.order) == list(range(60)) and found.order[0] == 3
    assert found.cost_after < 0.5 * found.cost_before


def test_a_transition_is_told_as_it_is_heard() -> None:
    faster = transition(Stop(124.0, "A minor", 50), Stop(126.0, "E minor", 58), RULES)
    assert faster.words == ("+1.6 %", "a fifth up", "energy +8")
    half = transition(Stop(87.0, "A minor", 50), Stop(174.0, "A minor", 50), RULES)
    assert half.words == ("+0.0 %, counted in half time", "same key", "energy +0")
    unknown = transition(Stop(None, None, None), Stop(120.0, "A minor", 50), RULES)
    assert unknown.words == ("tempo not known", "key not known")
    # Slowed by six percent without the key being held, a semitone lower is what is heard.
    free = transition(Stop(120.0, "A minor", 50), Stop(127.13, "Bb minor", 50), Rules(key_held=False))
    assert free.relation == "same key"


def test_what_speaks_against_a_transition_is_said_with_what_would_help() -> None:
    def kinds(out: Stop, into: Stop, again: bool = False) -> set[str]:
        return {each.kind for each in cautions_between(out, into, RULES, again)}

    calm = Stop(120.0, "A minor", 50)
    assert kinds(calm, Stop(122.0, "E minor", 52)) == set()
    assert kinds(calm, Stop(140.0, "Eb minor", 20), True) == {"tempo", "key", "energy", "again"}
    (jump,) = cautions_between(calm, Stop(140.0, "A minor", 50), RULES)
    assert jump.words == "+14 % is a jump" and "130 bpm" in jump.help
    late = Stop(
        120.0, "A minor", 50, artist="Kelp Union", lately="20 Nov", never="never again", away=True, doubt=0.6
    )
    found = cautions_at([Stop(120.0, "A minor", 50, artist="kelp union"), calm, late], 2)
    assert {each.kind for each in found} == {"never", "here", "away", "grid", "artist"}
    assert not cautions_at([late, calm, calm, Stop(1.0, None, None, artist="Kelp Union")], 3)


def test_times_come_of_durations_less_overlaps() -> None:
    usual = [Handover(16.0), Handover(400.0)]
    assert begins_s([200.0, 300.0, 100.0], usual) == [0.0, 184.0, 434.0, 534.0]
    said = [Handover(16.0, 170.0, 20.0), Handover(8.0)]
    assert begins_s([200.0, 300.0, 100.0], said) == [0.0, 170.0, 170.0 + 292.0 - 20.0, 542.0]
    assert begins_s([], []) == [0.0] and begins_s([90.0], []) == [0.0, 90.0]


@pytest.mark.parametrize(
    "points", [[(1.2, 50.0)], [(0.5, 101.0)], [(0.1, -1.0)], [(0.0, float("nan"))], [(0.0, 1.0)] * 25]
)
def test_what_is_no_arc_is_refused(points: list[tuple[float, float]]) -> None:
    with pytest.raises(ArcError):
        check_arc(points)
    assert check_arc([(1.0, 20.0), (0.0, 10.0)]) == ((0.0, 10.0), (1.0, 20.0))
