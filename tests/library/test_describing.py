"""Tags, values by hand, plays and groups: what they change and leave, what is found by them, and undo."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from tests.library.making import new_track
from vinyl.bench.library import with_error
from vinyl.core.rules.conditions import AllOf, Between, KeyIs, Tagged, Words
from vinyl.core.rules.text_edits import Replace
from vinyl.demo.seed import seed_library
from vinyl.library import backings, describing, flat, locks, pictures, plays, styles, tags, undo, values
from vinyl.library.chosen import Stretch, ids_of
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, LockedError
from vinyl.library.find import Order, find_ids, find_window, get_rows
from vinyl.library.plays import Coming
from vinyl.library.spelling import forgiving
from vinyl.library.taking_in import Told, take_in_told
from vinyl.library.values import Value


@pytest.fixture
def database(tmp_path: Path) -> Database:
    made = Database.prepared(tmp_path / "library.db")
    with made.write() as connection:
        for name, genre in (("Anchor", "Drum & Bass"), ("Buoy", "drum and bass"), ("Cleat", "House; Dub")):
            new_track(connection, name, artist="Kelp Union", genre=genre)
        new_track(connection, "Dock", genre="")
    return made


def tag_id(database: Database, name: str) -> int:
    families = tags.list_families(database.read())
    return next(tag.id for family in families for tag in family.tags if tag.name == name)


def found(database: Database, text: str) -> list[int]:
    return find_ids(database.read(), Words(text), Order("title"))


def undone(database: Database) -> str:
    with database.write() as connection:
        return undo.step_back(connection, "undo").name


def test_tags_are_found_by_their_names_also_after_these_change(database: Database) -> None:
    vocal = tag_id(database, "Vocal")
    with database.write("Tag") as connection:
        tags.give(connection, vocal, [1, 3], True)
    assert found(database, "voc") == [1, 3] and found(database, "vocal anchor") == [1]
    with database.write("Rename") as connection:
        tags.change_tag(connection, vocal, {"name": "Singing"})
    assert found(database, "vocal") == [] and found(database, "singing") == [1, 3]
    undone(database)
    assert found(database, "vocal") == [1, 3] and found(database, "singing") == []
    with database.write("Merge") as connection:
        tags.give(connection, tag_id(database, "Warm"), [1], True)
        tags.merge(connection, vocal, tag_id(database, "Warm"))
    assert found(database, "warm") == [1, 3] and found(database, "vocal") == []
    undone(database)
    assert found(database, "warm") == [] and found(database, "vocal") == [1, 3]
    assert tags.count_among(database.read(), [1, 2, 3]) == {vocal: 2}


def test_letters_are_given_once_and_a_retired_tag_is_taken_up_again(database: Database) -> None:
    with database.write("Make") as connection:
        made = tags.make_tag(connection, 1, "Vale")
        tags.change_tag(connection, made, {"letter": "v", "retired": True})
    letters = [tag.letter for family in tags.list_families(database.read()) for tag in family.tags]
    given = [letter for letter in letters if letter]
    assert len(given) == len(set(given)) and "v" in given
    with database.write("Again") as connection:
        assert tags.make_tag(connection, 1, " vale ") == made
        with pytest.raises(LibraryError, match="already a family"):
            tags.make_family(connection, "make-UP", "blue")
        tags.change_family(connection, 3, {"to": 0})
    families = tags.list_families(database.read())
    assert [family.name for family in families] == ["Moment", "Style", "Make-up"]
    assert families[1].tags[0].retired is False


def test_genre_words_become_tags_once_with_their_spellings(database: Database) -> None:
    offers = {offer.name: offer for offer in styles.offers(database.read(), 1)}
    assert offers["Drum & Bass"].spellings == {"Drum & Bass": 1, "drum and bass": 1}
    with database.write("Lock") as connection:
        locks.set_lock(connection, [2], "tags", True)
    with database.write("Take") as connection:
        assert styles.take(connection, 1, {"drum and bass": "Jungle", "House": "House", "Dub": "House"}) == 2
    assert found(database, "jungle") == [1] and found(database, "house") == [3]
    offers = {offer.name: offer for offer in styles.offers(database.read(), 1)}
    assert offers["Drum & Bass"].tag_id == tag_id(database, "Jungle"), "what was chosen is remembered"
    assert offers["Drum & Bass"].missing == 0, "locked tags are not counted as missing"
    undone(database)
    assert found(database, "jungle") == []


def test_values_by_hand_leave_locked_tracks_and_go_back_to_the_file(database: Database) -> None:
    with database.write("Lock") as connection:
        locks.set_lock(connection, [2], "tags", True)
    with database.write("Edit") as connection:
        given = {"artist": "Halden Pier", "energy": "70", "marks": "🌊 ⚓", "explicit": "yes", "year": ""}
        assert describing.edit(connection, [1, 2, 3], given) == 1  # type: ignore[arg-type]
    rows = get_rows(database.read(), [1, 2, 3])
    assert [row["artist"] for row in rows] == ["Halden Pier", "Kelp Union", "Halden Pier"]
    assert [row["marks"] for row in rows] == ["🌊⚓", "", "🌊⚓"] and [row["explicit"] for row in rows] == [
        1,
        0,
        1,
    ]
    common = describing.in_common(database.read(), [1, 2, 3], ["artist", "label", "energy"])
    assert (common["artist"].value, common["artist"].different) == (None, 2)
    assert common["label"].value == ""
    with database.write("Back") as connection:
        describing.edit(connection, [1], {"artist": None})
    assert get_rows(database.read(), [1])[0]["artist"] == "Kelp Union"
    for field, wrong in (("energy", "101"), ("stars", "six"), ("year", "12")):
        with pytest.raises(LibraryError, match="number from"), database.write("wrong") as connection:
            describing.edit(connection, [1], {field: wrong})  # type: ignore[dict-item]
    with pytest.raises(LockedError), database.write("locked") as connection:
        describing.edit(connection, [2], {"artist": "Nobody"})


def test_texts_are_replaced_in_one_step(database: Database) -> None:
    read = database.read()
    changes = describing.changes_by(read, [1, 2, 3, 4], ["title", "artist"], Replace("o", "0"))
    assert [(change.track_id, change.after) for change in changes if change.field == "title"] == [
        (1, "Anch0r"),
        (2, "Bu0y"),
        (4, "D0ck"),
    ]
    with database.write("Replace") as connection:
        describing.keep(connection, changes)
    assert found(database, "anch0r") == [1]
    assert describing.completions(read, "artist", "kelp") == ["Kelp Uni0n"]
    undone(database)
    assert found(database, "anchor") == [1]


def test_plays_count_once_and_groups_hold_a_track_once(database: Database) -> None:
    with database.write("Play") as connection:
        values.put(connection, [1], "file tag", {"plays": Value("4")})
        plays.note(connection, [1, 2], "2026-11-20T22:00:00+00:00")
        told = [
            Told(Coming(1, played_at="2026-11-21T23:00:00+00:00"), "stick 7"),
            Told(Coming(None, "", "Gone", "2026-11-21T23:05:00+00:00"), "stick 8"),
        ]
        assert [night.added for night in take_in_told(connection, told)] == [2]
        assert take_in_told(connection, told) == []
        flat.settle(connection, [1], ["plays"])
    row = get_rows(database.read(), [1])[0]
    assert (row["plays"], row["last_played"]) == (6, "2026-11-21")
    with database.write("Forget") as connection:
        assert plays.take_last(connection, [1, 2, 3]) == 2
    assert [row["plays"] for row in get_rows(database.read(), [1, 2])] == [5, 0]
    with database.write("Together") as connection:
        first = backings.put_together(connection, [1, 2], "Tide riddim")
        backings.put_together(connection, [2, 3], "Ebb")
        backings.take_apart(connection, [3])
    assert [(b.name, b.tracks) for b in backings.list_backings(database.read())] == [
        ("Ebb", 1),
        ("Tide riddim", 1),
    ]
    with database.write("Apart") as connection:
        backings.take_apart(connection, [1])
    assert first not in backings.names(database.read()), "a group without tracks goes"


def test_all_but_some_are_chosen_without_naming_them(database: Database) -> None:
    stretch = Stretch(AllOf(), Order("title"), without=frozenset({2}))
    assert ids_of(database.read(), stretch) == [1, 3, 4]
    assert ids_of(database.read(), Stretch(AllOf(), Order("title", True), 1, 2)) == [3, 2]


@pytest.fixture(scope="module")
def large(tmp_path_factory: pytest.TempPathFactory) -> Database:
    made = Database.prepared(tmp_path_factory.mktemp("large") / "library.db")
    seed_library(made, 4000, crates=5)
    return made


def test_pictures_count_what_is_found(large: Database) -> None:
    """Packed numbers are unpacked to what counting row by row gives, with filters and without."""
    read = large.read()
    for condition in (AllOf(), AllOf((Between("bpm", 100, 126), KeyIs("A minor"))), AllOf((Tagged(2),))):
        counts = pictures.count_pictures(read, condition, tags=True)
        rows = get_rows(read, find_ids(read, condition, Order("title")))
        whole = get_rows(read, find_ids(read, AllOf(), Order("title")))
        alone = rows if condition != AllOf((Between("bpm", 100, 126), KeyIs("A minor"))) else None
        for name, value in (
            ("rating", lambda r: r["rating"]),
            ("month", lambda r: r["added_at"][:7]),
            ("energy", lambda r: min(r["energy"], 99) // 10 * 10),
            ("year", lambda r: r["year"]),
            ("plays", lambda r: min(r["plays"], 20)),
            ("genre", lambda r: r["genre"]),
        ):
            expected: dict[object, int] = {}
            for row in rows:
                expected[value(row)] = expected.get(value(row), 0) + 1
            assert counts[name] == expected, name
        assert sum(counts["tags"].values()) == sum(max(0, row["tags"].count(",") - 1) for row in rows)
        if alone is not None:
            assert sum(counts["bpm"].values()) == len(rows) and sum(counts["key"].values()) == len(rows)
        else:
            assert len(rows) < sum(counts["bpm"].values()) < len(whole), "its own filter is left out"


def test_names_with_one_edit_are_found_among_the_first_five(large: Database) -> None:
    random, read = np.random.default_rng(5), large.read()
    names = read.execute(
        "SELECT id, title || ' ' || artist AS name FROM shelf ORDER BY id LIMIT 300"
    ).fetchall()
    right = 0
    for row in names:
        typed = Words(with_error(row["name"], random))
        meant = forgiving(read, AllOf((typed,))).condition
        window = find_window(read, meant, Order("added_at", True), 0, 5)
        right += row["id"] in [shown["id"] for shown in window.rows]
    assert right >= 0.95 * len(names), right / len(names)


def test_words_that_occur_are_taken_as_they_are(large: Database) -> None:
    read = large.read()
    title = read.execute("SELECT title FROM shelf WHERE id = 9").fetchone()[0]
    assert forgiving(read, AllOf((Words(title),))).read_as is None
    assert forgiving(read, Words("qqqqqq zzzzzz")).read_as is None, "nothing is near"
    assert forgiving(read, AllOf((Between("bpm", 1, 2), Words(title)))).read_as is None, (
        "filters do not count"
    )
