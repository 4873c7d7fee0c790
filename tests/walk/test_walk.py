"""A short walk in each run of the tests; ``./vinyl walk`` goes as long as is wished."""

from __future__ import annotations

import shutil

from tests.walk.walking import walk, walk_once


def test_a_walk_through_all_rooms() -> None:
    with walk() as place:
        walk_once(place, seed=1, steps=20, walks=1)
    shutil.rmtree(place, ignore_errors=True)
