"""Vinyl's own document: an empty library becomes equal in everything, and what is damaged changes nothing."""

from __future__ import annotations

import io
import json
from pathlib import Path

import pytest

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.foreign_paths import PathMapping
from vinyl.core.planning.mixing import Settings
from vinyl.core.rules.conditions import Tagged
from vinyl.core.rules.notation import Rule
from vinyl.demo.seed import seed_library
from vinyl.library import (
    chains,
    crates,
    cues,
    flat,
    locks,
    mixes,
    off_shelf,
    routes,
    rule_lists,
    sets,
    tags,
    values,
    wanted,
)
from vinyl.library.database import Database
from vinyl.library.documents import NOT_EMPTY, read_document, restore, write_document
from vinyl.library.errors import LibraryError
from vinyl.library.values import Value
from vinyl.library.wanted import WantedEntry


def _rich(folder: Path) -> Database:
    """A seeded library with a few things of every kind."""
    database = Database.prepared(folder / "library.db")
    seed_library(database, 60)
    with database.write() as connection:
        cues.add_cue(connection, 1, Cue(12.5, 8.0, "hold “it”\n", None, "ochre", 3, True))
        values.put(connection, [1, 2], "another library", {"comment": Value("x", {"a": 1}, 0.5)})
        flat.settle(connection, [1, 2], ["comment"])
        family = tags.make_family(connection, "Weather", "blue")
        tags.give(connection, tags.make_tag(connection, family, "fog"), [1, 3], True)
        locks.set_lock(connection, [2], "tags", True)
        folder_id = crates.make_crate(connection, "A folder", None, True)
        inner = crates.make_crate(connection, "An inner list", folder_id)
        crates.add_tracks(connection, inner, [3, 1, 2])
        wanted.append(connection, inner, [WantedEntry("Tern Logic", "Bollard", "", "")])
        routes.save_route(connection, 1, "short", [Jump(10.0, 20.0)])
        off_shelf.take_off(connection, [5], aside=True)
        planned = sets.make_set(connection, {"name": "Friday", "on_day": "2026-12-04"})
        sets.set_arc(connection, planned, [(0.2, 40.0)])
        sets.add_tracks(connection, planned, [1, 2, 5, 7], True)
        first, then, *_ = (entry.id for entry in sets.list_entries(connection, planned))
        said = sets.Said(Settings(60.0, 12.0, 8, "gliding", 4, 5), "low end late")
        sets.put_transition(connection, planned, first, then, said)
        mixes.say(connection, 1, 2, True)
        begun = chains.go_on(connection, planned, 7, None)
        chains.go_on(connection, planned, 1, begun)
        connection.execute("INSERT INTO choice (name, value) VALUES ('x', '{}')")
    return database


def _text(database: Database, lists: list[int] | None = None) -> str:
    out = io.StringIO()
    write_document(database.read(), out, lists)
    return out.getvalue()


def _restored(folder: Path, text: str, *mappings: PathMapping) -> Database:
    database = Database.prepared(folder / "library.db")
    with database.write() as connection:
        restore(connection, read_document(text.splitlines()), mappings)
    return database


def test_an_empty_library_becomes_equal_in_everything(tmp_path: Path) -> None:
    first = _rich(tmp_path / "first")
    text = _text(first)
    second = _restored(tmp_path / "second", text)
    assert _text(second).split("\n")[1:] == text.split("\n")[1:]
    shelves = [
        [dict(row) for row in each.read().execute("SELECT * FROM shelf ORDER BY id")]
        for each in (first, second)
    ]
    assert shelves[0] == shelves[1]
    whole = json.loads(text)
    assert len(whole["tracks"]) == 60 and whole["format"] == "vinyl collection"
    assert len(whole["set_entries"]) == 3 and [
        each.settings.meet for each in sets.list_transitions(second.read(), 1).values()
    ] == ["gliding"]
    began, went = chains.list_steps(second.read(), 1)
    assert (began.from_id, went.from_id) == (None, began.id) and went.track_id == 1
    assert list(mixes.verdicts(second.read(), range(1, 61)).values()) == [True]


def test_chosen_lists_go_with_their_tracks_and_folders(tmp_path: Path) -> None:
    first = _rich(tmp_path / "first")
    chosen = {name: number for number, name in crates.names(first.read())}["An inner list"]
    text = _text(first, [chosen])
    assert ": null" not in text, "what is not known is left out"
    assert json.loads(text)["whole"] is False and json.loads(_text(first))["whole"] is True
    second = _restored(tmp_path / "second", text, PathMapping("/music", "/elsewhere"))
    read = second.read()
    assert [crate.name for crate in crates.list_crates(read)] == ["A folder", "An inner list"]
    held = crates.crate_tracks(read, chosen)
    assert [place.title for place in wanted.list_wanted(read, chosen)] == ["Bollard"]
    assert held == [3, 1, 2] and cues.list_cues(read, 1)[0].label == "hold “it”\n"
    assert [row[0] for row in read.execute("SELECT id FROM track ORDER BY id")] == [1, 2, 3]


def test_a_document_of_the_first_version_named_by_numbers_and_is_read_still(tmp_path: Path) -> None:
    first = _rich(tmp_path / "first")
    row = first.read().execute("SELECT id, gid FROM tag WHERE name = 'fog'").fetchone()
    rule = Rule(Tagged(row["id"]), (("title", False),))
    with first.write() as connection:
        asks = crates.make_rule_crate(connection, "Foggy", rule)
    now_named = json.dumps(json.dumps({"tag": row["gid"]}))[2:-2]
    then_named = json.dumps(json.dumps({"tag_id": row["id"]}))[2:-2]
    text = _text(first)
    assert now_named in text
    old = text.replace(now_named, then_named).replace('"version": 2', '"version": 1')
    read = _restored(tmp_path / "second", old).read()
    assert rule_lists.get_rule(read, asks) == rule
    kept = read.execute("SELECT rule FROM crate WHERE id = ?", (asks,)).fetchone()[0]
    assert row["gid"] in kept and "tag_id" not in kept


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda text: text[: len(text) // 2], "damaged in line|damaged:"),
        (lambda text: text.replace('"version": 2', '"version": 9'), "version 9"),
        (lambda text: text.replace('"path": ', '"pfad": '), "damaged"),
        (lambda text: "[1, 2]", "no collection that Vinyl wrote"),
        (lambda text: "", "no collection that Vinyl wrote"),
    ],
)
def test_a_document_that_is_damaged_changes_nothing(tmp_path: Path, spoil: object, says: str) -> None:
    text = _text(_rich(tmp_path / "first"))
    second = Database.prepared(tmp_path / "second" / "library.db")
    before = _text(second).split("\n")[1:]
    with pytest.raises(LibraryError, match=says), second.write() as connection:
        restore(connection, read_document(spoil(text).splitlines()))  # type: ignore[operator]
    assert _text(second).split("\n")[1:] == before


def test_a_library_that_has_something_is_not_written_over(tmp_path: Path) -> None:
    database = _rich(tmp_path)
    before = _text(database).split("\n")[1:]
    with pytest.raises(LibraryError, match="empty library only"), database.write() as connection:
        restore(connection, read_document(_text(database).splitlines()))
    assert _text(database).split("\n")[1:] == before and "empty" in NOT_EMPTY
