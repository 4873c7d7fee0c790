"""Finding: what is compiled to SQL means what the core says, at every sort, page by page."""

from __future__ import annotations

import json
import sqlite3
import string
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, get_args

import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from tests.library.making import new_track
from vinyl.core.rules.conditions import (
    Added,
    AllOf,
    AnyOf,
    Between,
    Condition,
    ConditionError,
    FirstOf,
    InList,
    Is,
    KeyIs,
    LastPlayed,
    LastPlayedAt,
    Lately,
    Locked,
    NeverAt,
    NoneOf,
    OverBacking,
    PlayedAt,
    Tagged,
    TextIs,
    Words,
    explain,
    matches,
    simplified,
    validate,
)
from vinyl.core.rules.notation import Rule, as_json, from_json
from vinyl.library import (
    backings,
    crates,
    describing,
    find,
    gigs,
    locks,
    plays,
    tags,
    taking_in,
    values,
    venues,
    wanted,
)
from vinyl.library.database import Database
from vinyl.library.find import Order, find_ids, find_window
from vinyl.library.flat import settle
from vinyl.library.gigs import Facts
from vinyl.library.pictures import count_pictures
from vinyl.library.plays import Coming
from vinyl.library.rule_lists import nights_of
from vinyl.library.sorts import SortName
from vinyl.library.values import Value
from vinyl.library.wanted import WantedEntry

NAMES = (
    "Café del Muelle",
    "灯台の朝",
    "Крабовий Вальс",
    "100% Sal_t",
    "STRASSE",
    "Ångström",
    "ab",
    "O'Brien !!! ★",
)
KEYS = (None, "A minor", "C major", "E minor", "Eb major")


@pytest.fixture(scope="module")
def database(tmp_path_factory: pytest.TempPathFactory) -> Database:
    """A few dozen tracks with holes in what is known of them, some in a crate, some locked."""
    made = Database.prepared(tmp_path_factory.mktemp("finding") / "library.db")
    with made.write() as connection:
        for i in range(40):
            track = new_track(
                connection, f"{NAMES[i % 8]} {i // 8}", artist=NAMES[-i % 7], genre="House" * (i % 2)
            )
            key, bpm = KEYS[i % 5], None if i % 6 == 0 else str(90 + 7.25 * (i % 9))
            values.put(
                connection,
                [track],
                "by hand",
                {"key": Value(key), "tempo": Value(bpm)} if key and bpm else {},
            )
            values.put(connection, [track], "by hand", {"stars": Value(str(i % 6))})
            connection.execute(
                "UPDATE track SET added_at = ? WHERE id = ?", (f"2026-{1 + i % 12:02}-15T10", track)
            )
        crates.add_tracks(connection, crates.make_crate(connection, "Gig"), [9, 3, 21, 14])
        wanted.append(connection, 1, [WantedEntry("Kelp Union", "Sluice", "", "gig.m3u")])
        values.put(connection, [4, 9, 12], "analysis", {"quality": Value('[{"kind": "clipped"}]')})
        values.put(connection, [13], "file tag", {"tempo": Value("100"), "key": Value("A minor")})
        for track, role, length_s in ((2, "in", None), (2, None, 4.0), (3, "out", 8.0), (9, "main", None)):
            connection.execute(
                "INSERT INTO cue (track_id, position_s, length_s, role, colour, engages) "
                "VALUES (?, 1.0, ?, ?, 'red', ?)",
                (track, length_s, role, role == "out"),
            )
        locks.set_lock(connection, [2, 3, 5], "tags", True)
        tags.give(connection, 1, [4, 6, 11], True)
        backings.put_together(connection, [7, 8], "Tide")
        plays.note(connection, [1, 9], "2026-03-05T20:00:00+00:00")
        _play(connection)
        crates.make_rule_crate(connection, "Fast", Rule(AllOf((Between("bpm", 110, None), InList(1)))))
        describing.edit(
            connection,
            [6, 10],
            {"never again": "yes", "wanted": "yes", "colour": "blue", "language": "Wolof"},
        )
        settle(connection, range(1, 41))
    return made


def _play(connection: sqlite3.Connection) -> None:
    """Nights at two venues, and one that was practice."""
    nights = (
        ("Pier", "2026-05-08", (1, 2, 3, 2)),
        ("Pier", "2026-06-12", (2, 5)),
        ("Dock", "2026-07-03", (2, 9)),
    )
    for venue, on, tracks in nights:
        at = f"{on}T21:00:00.000+00:00"
        facts = Facts(at, venues.named(connection, venue))
        gig = taking_in.take_in(
            connection, [Coming(track, played_at=at) for track in tracks], facts, "file"
        ).gig_id
        if venue == "Dock":
            plays.mark(connection, [plays.list_plays(connection, gig)[1].id], {"never": "here"})
    practice = taking_in.take_in(
        connection, [Coming(7)], Facts("2026-08-01T10:00:00.000+00:00"), "player"
    ).gig_id
    gigs.throw_away(connection, [practice])


def facts_of(database: Database) -> dict[int, dict[str, Any]]:
    """What the core's evaluator is asked about, of each track."""
    read = database.read()
    listed = set(crates.crate_tracks(read, 1))
    paths = dict(read.execute("SELECT id, path FROM track").fetchall())
    loops = {row["track_id"] for row in read.execute("SELECT track_id FROM cue WHERE length_s IS NOT NULL")}
    return {
        row["id"]: {
            **dict(row),
            "folder": str(Path(paths[row["id"]]).parent),
            "file_name": Path(paths[row["id"]]).name,
            **{f"{role} point": role in row["cue_roles"].split(",") for role in ("in", "main", "out")},
            "loop": row["id"] in loops,
            "engaging loop": row["id"] == 3,
            "tempo by hand": row["bpm_source"] == "by hand",
            "key from the file": row["key_source"] == "file tag",
            "clipped": "clipped" in row["findings"],
            "off centre": False,
            "lists": {1, *([2] if (row["bpm"] or 0) >= 110 else [])} if row["id"] in listed else set(),
            "in a crate": row["id"] in listed,
            "today": datetime.now(UTC).date(),
            "first": set(),
            "nights": nights_of(read, row["id"]),
            "never_at": {2} if row["id"] == 9 else set(),
            "tags": {int(tag) for tag in filter(None, row["tags"].split(","))},
            "explicit": row["explicit"],
            "never again": row["never_again"],
            "wanted": row["wanted"],
            "has tags": row["tags"] != "",
            "locks": set(filter(None, row["locks"].split(","))),
            "has picture": row["has_picture"],
            "analysed": row["analysis_state"] == "done",
            "has findings": row["findings"] != "[]",
        }
        for row in read.execute("SELECT * FROM shelf")
    }


TEXT = st.one_of(
    st.sampled_from((*NAMES, "caf", "a", "%", "_", "'", "台", "ß", "!!", "★ o", "mue", "el", "br")),
    st.text(string.printable, max_size=5),
)
NUMBER = st.none() | st.integers(0, 170)
MONTH = st.none() | st.integers(1, 12).map(lambda month: f"2026-{month:02}")
LEAVES = st.one_of(
    TEXT.map(Words),
    st.builds(
        TextIs,
        st.sampled_from(("title", "artist", "genre", "colour", "language", "folder", "file_name")),
        TEXT,
        st.sampled_from(("is", "contains", "begins", "like")),
    ),
    st.builds(
        TextIs,
        st.just("folder"),
        TEXT | st.sampled_from(("/", "/media", "/media/seeded", "/media/seeded/", "/Media", "/media/see")),
        st.just("under"),
    ),
    st.builds(
        Between, st.sampled_from(("bpm", "rating", "year", "energy", "cue_count", "plays")), NUMBER, NUMBER
    ),
    st.builds(Added, MONTH, MONTH),
    st.builds(LastPlayed, MONTH, MONTH),
    st.builds(
        PlayedAt,
        st.sampled_from((None, 1, 2, 9)),
        st.none() | st.integers(0, 3),
        st.none() | st.integers(0, 3),
        st.none() | st.integers(0, 900),
    ),
    st.builds(LastPlayedAt, st.integers(1, 2), MONTH, MONTH),
    st.builds(NeverAt, st.integers(1, 2)),
    st.builds(Lately, st.sampled_from(("added_at", "last_played")), st.integers(0, 400)),
    st.builds(KeyIs, st.sampled_from(KEYS[1:]), st.booleans()),
    st.sampled_from(
        (
            *(
                InList(1),
                InList(2),
                InList(9),
                Is("in a crate"),
                Locked("tags"),
                Locked("grid"),
                Tagged(1),
                Tagged(99),
                OverBacking(1),
            ),
            *(
                Is("away"),
                Is("analysed"),
                Is("has findings"),
                Is("never again"),
                Is("wanted"),
                Is("has tags"),
            ),
            *map(Is, ("in point", "main point", "out point", "loop", "engaging loop")),
            *map(Is, ("tempo by hand", "key from the file", "clipped", "off centre")),
        )
    ),
)
CONDITIONS = st.recursive(
    LEAVES,
    lambda part: st.builds(
        lambda kind, parts: kind(tuple(parts)),
        st.sampled_from((AllOf, AnyOf, NoneOf)),
        st.lists(part, max_size=3),
    ),
    max_leaves=6,
)


def matching(facts: dict[int, dict[str, Any]], condition: Condition) -> set[int]:
    return {track for track, known in facts.items() if matches(condition, known)}


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(condition=CONDITIONS)
@example(condition=NoneOf((Between("bpm", 100, None),)))
@example(condition=TextIs("title", "straße 0"))
@example(condition=Words("l_t 100%"))
def test_sql_finds_what_the_core_says(database: Database, condition: Condition) -> None:
    try:
        validate(condition)
    except ConditionError as refused:
        assert str(refused)
        return
    facts = facts_of(database)
    expected = matching(facts, condition)
    assert set(find_ids(database.read(), condition, Order("title"))) == expected
    assert find.count(database.read(), condition) == len(expected)
    assert explain(condition)
    plain = simplified(condition)
    assert plain == simplified(plain) and matching(facts, plain) == expected
    assert from_json(json.loads(json.dumps(as_json(condition)))) == condition


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    where=CONDITIONS, count=st.integers(1, 12), field=st.sampled_from(("rating", "year")), down=st.booleans()
)
def test_the_first_of_what_is_found(
    database: Database, where: Condition, count: int, field: str, down: bool
) -> None:
    facts = facts_of(database)
    sign = -1 if down else 1
    found = sorted(
        (track for track, known in facts.items() if matches(where, known)),
        key=lambda track: (sign * facts[track][field], track),
    )
    first = FirstOf(where, ((field, down),), count)
    for track in found[:count]:
        facts[track]["first"].add(first)
    others = NoneOf((first, Between("rating", 4, None)))
    for condition in (first, others):
        expected = {track for track, known in facts.items() if matches(condition, known)}
        assert set(find_ids(database.read(), condition, Order("title"))) == expected


@pytest.mark.parametrize("sort", [name for name in get_args(SortName) if name not in ("crate", "last_at")])
@pytest.mark.parametrize("descending", [False, True])
def test_windows_put_together_are_the_whole_in_one_order(
    database: Database, sort: Any, descending: bool
) -> None:
    read, order = database.read(), Order(sort, descending)
    whole = find_ids(read, AllOf(), order)
    pieces = [find_window(read, AllOf(), order, offset, 7) for offset in range(0, 42, 7)]
    assert [row["id"] for piece in pieces for row in piece.rows] == whole
    assert sorted(whole) == list(range(1, 41)) and {piece.total for piece in pieces} == {40}


def test_ties_go_by_the_further_sorts(database: Database) -> None:
    order = Order("rating", True, then=(("key", False), ("bpm", True)))
    rows = find_window(database.read(), AllOf(), order, 0, 40).rows
    past = [
        (-row["rating"], row["key_place"] is None, row["key_place"] or 0, -(row["bpm"] or 0)) for row in rows
    ]
    assert past == sorted(past) and len({row["key_place"] for row in rows}) > 2


def test_unknown_values_come_last_and_a_crate_has_its_own_order(database: Database) -> None:
    read = database.read()
    for descending in (False, True):
        tempi = [row["bpm"] for row in find_window(read, AllOf(), Order("bpm", descending), 0, 40).rows]
        known = [bpm for bpm in tempi if bpm is not None]
        assert tempi == sorted(known, reverse=descending) + [None] * (40 - len(known))
    assert find_ids(read, AllOf(), Order("crate", crate_id=1)) == [9, 3, 21, 14]
    assert find_ids(read, Between("rating", 3, None), Order("crate", crate_id=1)) == [9, 3, 21, 14][:0] + [
        i for i in (9, 3, 21, 14) if (i - 1) % 6 >= 3
    ] or (2,)


def test_a_picture_leaves_its_own_filter_out(database: Database) -> None:
    narrow = AllOf((Between("bpm", 100, 120), KeyIs("A minor", fits=False)))
    counts = count_pictures(database.read(), narrow)
    by_key = find.find_ids(database.read(), KeyIs("A minor", fits=False), Order("title"))
    known = [row["bpm"] for row in find.get_rows(database.read(), by_key) if row["bpm"] is not None]
    assert sum(counts["bpm"].values()) == len(known)
    assert sum(counts["key"].values()) > counts["key"]["A minor"] > 0
    asked = ("month", "bpm", "key", "year") * 3
    again = count_pictures(database.read(), narrow, asked)  # type: ignore[arg-type]
    assert again == {name: counts[name] for name in asked}
