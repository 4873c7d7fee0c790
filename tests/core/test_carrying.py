"""What is carried to another library comes back as the ledger promised."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vinyl.core.carrying.bring import bring
from vinyl.core.carrying.card import Card, Point, Step
from vinyl.core.carrying.carry import carry
from vinyl.core.carrying.collection import Cue, Node, Route, Track
from vinyl.core.carrying.colours import OURS, colour_here, colour_there
from vinyl.core.carrying.grids import thinned, worst_error_s
from vinyl.core.carrying.lists import carry_lists, rule_here, rule_there
from vinyl.core.carrying.merging import marks_of, merge, merge_lists
from vinyl.core.carrying.options import EVERY_BARS, LIMITS_MS, Options, choices_for
from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.paths import Way, beginnings, path_there
from vinyl.core.carrying.traits import REEDBANK, SALTMARSH, TARGETS, TIDEWRACK, Traits
from vinyl.core.foreign_paths import PathMapping
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap

DURATION_S = 360.0
TEXTS = st.text(st.characters(exclude_categories=["Cs"]), max_size=300)
NAMES = st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=30)
TIMES = st.floats(0.0, DURATION_S - 20, allow_nan=False)


@st.composite
def grids(draw: st.DrawFn) -> TempoMap:
    bpm, start = draw(st.floats(60, 180)), draw(st.floats(0, 3))
    if draw(st.booleans()):
        return TempoMap.steady(bpm, start, draw(st.sampled_from((3, 4, 6))))
    count, bars = draw(st.integers(2, 60)), draw(st.sampled_from((1, 8)))
    anchors, at = [], start
    for number in range(count):
        pace = bpm * draw(st.floats(0.97, 1.03))
        anchors.append(Anchor(at, 4.0 * bars * number, pace))
        at += 240.0 * bars / pace
    return TempoMap(tuple(anchors))


@st.composite
def all_cues(draw: st.DrawFn) -> tuple[Cue, ...]:
    pads = draw(st.permutations(range(1, 9)))
    roles: list[str | None] = list(draw(st.permutations(("in", "main", "out", None, None))))
    made = []
    for number in range(draw(st.integers(0, 14))):
        length = draw(st.none() | st.floats(0.05, 16))
        role = roles[number] if number < len(roles) and length is None else None
        pad = pads[number] if number < 8 and draw(st.booleans()) else None
        colour = draw(st.sampled_from(sorted(OURS)))
        engages = length is not None and draw(st.booleans())
        made.append(Cue(draw(TIMES), length, draw(NAMES), role, colour, pad, engages))
    return tuple(made)


@st.composite
def tracks(draw: st.DrawFn) -> Track:
    texts = {name: draw(TEXTS) for name in ("title", "artist", "comment", "isrc", "grouping")}
    key = draw(st.sampled_from(("A minor", "F# major", "Db minor", "8x?")))
    values = {
        **{name: text for name, text in texts.items() if text},
        "key": key, "stars": str(draw(st.integers(0, 5))), "energy": str(draw(st.integers(0, 100))),
        "year": "1998", "plays": "7", "colour": draw(st.sampled_from(sorted(OURS))),
    }  # fmt: skip
    padding = draw(st.sampled_from((0.0, 1105 / 44100, 312 / 48000)))
    return Track(
        "1", "/music/a.mp3", DURATION_S, padding, False, values,
        draw(st.none() | grids()), draw(all_cues()), (Route("short", ((60.0, 120.0),)),), ("Moment: peak",),
    )  # fmt: skip


OPTIONS = st.builds(
    Options,
    places_by=st.sampled_from(("roles", "pads", "time")),
    numbers=st.sampled_from(("pads", "time")),
    roles=st.sampled_from(("names", "leave")),
    banks=st.sampled_from(("both", "list", "quick")),
    every_bars=st.sampled_from(EVERY_BARS),
    limit_ms=st.sampled_from(LIMITS_MS),
    notation=st.sampled_from(("name", "short", "sharps", "wheel", "wheel letters")),
    energy=st.sampled_from(("before", "after", "replace", "leave")),
    tags=st.sampled_from(("comment", "grouping", "leave")),
    routes=st.sampled_from(("marks", "leave")),
)


@settings(deadline=None, max_examples=200)
@given(tracks(), st.sampled_from(sorted(TARGETS)), OPTIONS)
def test_what_stays_as_it_is_comes_back_as_it_was(track: Track, name: str, options: Options) -> None:
    traits = TARGETS[name]
    carried = carry(track, traits, options)
    back, problems = bring(carried.card, traits, track.key, track.padding_s, track.duration_s)
    assert not problems
    for outcome in carried.outcomes:
        if outcome.fate == "as it is":
            _check_kept(outcome, track, back)
    _check_places(track, back, traits, carried.outcomes)


def _check_kept(outcome: Outcome, track: Track, back: Track) -> None:
    fields = {"texts": outcome.what, "key": "key", "stars": "stars", "energy": "energy", "plays": "plays",
              "comment": "comment"}  # fmt: skip
    if outcome.kind in fields:
        assert back.values.get(fields[outcome.kind]) == outcome.here
    elif outcome.kind == "grid, steady":
        assert track.grid and back.grid
        assert back.grid.anchors[0].bpm == track.grid.anchors[0].bpm
        assert abs(back.grid.anchors[0].time_s - track.grid.anchors[0].time_s) < 1e-3
    elif outcome.kind in ("grid, stepped", "grid, elastic"):
        assert track.grid and back.grid
        assert worst_error_s(track.grid, back.grid, track.duration_s) <= 1e-3


def _check_places(track: Track, back: Track, traits: Traits, outcomes: tuple[Outcome, ...]) -> None:
    """Every cue that did not stay here stands within a millisecond of where it was, with its length."""
    stayed = sum(each.kind in ("cues", "loops") and each.fate == "left here" for each in outcomes)
    marks = 2 if any(each.kind == "routes" and each.fate == "changed" for each in outcomes) else 0
    assert len(back.cues) == len(track.cues) + marks - stayed
    for cue in back.cues:
        near = [each for each in track.cues if abs(each.position_s - cue.position_s) <= 1e-3]
        if not near:
            assert cue.position_s in (pytest.approx(60.0, abs=1e-3), pytest.approx(120.0, abs=1e-3))
            continue
        assert any((a.length_s is None) == (cue.length_s is None) for a in near)
        assert any(abs((a.length_s or 0) - (cue.length_s or 0)) <= 1e-3 for a in near)


def test_eight_places_are_filled_by_roles_then_pads_then_time() -> None:
    cues = tuple(Cue(10.0 * n, label=f"c{n}") for n in range(9))
    cues += (Cue(200.0, role="out"), Cue(150.0, pad=3, label="drop"), Cue(120.0, 8.0, "hold", engages=True))
    carried = carry(Track("1", "/a.mp3", DURATION_S, cues=cues), REEDBANK, Options())
    points = {point.place: point for point in carried.card.points}
    assert points[3].name == "drop"
    assert [p.name for p in carried.card.points] == ["c0", "c1", "c2", "c3", "c4", "c5", "drop", "out"]
    left = [
        each.what for each in carried.outcomes if each.kind in ("cues", "loops") and each.fate == "left here"
    ]
    assert left == ["c6", "c7", "c8", "hold"]


def test_padding_is_counted_where_the_library_counts_it() -> None:
    track = Track("1", "/a.mp3", DURATION_S, 1105 / 44100, cues=(Cue(60.0, 2.0),))
    assert carry(track, REEDBANK, Options()).card.points[0].at == 60025
    assert carry(track, TIDEWRACK, Options()).card.points[0].at == 60 * 44100
    assert carry(track, SALTMARSH, Options()).card.points[0].at == 60.0


def test_a_drummer_is_followed_closer_by_more_steps() -> None:
    waver = [Anchor(0.5 * n + 0.02 * np.sin(n / 9), n, 120.0) for n in range(0, 400, 4)]
    grid = TempoMap(tuple(waver))
    off = [worst_error_s(grid, thinned(grid, bars), 190.0) for bars in (1, 4, 16)]
    assert off[0] < 1e-9 < off[1] < off[2]
    track = Track("1", "/a.mp3", 190.0, grid=grid)
    close, far = (carry(track, REEDBANK, Options(every_bars=bars, limit_ms=10)) for bars in (1, 16))
    assert [o.fate for o in close.outcomes if o.kind == "grid, elastic"] == ["changed"]
    assert [o.fate for o in far.outcomes if o.kind == "grid, elastic"] == ["left here"]
    assert far.card.steps == ()
    kept = carry(track, SALTMARSH, Options())
    assert len(kept.card.steps) == len(waver)


@pytest.mark.parametrize("traits", TARGETS.values(), ids=lambda traits: traits.name)
def test_each_colour_comes_back_as_itself(traits: Traits) -> None:
    for colour in OURS:
        there = colour_there(colour, traits.colours)
        assert colour_here(there, traits.colours) == (colour if there else "")


def test_the_longest_beginning_of_a_path_is_put_for_theirs() -> None:
    way = Way(
        "windows", (PathMapping("D:/Music", "/home/maren/Music"), PathMapping("E:", "/home/maren/Music/New"))
    )
    assert path_there("/home/maren/Music/a/b.mp3", way)[0] == "D:/Music/a/b.mp3"
    assert path_there("/home/maren/Music/New/b.mp3", way)[0] == "E:/b.mp3"
    same, outcome = path_there("/media/tide/c.mp3", way)
    assert same == "/media/tide/c.mp3" and "none of the beginnings" in outcome.why
    assert "cannot be there" in path_there("/home/maren/Music/what?.mp3", way)[1].why
    assert path_there("/music/a/b.mp3", Way(base="/music/marsh"))[0] == "../a/b.mp3"


def test_every_choice_that_is_offered_can_be_taken() -> None:
    for traits in TARGETS.values():
        for choice in choices_for(traits):
            for answer in choice.answers:
                value = int(answer) if choice.name in ("every_bars", "limit_ms") else answer
                replace(Options(), **{choice.name: value})


MINE = Card(
    "/a",
    {"title": "Mine", "genre": "House"},
    (Step(0, 0.0, 120.0),),
    points=(
        Point("peg", 1, 1010, None, "near a beat"),
        Point("peg", 2, 2240, None, "between beats"),
    ),
)
THEIRS = Card(
    "/A",
    {"title": "Theirs", "comment": "loud", "plays": "9"},
    (Step(0, 0.0, 60.0),),
    points=(Point("peg", 1, 7000, None, "their own"),),
)


def test_what_the_other_side_made_itself_goes_by_its_part() -> None:
    sent = marks_of(Card("/A", {"title": "Theirs", "comment": "loud"}))
    left = merge(MINE, THEIRS, sent, {}, REEDBANK)
    assert left.later == ("plays", "grid", "cues"), "its texts are as they were sent, so ours go"
    assert left.card.words == {"title": "Mine", "genre": "House", "plays": "9"}
    assert (left.card.steps, left.card.points, left.card.path) == (THEIRS.steps, THEIRS.points, "/A")
    added = merge(MINE, THEIRS, None, {"texts": "add", "cues": "add", "grid": "replace"}, REEDBANK).card
    assert added.words == {"title": "Mine", "genre": "House", "comment": "loud", "plays": "9"}
    assert [(point.place, point.name) for point in added.points] == [
        (1, "near a beat"), (2, "between beats"), (3, "their own")
    ]  # fmt: skip
    assert added.steps == MINE.steps
    same = merge(MINE, MINE, None, {}, REEDBANK)
    assert same.later == () and same.card == MINE


def test_cues_go_onto_the_beats_of_a_grid_that_stays() -> None:
    merged = merge(MINE, THEIRS, None, {"grid": "leave", "cues": "replace"}, REEDBANK, 25)
    assert [point.at for point in merged.card.points] == [1000, 2240] and merged.moved == 1
    assert merge(MINE, THEIRS, None, {"grid": "replace", "cues": "replace"}, REEDBANK, 25).moved == 0


def test_mirrored_lists_name_what_vanishes_and_added_ones_keep_it() -> None:
    ours = (Node("Fridays", "folder", inner=(Node("Early", "list", ("1", "2")),)),)
    theirs = (
        Node("Fridays", "folder", inner=(Node("Early", "list", ("2", "9")), Node("Old", "list", ("9",)))),
        Node("Weddings", "list", ("9",)),
    )
    lists, vanish = merge_lists(ours, theirs, True)
    assert lists == ours and vanish == ["Fridays / Old", "Weddings"]
    lists, vanish = merge_lists(ours, theirs, False)
    assert [each.name for each in lists] == ["Fridays", "Weddings"] and vanish == []
    assert lists[0].inner[0].tracks == ("1", "2", "9")


def test_a_rule_goes_where_it_can_be_said_and_comes_back_the_same() -> None:
    parts = [
        {"kind": "between", "field": "bpm", "low": 120, "high": 126},
        {"kind": "text", "field": "genre", "text": "House", "how": "is"},
    ]
    rule = {"where": {"kind": "all", "parts": parts}, "order": [], "limit": None}
    nodes = (
        Node("Said", "rule list", ("1",), rule=rule),
        Node("Not said", "rule list", ("1", "2"), rule={"where": {"kind": "flag", "flag": "away"}}),
    )
    there, outcomes = carry_lists(nodes, SALTMARSH, Options())
    assert [each.kind for each in there] == ["rule list", "list"]
    assert [each.fate for each in outcomes] == ["as it is", "changed"]
    grouped = {
        "kind": "all",
        "parts": [{"kind": "all", "parts": parts[:1]}, {"kind": "any", "parts": parts[1:]}],
    }
    assert rule_there({"where": grouped}) == there[0].rule, "groups that say nothing do not hinder it"
    either = {"kind": "all", "parts": [{"kind": "any", "parts": parts}]}
    assert rule_there({"where": either}) is None
    back = rule_here(there[0].rule or {})
    assert back is not None and back["where"] == rule["where"]
    flat, outcomes = carry_lists((Node("F", "folder", inner=nodes),), TIDEWRACK, Options(rules="leave"))
    assert flat == () and [each.fate for each in outcomes] == ["left here", "left here"]


def test_beginnings_of_paths_are_whole_trees_the_innermost_of_those_that_hold_the_same() -> None:
    folders = {
        "/media/tide/house/new": 4,
        "/media/tide/house": 1,
        "/media/tide/dub": 2,
        "/home/wren/music/a/b/c": 3,
    }
    assert beginnings(folders) == [
        "/media/tide", "/media/tide/house", "/media/tide/house/new", "/home/wren/music/a", "/media/tide/dub",
    ]  # fmt: skip
    assert beginnings(folders, 1) == ["/media/tide"]
