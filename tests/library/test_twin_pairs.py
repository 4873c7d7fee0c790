"""Groups of what was found and what the user said of it; versions of works; what stands for what gave way."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tests.library.making import new_track
from tests.library.test_twins import Studio
from vinyl.core.likeness.compare import Match, Relation
from vinyl.core.rules.conditions import Is, NoneOf
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import Pair
from vinyl.core.twins.proposal import REASONS
from vinyl.library import find, fitting, imports, named, off_shelf, twin_facts, twin_pairs, twins, works
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.twin_facts import Order

NO_ATTACKS = lambda track_id: None  # noqa: E731


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database.prepared(tmp_path / "library.db")


def _pair(
    first: int, second: int, relation: Relation = "same", sure: bool = True, speed: float = 1.0
) -> Pair:
    match = Match(relation, 0.0, 1.0, 0.02, 0.4 if sure else 0.95)
    line = Alignment(speed, 0.0, 0.0) if relation == "same" else None
    return Pair(first, second, frozenset({"sound"}), match, line, 0.2)


def _keep(database: Database, *pairs: Pair) -> None:
    with database.write() as connection:
        twin_pairs.keep(
            connection, pairs, sorted({each for pair in pairs for each in (pair.first, pair.second)})
        )


def _groups(database: Database) -> list[tuple[str, tuple[int, ...], bool]]:
    return [(group.kind, group.track_ids, group.later) for group in twin_pairs.list_groups(database.read())]


def _tracks(database: Database, count: int) -> list[int]:
    with database.write() as connection:
        return [new_track(connection, f"Tide {place}") for place in range(count)]


def test_groups_are_sure_only_if_nobody_need_listen(database: Database) -> None:
    a, b, c, d, e, f, g, h = _tracks(database, 8)
    _keep(database, _pair(a, b), _pair(c, d, sure=False), _pair(e, f, speed=1.005), _pair(g, h, "different"))
    assert _groups(database) == [
        ("sure", (a, b), False),
        ("same", (c, d), False),
        ("same", (e, f), False),
        ("name", (g, h), False),
    ]
    with database.write() as connection:
        connection.execute("UPDATE twin_pair SET speed = NULL WHERE first = ?", (a,))
    assert _groups(database)[0] == ("same", (a, b), False), "times of one are not known in the other"


def test_edits_stand_beside_the_first_of_their_twins_until_they_are_linked(database: Database) -> None:
    a, b, short, voice, other = _tracks(database, 5)
    _keep(
        database,
        _pair(a, b),
        _pair(b, short, "edit"),
        _pair(voice, other, "same backing"),
    )
    edits, backing = ("edit", (a, short), False), ("same backing", (voice, other), False)
    assert _groups(database) == [("sure", (a, b), False), edits, backing]
    with database.write() as connection:
        works.link(connection, [a, short], "Tide", {short: "radio"})
    assert _groups(database) == [("sure", (a, b), False), backing]
    with database.write() as connection:
        works.take_apart(connection, [short])
    assert edits in _groups(database) and not works.versions_of(database.read(), a)


def test_what_the_user_said_holds_and_what_is_off_the_shelf_is_in_no_group(database: Database) -> None:
    a, b, c, d = _tracks(database, 4)
    _keep(database, _pair(a, b), _pair(c, d))
    with database.write() as connection:
        twin_pairs.mark_later(connection, [a, b], True)
    assert _groups(database) == [("sure", (c, d), False), ("sure", (a, b), True)]
    with database.write() as connection:
        twin_pairs.mark_later(connection, [b, a], False)
        twin_pairs.say_no_twins(connection, [d, c])
    assert _groups(database) == [("sure", (a, b), False)]
    _keep(database, _pair(c, d))
    assert _groups(database) == [("sure", (a, b), False)], "found once more, still no twins"
    with database.write() as connection:
        off_shelf.take_off(connection, [b], aside=False)
    assert _groups(database) == []


def test_copies_that_were_noted_are_a_group_until_they_are_put_aside(database: Database) -> None:
    (a,) = _tracks(database, 1)
    with database.write() as connection:
        imports.note_copy(connection, a, "/music/z/Tide.mp3", 70, 1)
    (group,) = twin_pairs.list_groups(database.read())
    assert (group.kind, group.track_ids, group.copies) == ("sure", (a,), ((a, "/music/z/Tide.mp3", 70),))
    with database.write() as connection:
        assert off_shelf.take_copies_off(connection, ["/music/z/Tide.mp3", "/music/nothing"]) == 1
    read = database.read()
    assert not twin_pairs.list_groups(read) and not imports.list_copies(read, a)
    assert [(each.path, each.is_copy) for each in off_shelf.to_put_aside(read)] == [
        ("/music/z/Tide.mp3", True)
    ]
    with database.write() as connection:
        off_shelf.bring_copies_back(connection, ["/music/z/Tide.mp3"])
    assert imports.list_copies(read, a) == ["/music/z/Tide.mp3"] and not off_shelf.list_off(read)


def test_only_what_came_or_was_heard_anew_is_looked_at(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        old = [studio.track(f"Tide {place}", studio.copy(words), sound) for place in range(2)]
        others = [studio.track(f"Other {place}", *studio.recording()) for place in range(9)]
    read = database.read()
    assert twin_pairs.unseen(read) == [*old, *others]
    with database.write() as connection:
        twin_pairs.keep(connection, twins.find_pairs(connection), [*old, *others])
    assert twin_pairs.unseen(read) == []
    with database.write() as connection:
        new = Studio(connection).track("Tide 3", studio.copy(words), sound)
    assert twin_pairs.unseen(read) == [new]
    found = list(twins.find_pairs(read, of=[new]))
    assert {(pair.first, pair.second) for pair in found if pair.relation == "same"} == {
        (each, new) for each in old
    }
    with database.write() as connection:
        connection.execute("UPDATE track_likeness SET fingerprint = x'00' WHERE track_id = ?", (old[0],))
    assert twin_pairs.unseen(read) == [old[0], new]
    with database.write() as connection:
        twin_pairs.keep(connection, [], [old[0]])
    assert not [pair for pair in twin_pairs.list_pairs(read) if old[0] in (pair.first, pair.second)]


def test_two_that_were_never_compared_are_compared_when_it_is_asked(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        one, two = (studio.track(name, studio.copy(words), sound) for name in ("Tide", "Halyard"))
        unheard = new_track(connection, "Pier")
    pair = twin_pairs.pair_of(database.read(), NO_ATTACKS, two, one)
    assert pair is not None and (pair.first, pair.second, pair.relation) == (one, two, "same")
    assert twin_pairs.pair_of(database.read(), NO_ATTACKS, one, unheard) is None


def test_a_new_file_says_what_is_there_and_which_is_better(database: Database) -> None:
    a, b, c = _tracks(database, 3)
    with database.write() as connection:
        connection.execute("UPDATE shelf SET codec = 'flac' WHERE id = ?", (a,))
    _keep(database, _pair(a, b), _pair(a, c, "edit"))
    told = twin_facts.better_of_twins(database.read(), [a, b, c])
    assert told == {b: "you have this: Tide 0.mp3, in better quality"}
    with database.write() as connection:
        connection.execute("UPDATE shelf SET codec = iif(id = ?, 'flac', 'mp3')", (b,))
    assert twin_facts.better_of_twins(database.read(), [b])[b].endswith("; this one is better")


def test_the_order_of_reasons_is_kept_whole(database: Database) -> None:
    wanted = Order(tuple(reversed(REASONS)), ("/music/best",))
    with database.write() as connection:
        twin_facts.set_order(connection, wanted)
        with pytest.raises(LibraryError, match="once"):
            twin_facts.set_order(connection, Order(REASONS[:2]))
    assert twin_facts.get_order(database.read()) == wanted
    (track,) = _tracks(database, 1)
    (held,) = twin_facts.candidates(database.read(), [track], Order(folders=("/other", "/music")))
    assert held.folder == 1 and not held.lossless and held.bit_rate == 192000


def test_works_are_joined_named_and_dissolved(database: Database) -> None:
    a, b, c, d, e = _tracks(database, 5)
    with database.write() as connection:
        works.link(connection, [a, b], "Tide")
        works.link(connection, [c, d], "Other", {c: "radio"})
        works.link(connection, [b, c], " Tide,  all ")
    read = database.read()
    found = works.versions_of(read, d)
    assert [each.track_id for each in found] == [a, b, c, d] and {each.work for each in found} == {
        "Tide, all"
    }
    assert {each.kind for each in found if each.track_id == c} == {"radio"}
    assert find.find_ids(read, Is("has versions"), find.Order("title")) == [a, b, c, d]
    assert find.find_ids(read, NoneOf((Is("later version"),)), find.Order("title")) == [a, e]
    with database.write() as connection:
        off_shelf.take_off(connection, [a], aside=False)
    assert find.find_ids(read, NoneOf((Is("later version"),)), find.Order("title")) == [b, e]
    with database.write() as connection:
        works.take_apart(connection, [b, c, d])
    assert read.execute("SELECT count(*) FROM work").fetchone()[0] == 0
    for wrong in (([a], "Tide", {}), ([a, b], " ", {}), ([a, b], "Tide", {a: "x" * 61})):
        with database.write() as connection, pytest.raises(LibraryError):
            works.link(connection, *wrong)


def test_versions_of_a_track_are_nothing_to_go_on_with(database: Database) -> None:
    a, b, c = _tracks(database, 3)
    with database.write() as connection:
        connection.execute("UPDATE shelf SET bpm = 124, key = 'A minor', energy = 50")
    fits = lambda: [each.track_id for each in fitting.find_fitting(database.read(), a)]  # noqa: E731
    assert fits() == [b, c]
    with database.write() as connection:
        works.link(connection, [a, b], "Tide")
    assert fits() == [c]


def test_a_path_of_a_file_that_gave_way_leads_to_the_kept_one(database: Database) -> None:
    a, b = _tracks(database, 2)
    with database.write() as connection:
        off_shelf.take_off(connection, [b], aside=False, twin_of=a)
        row = connection.execute("SELECT path FROM track WHERE id = ?", (b,)).fetchone()
    assert named.find_path(database.read(), ["/nowhere", row[0]]) == a
    listed = off_shelf.list_off(database.read())
    assert [(each.track_id, each.why, each.kept) for each in listed] == [(b, "", None)]
    kept = database.read().execute("SELECT * FROM off_shelf").fetchone()
    assert json.loads(json.dumps(dict(kept)))["twin_of"] == a
