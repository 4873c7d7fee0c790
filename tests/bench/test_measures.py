"""The bench's own measures, on answers whose marks are known."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from vinyl.bench import agreement as asked
from vinyl.bench import level_weights
from vinyl.bench.key_weights import fit_weights
from vinyl.bench.material import Rhythmic, Tonal
from vinyl.bench.rhythm import Tracked, measure_rhythm
from vinyl.bench.run import as_table
from vinyl.bench.tonal import Heard, measure_keys
from vinyl.core.rhythm.level import level_chances

SILENCE = np.zeros((2, 44100 * 60), np.float32)
BEATS_S = np.arange(0.0, 60.0, 0.5)
PIECE = Rhythmic(
    "piece",
    "club",
    SILENCE,
    120.0,
    "steady",
    BEATS_S,
    BEATS_S[::4],
    ((0.0, "intro"), (16.0, "main"), (32.0, "break")),
)


def marks(tracked: Tracked) -> dict[str, Any]:
    figures: dict[str, Any] = measure_rhythm([PIECE], {"it": lambda samples: tracked})["it"]["club"]
    return figures


def test_a_perfect_answer_gets_full_marks() -> None:
    found = marks(Tracked(120.0, BEATS_S, BEATS_S[::4], "steady", [0.0, 16.0, 32.0], 0.05))
    for name in (
        "tempo within 4%",
        "constant within 0.05 bpm",
        "beat F",
        "grid right, constant",
        "downbeat F",
        "course right",
        "section F",
    ):
        assert found[name] == 1.0, name
    assert found["median |offset| ms"] == 0.0 and found["right where doubt < 0.1"] == 1.0


def test_each_kind_of_error_costs_its_own_mark() -> None:
    late = marks(Tracked(120.0, BEATS_S + 0.04, BEATS_S[::4] + 0.04, "steady"))
    assert (late["beat F"], late["grid right, constant"], late["offset bias ms"]) == (1.0, 0.0, 40.0)
    half = marks(Tracked(60.0, BEATS_S[::2], BEATS_S[::4], "steady"))
    assert (half["tempo within 4%"], half["within 4% or an octave"], half["grid right, constant"]) == (
        0.0,
        1.0,
        0.0,
    )
    off = marks(Tracked(120.0, BEATS_S + 0.25, BEATS_S[::4] + 0.25, "elastic"))
    assert (off["tempo within 4%"], off["beat F"], off["course right"]) == (1.0, 0.0, 0.0)
    shifted = marks(Tracked(120.0, BEATS_S, BEATS_S[2::4], "steady", [0.0, 16.0, 40.0]))
    assert shifted["beat F"] == 1.0 and shifted["downbeat F"] == 0.0 and shifted["section F"] == 0.5
    assert marks(Tracked(0.0, np.zeros(0), np.zeros(0), "none"))["beat F"] == 0.0


@pytest.mark.parametrize(
    ("heard", "weighted"),
    [
        ("Bb minor", 1.0),
        ("F minor", 0.5),
        ("Eb minor", 0.5),
        ("Db major", 0.3),
        ("Bb major", 0.2),
        ("B minor", 0.0),
        (None, 0.0),
    ],
)
def test_keys_are_weighed_by_their_distance(heard: str | None, weighted: float) -> None:
    piece = Tonal("piece", "club tuned", SILENCE, "A minor", 49.0)
    found = measure_keys([piece], {"it": lambda samples: Heard(heard, -48.0, 0.95)})["it"]["development set"]
    assert (found["weighted"], found["exact"], found["called none"]) == (
        weighted,
        float(weighted == 1.0),
        int(heard is None),
    )
    assert found["tuning within 8 cents"] == 1.0, "49 cents high is 51 cents low of the next key"


def test_confidence_is_judged_by_how_it_orders_right_and_wrong_keys() -> None:
    said = (("A minor", 0.9), ("A minor", 0.6), ("C major", 0.7), ("C major", 0.3))
    answers = iter([Heard(key, 0.0, sure) for key, sure in said])
    pieces = [Tonal("piece", "club", SILENCE, "A minor", 0.0)] * 4
    found = measure_keys(pieces, {"it": lambda samples: next(answers)})["it"]["club"]
    assert found["confidence: right above wrong"] == 0.75


def test_a_tuning_moves_with_its_piece_wherever_the_piece_lies() -> None:
    answers = iter([Heard("A minor", cents, 1.0) for cents in (10.0, 40.0, -49.0, 30.0)])
    pieces = [Tonal("choir", "choral", SILENCE, "A minor", cents) for cents in (0.0, 30.0, 41.0, 0.0)]
    found = measure_keys(pieces, {"it": lambda samples: next(answers)})["it"]["choral"]
    assert found["tuning moves with the piece, within 5 cents"] == 0.75
    assert found["tuning within 5 cents"] == 0.0


def test_answers_to_disguised_music_are_the_same_where_the_disguise_alone_moved_them() -> None:
    """Beats are cut and hastened with the sound, and a key comes out half a semitone higher, which tuning
    tells; a grid 20 ms late and another key are other answers.
    """
    beats_s = np.arange(20.0, 59.0, 0.5)
    plain = asked.Heard(beats_s, beats_s[::4], "steady", "C major", 0.0, 50, beats_s[::16], 0.05)
    answers = iter(
        [
            plain,
            replace(plain, beats_s=beats_s - 17, bars_s=beats_s[::4] - 17, sections_s=beats_s[::16] - 17),
            replace(
                plain,
                beats_s=beats_s / 1.03,
                bars_s=beats_s[::4] / 1.03,
                sections_s=beats_s[::16] / 1.03,
                key="Db major",
                tuning_cents=-49.0,
            ),
            plain,
            replace(plain, beats_s=beats_s + 0.02, key="A minor", energy=41),
            plain,
        ]
    )
    found = asked.measure_agreement([SILENCE], {"it": lambda samples: next(answers)})["it"]
    same = {kind: (row["same grid"], row["same bars"], row["same key"]) for kind, row in found.items()}
    assert same.pop("dull and quiet") == (0.0, 1.0, 0.0) and same.pop("all of them") == (0.0, 1.0, 0.0)
    assert set(same.values()) == {(1.0, 1.0, 1.0)} and len(same) == 4
    assert found["dull and quiet"]["energy differs, 95%"] == 9.0
    assert all(row["section F"] == 1.0 for row in found.values())


def test_a_section_is_not_missed_that_begins_where_the_first_bar_of_a_cut_file_does() -> None:
    plain = asked.Heard(np.arange(60.0), sections_s=np.array([0.0, 18.0, 40.0]))
    cut = replace(plain, sections_s=np.array([1.0, 23.0]))
    answers = iter([plain, cut, *[plain] * 4])
    found = asked.measure_agreement([SILENCE], {"it": lambda samples: next(answers)})["it"]
    assert found["17 s cut off"]["section F"] == found["mono"]["section F"] == 1.0
    assert found["3% faster"]["section F"] == 0.5


def test_the_weights_of_a_level_come_back_from_the_levels_they_chose() -> None:
    random = np.random.default_rng(4)
    weights = np.array([[-1.0, 2.0, -6.0, 0.0, 1.0, 3.0], [0.0, -4.0, 5.0, 2.0, -1.0, 0.0]])
    evidence = np.hstack([np.ones((4000, 1)), random.normal(size=(4000, 5))])
    chances = level_chances(evidence, weights)
    places = (chances.cumsum(axis=1) < random.random((4000, 1))).sum(axis=1)
    found = level_weights.fit_weights(evidence, places, np.ones(4000))
    assert np.abs(found - weights).max() < 0.8


def test_weights_come_back_from_the_keys_they_chose() -> None:
    random = np.random.default_rng(2)
    evidence, weights = random.standard_normal((4000, 24, 3)), np.array([2.0, 0.5, 1.0])
    chosen = (evidence @ weights + random.gumbel(size=(4000, 24))).argmax(axis=1)
    np.testing.assert_allclose(fit_weights(evidence, chosen, np.ones(4000)), weights, atol=0.15)


def test_the_table_has_a_column_for_each_kind_and_a_dash_for_what_was_not_asked() -> None:
    table = as_table(
        {
            "rhythm": {"it": {"club": marks(Tracked(120.0, BEATS_S))}},
            "speed": {"song": {"times real time": 150.0}},
        }
    )
    assert "### Rhythm, it" in table and "| figure | club |" in table
    assert "| beat F | 1.0 |" in table and "downbeat F" not in table
    assert "| song | times real time: 150.0 |" in table
