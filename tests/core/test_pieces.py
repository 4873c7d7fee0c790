"""What a stepped tempo is put together from: paths, neighbours, and envelopes too long to hold at once."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.framing import STRETCH, Rows
from vinyl.core.rhythm import tempo
from vinyl.core.rhythm.neighbours import in_octaves, join_same
from vinyl.core.rhythm.paths import best_owner, best_path
from vinyl.core.rhythm.piece import Piece

SIZES = st.tuples(st.integers(1, 6), st.integers(1, 3), st.integers(0, 10_000))


@given(SIZES, st.booleans())
def test_a_path_is_the_best_of_all(size: tuple[int, int, int], changing: bool) -> None:
    times, states, seed = size
    random = np.random.default_rng(seed)
    score = random.normal(size=(times, states))
    cost = random.random((max(times - 1, 0), states, states) if changing else (states, states))

    def worth(path: tuple[int, ...]) -> float:
        paid = (cost[at] if changing else cost for at in range(times - 1))
        gained = sum(score[at, state] for at, state in enumerate(path))
        return float(gained - sum(c[b, a] for c, (a, b) in zip(paid, pairwise(path), strict=True)))

    most = max(map(worth, product(range(states), repeat=times)))
    assert worth(tuple(best_path(score, cost).tolist())) == pytest.approx(most)


@given(SIZES, st.floats(0.0, 3.0))
def test_owners_are_a_path_with_one_price_for_each_change(size: tuple[int, int, int], price: float) -> None:
    times, states, seed = size
    score = np.random.default_rng(seed).normal(size=(times, states))
    changes = price * (1.0 - np.eye(states))

    def worth(path: np.ndarray) -> float:
        return float(score[np.arange(times), path].sum() - price * np.count_nonzero(np.diff(path)))

    assert worth(best_owner(score, price)) == pytest.approx(worth(best_path(score, changes)))


def _piece(start_s: float, end_s: float, bpm: float, phase_s: float = 0.0, drums: float = 1.0) -> Piece:
    return Piece(start_s, end_s, 60.0 / bpm, phase_s, strength=end_s - start_s, alike=0.9, drums=drums)


def _tempi(pieces: list[Piece]) -> list[float]:
    return [round(60.0 / piece.period_s, 6) for piece in pieces]


@pytest.mark.parametrize(
    ("bpm", "found", "wanted"),
    [
        (125.0, [62.5, 250.0, 130.0], [125.0, 125.0, 130.0]),
        (100.0, [100.0, 130.0, 70.0], [100.0, 130.0, 140.0]),  # half a step is less than an octave
        (125.0, [170.0, 85.0, 170.0], [170.0, 170.0, 170.0]),
        (120.0, [], []),
    ],
)
def test_pieces_are_counted_in_the_octaves_that_change_least(
    bpm: float, found: list[float], wanted: list[float]
) -> None:
    pieces = [_piece(30.0 * at, 30.0 * at + 30.0, each) for at, each in enumerate(found)]
    assert _tempi(in_octaves(bpm, pieces)) == wanted


def test_tempi_that_rise_all_the_time_stay_within_an_octave_of_the_track() -> None:
    rising = [_piece(30.0 * at, 30.0 * at + 30.0, 100.0 * 2 ** (0.3 * at)) for at in range(20)]
    assert all(50.0 < bpm < 200.0 for bpm in _tempi(in_octaves(100.0, rising)))


@pytest.mark.parametrize(
    ("second", "count"),
    [
        (_piece(30.0, 60.0, 120.0, phase_s=30.0), 1),
        (_piece(30.0, 60.0, 120.0, phase_s=30.125), 1),  # a quarter of a beat apart
        (_piece(30.0, 60.0, 120.0, phase_s=30.08), 2),
        (_piece(30.0, 60.0, 121.0, phase_s=30.0), 2),
        (_piece(30.0, 60.0, 120.0, phase_s=30.08, drums=0.1), 1),  # without drums a phase says nothing
        (replace(_piece(30.0, 60.0, 120.5, phase_s=30.08), alike=0.5), 1),
    ],
)
def test_neighbours_are_one_where_nothing_sure_parts_them(second: Piece, count: int) -> None:
    joined = join_same([_piece(0.0, 30.0, 120.0), second])
    assert len(joined) == count
    assert (joined[0].start_s, joined[-1].end_s) == (0.0, 60.0)
    assert sum(piece.strength for piece in joined) == 60.0


def test_a_long_piece_without_drums_takes_the_beat_of_a_short_one_with_them() -> None:
    long = _piece(0.0, 90.0, 120.0, phase_s=0.1, drums=0.2)
    (joined,) = join_same([long, _piece(90.0, 120.0, 120.0, phase_s=90.0)])
    assert joined.phase_s % 0.5 == pytest.approx(0.0, abs=1e-9) and joined.has_drums
    assert (joined.start_s, joined.end_s) == (0.0, 120.0)


def test_a_long_envelope_repeats_as_each_of_its_stretches_does(monkeypatch: pytest.MonkeyPatch) -> None:
    beats = np.tile(np.eye(1, 86)[0], 400)
    whole = tempo.autocorrelation(beats)
    monkeypatch.setattr(tempo, "STRETCH", 9000)
    parts = tempo.autocorrelation(beats)
    assert len(whole) == len(beats) and len(parts) == len(beats) / 4
    assert np.abs(parts[:6000] - whole[:6000]).max() < 0.03
    assert parts[0] == 1.0 and parts[86 * 32] > 0.9 > 0.1 > parts[43]


@given(st.lists(st.integers(0, 2 * STRETCH), min_size=0, max_size=4))
def test_rows_come_back_as_they_came(counts: list[int]) -> None:
    rows, given_rows, at = Rows(np.float32), [np.zeros((0, 2), np.float32)], 0
    for count in counts:
        given_rows.append(np.arange(2 * at, 2 * (at + count), dtype=np.float32).reshape(-1, 2))
        rows.add(given_rows[-1])
        at += count
    assert np.array_equal(rows.join(2), np.concatenate(given_rows))
