"""Where files lie: counts by folder against a plain reckoning over random paths."""

from __future__ import annotations

import os
import sqlite3
from collections import Counter
from collections.abc import Sequence
from pathlib import PurePosixPath

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from vinyl.library import folders
from vinyl.library.folders import Held

# Names that sort before and after "/", fold into each other, or look like a pattern.
NAMES = st.sampled_from(("a", "A", "b", "a-b", "a0", "a b", "%", "_", "ß", "台"))
PATHS = st.lists(NAMES, min_size=1, max_size=4).map(lambda parts: "/" + "/".join(parts) + ".mp3")


def library_of(paths: Sequence[str], off: int = 0, copies: Sequence[str] = ()) -> sqlite3.Connection:
    """The tables that are asked, with so many of the tracks off the Shelf."""
    made = sqlite3.connect(":memory:")
    made.executescript(
        "CREATE TABLE track (id INTEGER PRIMARY KEY, path TEXT UNIQUE);"
        "CREATE TABLE off_shelf (track_id INTEGER PRIMARY KEY);"
        "CREATE TABLE track_copy (path TEXT PRIMARY KEY);"
    )
    made.executemany("INSERT INTO track (path) VALUES (?)", [(path,) for path in paths])
    made.execute("INSERT INTO off_shelf SELECT id FROM track ORDER BY id LIMIT ?", (off,))
    made.executemany("INSERT INTO track_copy VALUES (?)", [(path,) for path in copies])
    return made


def below(path: str, folder: str) -> bool:
    return PurePosixPath(path).is_relative_to(folder)


@given(st.lists(PATHS, unique=True, max_size=25), st.integers(0, 4), st.lists(NAMES, max_size=3))
@example(["/a/x.mp3", "/a-b/x.mp3", "/a0/x.mp3", "/a/b/x.mp3"], 0, ["a"])
def test_a_folder_holds_what_lies_in_it_and_below(paths: list[str], off: int, parts: list[str]) -> None:
    folder = "/" + "/".join(parts)
    connection = library_of(paths, off)
    shown = [path for path in paths[off:] if below(path, folder) and path != folder]
    rest = [PurePosixPath(path).relative_to(folder).parts for path in shown]
    within = Counter(each[0] for each in rest if len(each) > 1)
    assert folders.held_in(connection, folder) == Held(sum(len(each) == 1 for each in rest), dict(within))
    assert folders.count_below(connection, folder) == len(shown)


@given(st.lists(PATHS, unique=True, max_size=25))
@example(["/b.mp3"])
@example(["/a/b/c.mp3", "/a/b/a/x.mp3"])
def test_top_folders_hold_all_files_once_and_are_as_deep_as_they_can_be(paths: list[str]) -> None:
    tops = folders.top_folders(library_of(paths))
    of_roots = {path.split("/")[1] for path in paths if path.count("/") > 1}
    if any(path.count("/") == 1 for path in paths):
        assert "/" in tops, "files in the root itself"
        return
    for path in paths:
        assert sum(below(path, top) for top in tops) == 1
    for top in tops:
        inside = [str(PurePosixPath(path).parent) for path in paths if below(path, top)]
        assert os.path.commonpath(inside) == top
    assert len(tops) <= max(1, len(of_roots))


@pytest.mark.parametrize("folder", ["/music", "/music/"])
def test_names_are_known_of_tracks_of_those_off_the_shelf_and_of_copies(folder: str) -> None:
    paths = ["/music/One.mp3", "/music/Off.mp3", "/music/deep/Two.mp3", "/other/Three.mp3"]
    connection = library_of(paths, 2, ["/music/One 1.mp3"])
    asked = ["One.mp3", "Off.mp3", "One 1.mp3", "Two.mp3", "Three.mp3", "one.mp3", "New.mp3"]
    assert folders.known_names(connection, folder, asked) == {"One.mp3", "Off.mp3", "One 1.mp3"}
    assert folders.known_names(connection, folder, []) == set()
