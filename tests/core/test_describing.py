"""Edits of texts, genre words, limits in plain words, and what fits."""

from __future__ import annotations

import string
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vinyl.core.planning.fitting import Facts, fit
from vinyl.core.rules.conditions import (
    Added,
    AllOf,
    Between,
    Condition,
    InList,
    Is,
    KeyIs,
    Lately,
    NoneOf,
    PlayedAt,
    Tagged,
    TextIs,
    validate,
)
from vinyl.core.rules.genre_words import genre_words, spelling_key, styles_of
from vinyl.core.rules.phrases import Known, Limit, limits
from vinyl.core.rules.text_edits import Replace, TextEditError, clean_spaces, in_case, split_name
from vinyl.core.tonal.key import parse_key

KNOWN = Known(
    tags=[(3, "Vocal"), (7, "Peak time")],
    lists=[(5, "Friday")],
    backings=[],
    texts=lambda field, begun: [t for t in ("Halden Pier", "House") if t.lower().startswith(begun.lower())],
    today=date(2026, 11, 25),
    venues=[(4, "Große Straße"), (6, "Café Ø")],
)


@pytest.mark.parametrize(
    ("typed", "words", "condition"),
    [
        ("tempo 120 to 126", "tempo 120 to 126", Between("bpm", 120, 126)),
        ("tempo 126-120", "tempo 126 to 120", Between("bpm", 120, 126)),
        ("tempo 124", "tempo 124", Between("bpm", 124, 124.99)),
        ("length 3:00 to 6:30", "length 3:00 to 6:30", Between("duration_s", 180, 390)),
        ("energy over 60", "energy over 60", Between("energy", 60, None)),
        ("loudness under -9", "loudness under -9", Between("lufs", None, -9)),
        ("key fits A min", "key fits A minor", KeyIs("A minor")),
        ("key 8A", "key A minor", KeyIs("A minor", fits=False)),
        ("added this month", "added this month", Added("2026-11", None)),
        ("added in the last 7 days", "added in the last 7 days", Lately("added_at", 7)),
        ("added before 2026-03", "added before 2026-03", Added(None, "2026-03")),
        ("played never", "played never", Between("plays", None, 0)),
        ("played not for 4 weeks", "played not for 4 weeks", NoneOf((Lately("last_played", 28),))),
        ("without cues", "without cues", Between("cue_count", None, 0)),
        ("never ag", "never again", Is("never again")),
        ("tag peak", "tag Peak time", Tagged(7)),
        ("voc", "tag Vocal", Tagged(3)),
        ("without tag voc", "without tag Vocal", NoneOf((Tagged(3),))),
        ("artist hal", "artist Halden Pier", TextIs("artist", "Halden Pier", "is")),
        ("style ho", "style House", TextIs("genre", "House", "is")),
        ("in crate fri", "in crate Friday", InList(5)),
        ("not in crate fri", "not in crate Friday", NoneOf((InList(5),))),
        ("bitrate over 256", "bitrate over 256", Between("bit_rate", 256_000, None)),
        ("style is not ho", "style is not House", NoneOf((TextIs("genre", "House", "is"),))),
        (
            "title does not contain dub",
            "title does not contain dub",
            NoneOf((TextIs("title", "dub", "contains"),)),
        ),
        ("with an in", "with an in point", Is("in point")),
        ("tempo by h", "tempo by hand", Is("tempo by hand")),
        ("sound cl", "sound clipped", Is("clipped")),
        ("played at grosse str", "played at Große Straße", PlayedAt(4)),
        (
            "played at Große Straße 3 times or more",
            "played at Große Straße 3 times or more",
            PlayedAt(4, 3),
        ),
        ("not played at cafe ø for 4 weeks", "not played at Café Ø for 4 weeks", PlayedAt(6, None, 0, 28)),
    ],
)
def test_plain_words_are_read_as_limits(typed: str, words: str, condition: Condition) -> None:
    found = {limit.words: limit.condition for limit in limits(typed, KNOWN)}
    assert found.get(words) == condition, found
    behind = limits(f"salt works {typed}", KNOWN)
    assert (words, "salt works") in [(limit.words, limit.rest) for limit in behind]


def test_what_is_begun_is_offered_to_go_on_with_and_words_are_no_limits() -> None:
    assert "tempo " in [limit.words for limit in limits("te", KNOWN)]
    assert limits("tempo ", KNOWN)[0].words == "tempo 120 to 126"
    assert limits("velvet harbour", KNOWN) == [] and limits("", KNOWN) == []


def test_limits_that_are_said_together_hold_together() -> None:
    fast, house = Between("bpm", 120, 126), TextIs("genre", "House", "is")
    first = limits("tempo 120 to 126, style ho", KNOWN)[0]
    assert first == Limit("tempo 120 to 126, style House", AllOf((fast, house)))
    validate(AllOf((fast, house)))
    for begun in ("tempo 120 to 126, velvet", "tempo 120 to 126, ", "velvet, harbour", ","):
        assert not any(isinstance(limit.condition, AllOf) for limit in limits(begun, KNOWN))


@given(text=st.text(string.ascii_lowercase + string.digits + " -:.", max_size=40) | st.text(max_size=20))
def test_any_text_gives_only_limits_that_make_sense(text: str) -> None:
    for limit in limits(text, KNOWN):
        assert limit.words
        if limit.condition is not None:
            validate(limit.condition)


def test_spellings_of_one_style_are_put_together() -> None:
    assert genre_words("House; Disco / Nu-Disco") == ["House", "Disco", "Nu-Disco"]
    assert len({spelling_key(s) for s in ("Drum & Bass", "drum and bass", "Drum'n'Bass", "Drum n Bass")}) == 1
    assert spelling_key("House") != spelling_key("Deep House")
    styles = styles_of({"Drum & Bass": 5, "drum and bass;House": 2, "House": 9, "!!": 1})
    assert [(style.name, style.spellings) for style in styles] == [
        ("House", {"House": 11}),
        ("Drum & Bass", {"Drum & Bass": 5, "drum and bass": 2}),
    ]


@pytest.mark.parametrize(
    ("edit", "text", "after"),
    [
        (clean_spaces, "  Salt   Works ( Live ) ", "Salt Works (Live)"),
        (clean_spaces, "Salt_Works_04", "Salt Works 04"),
        (clean_spaces, "snake_case stays", "snake_case stays"),
        (lambda t: in_case(t, "Each Word"), "the wind in THE sails", "The Wind in the Sails"),
        (lambda t: in_case(t, "Each Word"), "SALT WORKS (LIVE)", "Salt Works (Live)"),
        (lambda t: in_case(t, "Each Word"), "dubs by DJ Tarn, pt II", "Dubs by DJ Tarn, Pt II"),
        (lambda t: in_case(t, "First word"), "Salt Works", "Salt works"),
        (lambda t: in_case(t, "small"), "ÅNGSTRÖM", "ångström"),
        (Replace("mix", "version"), "Long Mix (Mixed)", "Long version (versioned)"),
        (Replace("mix", "version", whole_words=True), "Long Mix (Mixed)", "Long version (Mixed)"),
        (Replace(" (live)", "", whole_words=True), "Tide (live), Tide (lively)", "Tide, Tide (lively)"),
        (Replace("feat.", "ft", whole_words=True), "Ilva feat. Nils, Defeat.", "Ilva ft Nils, Defeat."),
        (Replace("mix", r"\1", match_case=True), "Mix mix", r"Mix \1"),
        (Replace("(", "["), "Salt (Live", "Salt [Live"),
    ],
)
def test_edits_of_texts(edit: object, text: str, after: str) -> None:
    assert callable(edit)
    assert edit(text) == after
    assert edit(after) in (after, edit(edit(after)))


def test_names_are_split_only_where_they_are_names() -> None:
    assert split_name("Halden Pier - Copper Tide", "") == ("Copper Tide", "Halden Pier")
    assert split_name("04. Halden Pier – Copper Tide (Live - 2024)", "halden pier") == (
        "Copper Tide (Live - 2024)",
        "halden pier",
    )
    assert split_name("Copper - Tide", "Ilva Dune") is None, "another artist is known"
    assert split_name("After-hours", "") is None and split_name(" - ", "") is None
    with pytest.raises(TextEditError, match="which text"):
        Replace("", "x")("y")


def test_what_fits_is_told_with_reasons_and_the_pitch() -> None:
    chosen = Facts(124.0, "A minor", 60)
    same = fit(chosen, Facts(124.0, "A minor", 60, 0.9))
    near = fit(chosen, Facts(121.0, "E minor", 72))
    assert same and near and same.score > near.score
    assert same.reasons == ("same key", "same tempo", "same energy", "sounds alike")
    assert near.reasons == ("a fifth up", "2.5 % faster", "energy +12")
    assert near.cents == pytest.approx(42.4, abs=0.1) and near.heard_key == "E minor"
    half = fit(chosen, Facts(62.0, "C major", 60))
    assert half and half.reasons[:2] == ("relative key", "same tempo, counted in double time")
    assert fit(chosen, Facts(140.0, "A minor", 60)) is None, "out of reach"
    assert fit(chosen, Facts(124.0, "Eb minor", 60)) is None, "no key that goes"
    assert fit(chosen, Facts(124.0, "A major", 60)) is None and fit(
        chosen, Facts(124.0, "A major", 60), "wide"
    )


def test_without_key_hold_the_key_that_is_heard_counts() -> None:
    """Played 6 % faster a track sounds a semitone higher: G# minor meets A minor."""
    chosen, other = Facts(126.0, "A minor", None), Facts(118.93, "Ab minor", None)
    assert fit(chosen, other) is None
    free = fit(chosen, other, key_held=False)
    assert free and free.heard_key == "A minor" and free.cents == pytest.approx(100, abs=1)
    assert free.reasons[0] == "same key"


KEYS = st.none() | st.sampled_from(("A minor", "C major", "F# major", "Bb minor"))
FACTS = st.builds(
    Facts, st.none() | st.floats(40, 220), KEYS, st.none() | st.integers(0, 100), st.none() | st.floats(-1, 1)
)


@given(chosen=FACTS, other=FACTS, reach=st.sampled_from(("near", "wide")), held=st.booleans())
def test_any_two_tracks_fit_or_not_within_bounds(chosen: Facts, other: Facts, reach: str, held: bool) -> None:
    found = fit(chosen, other, reach, held)  # type: ignore[arg-type]
    if found:
        assert 0 <= found.score <= 1 and found.reasons
        assert abs(found.change_percent or 0) <= 10
        assert found.heard_key is None or parse_key(found.heard_key)
