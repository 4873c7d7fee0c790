"""Nights: told apart and together, beside each other, coming again, as typed, and what follows from them."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.logbook.beside import Shared, repeated_pairs, shared_tracks
from vinyl.core.logbook.clock_times import Moment, order_of, past_midnight, read_clock, read_moment
from vinyl.core.logbook.next_list import Judged, Role, judge, role_reasons, role_score
from vinyl.core.logbook.nights import split_nights, why_practice
from vinyl.core.logbook.recurring import Evening, Weekly, find_weekly, met_by, next_date
from vinyl.core.logbook.same_night import Played, Together, put_together
from vinyl.core.logbook.typed import TypedLine, read_lines

NAMES = st.lists(st.sampled_from("abcdefgh"), min_size=1, max_size=12)


def night(names: str, start_s: float = 0.0, step_s: float = 300.0, timed: bool = True) -> list[Played]:
    return [Played(name, start_s + step_s * i if timed else None) for i, name in enumerate(names)]


def test_pauses_part_nights_and_few_or_short_plays_look_like_practice() -> None:
    assert split_nights([0, 300, 600, 9000, 9100]) == [range(3), range(3, 5)]
    assert split_nights([]) == []
    assert why_practice(12, 5400, 300) == ()
    assert why_practice(3, 600, 40) == ("3 tracks", "10 min long", "tracks were heard for 40 s")


def test_one_night_told_twice_is_one_and_two_nights_are_two() -> None:
    whole = night("abcdefgh")
    assert put_together(whole, night("abcdefgh", timed=False)).shared == 8  # type: ignore[union-attr]
    # A list with one left out and one more; its own stands after what both have before it.
    told = put_together(whole, night("abcxefgh", timed=False))
    assert told and told.shared == 7
    assert told.order[3:5] in (((3, None), (None, 3)), ((None, 3), (3, None)))
    # The next night with half of the same, and a night at another time in another rhythm.
    assert put_together(whole, night("axbycz", timed=False)) is None
    assert put_together(whole, night("abcdefgh", 86_400.0, 380.0)) is None


def test_two_players_of_one_night_are_put_together_by_time() -> None:
    told = put_together(night("ace", 0, 600), night("bdf", 300, 600))
    assert told == Together(((0, None), (None, 0), (1, None), (None, 1), (2, None), (None, 2)))
    # The same plays by both count once, though they began seconds apart.
    linked = put_together(night("abc"), [Played("b", 303.0), Played("c", 599.0)])
    assert linked and linked.shared == 2 and len(linked.order) == 3


def test_a_clock_that_was_set_wrong_is_set_right() -> None:
    told = put_together(night("abcdefgh"), night("abcdefgh", 36_000.0))
    assert told and (told.clock_off_s, told.shared) == (36_000.0, 8)


@given(NAMES, NAMES, st.booleans(), st.booleans(), st.floats(0, 4000))
def test_nothing_is_lost_and_nothing_twice(
    first: list[str], second: list[str], timed: bool, also: bool, later_s: float
) -> None:
    there, coming = night("".join(first), timed=timed), night("".join(second), later_s, timed=also)
    told = put_together(there, coming)
    if told:
        assert sorted(a for a, _ in told.order if a is not None) == list(range(len(there)))
        assert sorted(b for _, b in told.order if b is not None) == list(range(len(coming)))
        assert all(there[a].name == coming[b].name for a, b in told.order if a is not None and b is not None)


def test_two_nights_beside_each_other() -> None:
    found = shared_tracks(list("abcdx"), list("dabya"))
    assert found == [Shared(0, 1, True), Shared(1, 2, True), Shared(3, 0, False)]
    assert repeated_pairs(["abc", "abd", "xab"]) == [(("a", "b"), 3)]


def test_what_comes_again_is_found_and_met_also_after_midnight() -> None:
    friday = date(2026, 11, 20)
    evenings = [Evening(1, friday - timedelta(7 * back), 21 * 60 + back) for back in range(4)]
    evenings += [Evening(2, friday - timedelta(40 * back), 1200) for back in range(4)]
    weekly = find_weekly(evenings)
    assert weekly == [Weekly(1, 4, 21 * 60)]
    assert met_by(weekly, date(2026, 11, 27), 21 * 60 + 40) == weekly[0]
    assert met_by([Weekly(3, 4, 23 * 60)], date(2026, 11, 28), 30) == Weekly(3, 4, 23 * 60)
    assert met_by(weekly, date(2026, 11, 26), 21 * 60) is None
    assert (next_date(4, friday), next_date(4, date(2026, 11, 26))) == (
        date(2026, 11, 27),
        date(2026, 11, 27),
    )


def test_lines_are_read_as_people_type_them() -> None:
    text = "Friday\n\n1. 21:00 Ilva Dune – Warm Engine Room\n\n[22.10] Rigging\n3) Kelp Union - Halyard - Dub"
    text += "\n23:11 ...\nID"
    assert read_lines(text) == [
        TypedLine(1260, "Ilva Dune", "Warm Engine Room"),
        TypedLine(1330, "", "Rigging"),
        TypedLine(None, "Kelp Union", "Halyard - Dub"),
    ]


def test_a_double_spaced_paste_keeps_its_first_line_and_half_days_are_times() -> None:
    paste = "21:00 Ilva Dune – Rigging\n\n21:05 Kelp Union – Halyard\n\n21:10 Nils Weir – Bollard"
    assert [line.title for line in read_lines(paste)] == ["Rigging", "Halyard", "Bollard"]
    assert [line.title for line in read_lines(f"Friday\n\n{paste}")] == ["Rigging", "Halyard", "Bollard"]
    for text in (
        "9:30 PM Anna – Tide",
        "[9:30 pm] Anna – Tide",
        "21:30 - Anna – Tide",
        "3) 21.30 Anna – Tide",
    ):
        assert read_lines(text) == [TypedLine(1290, "Anna", "Tide")]
    assert read_lines("99 Anna – Tide") == [TypedLine(None, "99 Anna", "Tide")]


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("21:09", 76_140),
        ("9:09 pm", 76_140),
        ("0:04:12", 252),
        ("12:00 am", 0),
        ("9 PM", 75_600),
        ("13:00 pm", None),
        ("21", None),
        ("later", None),
        ("10:75", None),
    ],
)
def test_times_of_day(text: str, seconds: float | None) -> None:
    assert read_clock(text) == seconds


def test_moments_and_midnight() -> None:
    at = datetime(2026, 11, 20, 21, 9)
    for text in ("2026-11-20 21:09", "20.11.2026 21:09", "20 Nov 2026 9:09 pm", "November 20th, 2026 21.09"):
        assert (found := read_moment(text)) and found.at == at
    assert read_moment("2026-11-20T21:09+02:00").at.utcoffset() == timedelta(hours=2)  # type: ignore[union-attr]
    assert read_moment("12.11.26") == Moment(date(2026, 11, 12))
    for text in ("21:09", "99.99.2026 21:09", "29.02.2026", "20.11.2026 nonsense"):
        assert read_moment(text) is None
    assert past_midnight([82_800, None, 300, 600]) == [82_800, None, 86_700, 87_000]
    assert past_midnight([600, 1200], 84_600) == [87_000, 87_600]
    assert past_midnight([68_400, 600], 72_000) == [68_400, 87_000], "before the doors opened"


def test_days_and_months_of_a_file_stand_in_one_order() -> None:
    assert order_of(["11/12/2026 22:00", "11/13/2026"]) == "month first"
    assert order_of(["11/12/2026", "13.12.2026"]) == order_of(["1.2.2026", ""]) == "day first"
    assert read_moment("11/12/2026", "month first") == Moment(date(2026, 11, 12))


def test_the_next_list_keeps_what_went_well_and_replaces_a_share_of_the_rest() -> None:
    plays = [
        Judged("well"),
        Judged("flat"),
        Judged(never=True),
        *[Judged(lately=n) for n in (1, 4, 1, 1, 1, 1, 1)],
    ]
    fates = [verdict.fate for verdict in judge(plays, 0.2)]
    assert (fates[0], fates[1], fates[2]) == ("keep", "replace", "drop")
    assert fates.count("replace") == 2 and judge(plays, 0.2)[4].reason == "played here 4 times lately"
    assert "keep" not in {verdict.fate for verdict in judge(plays[1:], 1.0)}


def test_a_role_is_tempo_energy_and_tags() -> None:
    wanted = Role(124, 60, "A minor", frozenset({1, 2}))
    other = Role(125, 62, "E minor", frozenset({1}))
    near, far = role_score(wanted, other), role_score(wanted, Role(127, 75, "Eb major"))
    assert near and far and near > far
    assert role_reasons(wanted, other, {1: "Warm"}) == ("tempo +1.0", "same energy", "also Warm", "key fits")
    assert role_score(wanted, Role(140, 60, "A minor")) is None
    assert role_score(wanted, Role(124, 90, "A minor")) is None
