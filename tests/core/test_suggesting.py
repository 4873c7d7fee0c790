"""What comes next is weighed by all that is known, said in words, and filtered by what is asked for."""

from __future__ import annotations

import random
from dataclasses import replace
from typing import Any

import pytest

from vinyl.core.planning.fitting import Facts, Fit, Weights, best_fits, fit
from vinyl.core.planning.suggesting import Evidence, Filter, passes, suggest

FIT = Fit(0.6, ("same key", "1.0 % faster"), 1.0, 17.0, "A minor")


def _score(**known: Any) -> float:
    return suggest(FIT, Evidence(**known)).score


def test_what_speaks_for_a_track_raises_it_and_what_speaks_against_it_lowers_it() -> None:
    assert _score() == pytest.approx(FIT.score)
    for known in (
        {"tags": ("Warm",), "tags_share": 0.5},
        {"together": 1},
        {"stars": 4},
        {"energy_step": 8},
        {"same_backing": True},
    ):
        assert _score(**known) > FIT.score, known
    assert _score(together=2, went_well=2) > _score(together=1, went_well=1) > FIT.score
    assert _score(together=1, fell_flat=1) < FIT.score
    assert _score(lately="20 Nov", tags_share=1.0, together=2) < FIT.score, "what was played there waits"
    assert _score(energy_step=40) == FIT.score == _score(energy_step=-5), "a leap and a fall are no rise"


def test_reasons_and_doubts_are_said_in_words() -> None:
    known = Evidence(("Peak", "Strings", "Vocal", "Warm"), 0.5, 2, 2, 0, "20 Nov", 5, 0.7, True, 3)
    found = suggest(FIT, known)
    assert found.reasons == (
        *FIT.reasons,
        "also Peak, Strings, Vocal",
        "the same backing",
        "you played them together twice, it went well",
    )
    assert found.doubts == ("played here 20 Nov",)
    flat = suggest(FIT, Evidence(together=3, fell_flat=2, went_well=1))
    assert flat.doubts == ("it fell flat after this one",) and "3 times" in flat.reasons[-1]


@pytest.mark.parametrize(
    ("wanted", "let_in", "kept_out"),
    [
        ("rises", {"energy_step": 5}, {"energy_step": 0}),
        ("rises", {"energy_step": 15}, {"energy_step": None}),
        ("sounds alike", {"likeness": 0.8}, {"likeness": 0.3}),
        ("sounds alike", {"likeness": 0.6}, {"likeness": None}),
        ("not here lately", {}, {"lately": "20 Nov"}),
    ],
)
def test_each_filter_lets_in_what_it_asks_for(
    wanted: Filter, let_in: dict[str, Any], kept_out: dict[str, Any]
) -> None:
    assert passes(FIT, Evidence(**let_in), frozenset({wanted}), 6.0)
    assert not passes(FIT, Evidence(**kept_out), frozenset({wanted}), 6.0)
    assert passes(FIT, Evidence(**kept_out), frozenset(), 6.0), "no filter keeps nothing out"


def test_tempo_and_key_that_are_not_known_pass_no_filter_that_asks_for_them() -> None:
    unknown = replace(FIT, change_percent=None, reasons=("key not known", "tempo not known"))
    asked: tuple[Filter, ...] = ("tempo in reach", "key fits")
    for wanted in asked:
        assert passes(FIT, Evidence(), frozenset({wanted}), 6.0)
        assert not passes(unknown, Evidence(), frozenset({wanted}), 6.0)
    assert not passes(replace(FIT, change_percent=-6.1), Evidence(), frozenset({"tempo in reach"}), 6.0)


def test_what_the_user_makes_weigh_more_comes_first() -> None:
    chosen = Facts(124.0, "A minor", 60)
    alike = Facts(124.0, "A minor", 90, likeness=0.9)
    near = Facts(124.0, "A minor", 60, likeness=0.2)

    def first(weights: Weights) -> str:
        scores = [(fit(chosen, each, weights=weights) or FIT).score for each in (alike, near)]
        assert all(0.0 <= score <= 1.0 for score in scores)
        return "alike" if scores[0] > scores[1] else "near"

    assert first(Weights(sound=2.0, energy=0.5)) == "alike" and first(Weights(sound=0.5)) == "near"
    nights = Evidence(together=2, went_well=2)
    assert suggest(FIT, nights, Weights(nights=0.0)).score == suggest(FIT, Evidence()).score
    assert suggest(FIT, nights, Weights(nights=2.0)).score > suggest(FIT, nights).score
    nothing = fit(chosen, near, weights=Weights(0, 0, 0, 0, 0, 0))
    assert nothing and nothing.score == 0.0


@pytest.mark.parametrize("held", [True, False])
def test_the_best_of_many_are_what_each_is_by_itself(held: bool) -> None:
    rng = random.Random(7)
    names = [f"{tonic} {mode}" for tonic in ("A", "C", "E", "F#") for mode in ("minor", "major")]
    measures = ((rng.uniform(58, 260), rng.choice(names), rng.randint(1, 99)) for _ in range(400))
    others = [Facts(*(rng.choice([None, value]) for value in each)) for each in measures]
    chosen = Facts(124.0, "A minor", 50)
    fits = [(number, fit(chosen, each, "wide", held)) for number, each in enumerate(others)]
    best = sorted(((number, each) for number, each in fits if each), key=lambda e: (-e[1].score, e[0]))
    assert len(best) > 60 and best_fits(chosen, enumerate(others), 60, "wide", held) == best[:60]
