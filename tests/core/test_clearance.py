"""Clearance: what the rulings on tracks mean for a recording, and rulings read from tables of any hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.planning.clearance import (
    STATES,
    Ruling,
    caution_of,
    parse_places,
    parse_state,
    publication,
    together,
)
from vinyl.exchange.errors import ListError
from vinyl.exchange.rights.table import Recording, read_rulings, write_rulings

FREE, UNKNOWN, MUTED = Ruling("free"), Ruling(), Ruling("muted")
BLOCKED, IN_TWO = Ruling("blocked"), Ruling("blocked", ("Ostmark", "Skerries"))
TABLE = """Status;Song;Performer;Countries;Checked on
cleared;Tide (Original Mix);ILVA DUNE;;2026-11-02
block;Pier;Osk & Maren;Ostmark| Skerries;2.11.2026
perhaps;Gull;Osk & Maren;;
muted;;;;
"""
words = st.text(st.sampled_from("abcäß '=-@;,\"\t"), max_size=8).map(lambda text: " ".join(text.split()))


@pytest.mark.parametrize(
    ("rulings", "may", "said"),
    [
        ([FREE, Ruling("shared income")], "yes", ("income of one track shared",)),
        ([FREE, IN_TWO], "not everywhere", ("not in Ostmark, Skerries",)),
        ([FREE, MUTED, MUTED], "not everywhere", ("silent while 2 tracks play",)),
        ([IN_TWO, UNKNOWN], "not known", ("not in Ostmark, Skerries", "nothing known of one track")),
        ([BLOCKED, UNKNOWN], "no", ("one track blocked everywhere", "nothing known of one track")),
        ([], "not known", ()),
    ],
)
def test_one_track_decides_for_the_whole_recording(
    rulings: list[Ruling], may: str, said: tuple[str, ...]
) -> None:
    found = publication(rulings)
    assert (found.may, found.words) == (may, said)


def test_of_several_words_on_a_track_the_gravest_holds_where_any_says_so() -> None:
    several = [
        FREE,
        Ruling("blocked", ("Ostmark",), "until May"),
        Ruling("blocked", ("ostmark", "Skerries"), "ask"),
    ]
    found = together(several)
    assert (found.state, found.places, found.condition) == (
        "blocked",
        ("Ostmark", "Skerries"),
        "until May; ask",
    )
    assert together([*several, BLOCKED]).places == (), "everywhere is more than in two countries"
    assert caution_of(found) == "blocked in Ostmark, Skerries in a recording"
    assert caution_of(FREE) == caution_of(UNKNOWN) == ""


def test_a_table_of_any_hand_is_read_and_what_is_not_understood_is_told() -> None:
    found = read_rulings(TABLE, "a label’s letter")
    assert found.of(Recording("Ilva Dune", "Tide")) == Ruling(
        "free", (), "", "a label’s letter", "2026-11-02"
    )
    pier = found.of(Recording("osk & Maren", "Pier"))
    assert pier is not None and pier.places == ("Ostmark", "Skerries") and pier.on_day == ""
    assert found.of(Recording("Osk & Maren", "Gull")) is None
    assert list(found.notes) == [
        "row 3: its date “2.11.2026” is not written as 2026-11-27",
        "row 4: “perhaps” is no state",
        "row 5: no title with an artist, and no ISRC",
    ]
    for hostile in ("", "a,b\n1,2\n", "state\nfree\n"):
        with pytest.raises(ListError):
            read_rulings(hostile, "x")
    by_code = read_rulings("ISRC,state\nxx-abc-26-00001,blocked\n", "x")
    assert by_code.of(Recording("Whoever", "Whatever", "XXABC2600001")) == Ruling("blocked", source="x")


@given(st.lists(st.builds(Ruling, st.sampled_from(STATES), st.just(("Ostmark",)), words, words), max_size=4))
def test_a_written_table_reads_the_same(rulings: list[Ruling]) -> None:
    told = [(Recording(f"Artist {place}", "Tide"), ruling) for place, ruling in enumerate(rulings)]
    found = read_rulings(write_rulings([(Recording("Other", "Tide"), FREE), *told]), "")
    assert [found.of(recording) for recording, _ in told] == rulings
    assert not found.notes


def test_words_for_states_and_places() -> None:
    assert [parse_state(each) for each in (" OK ", "Shared", "", "nonsense")] == [
        "free",
        "shared income",
        "unknown",
        None,
    ]
    assert parse_places(" Ostmark; the  Skerries,ostmark ,") == ("Ostmark", "the Skerries")
