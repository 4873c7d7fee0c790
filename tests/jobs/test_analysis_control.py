"""What is analysed, when, in which turn and within which tempi; and comparing before anything is replaced."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.jobs.test_background import House
from tests.library.making import new_track
from vinyl.core.rhythm.windows import learn_window
from vinyl.library import analyses, flat, queue, values
from vinyl.library.errors import LibraryError
from vinyl.library.queue import AnalysisChoice
from vinyl.library.values import Value, put
from vinyl.media.tags import Tags, write_tags


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def choose(house: House, **choice: object) -> None:
    with house.database.write("choose") as connection:
        queue.set_choice(connection, AnalysisChoice(**choice))  # type: ignore[arg-type]


def test_nothing_is_analysed_on_arrival_if_it_is_not_wanted(house: House) -> None:
    choose(house, arrival="when asked")
    house.song("Halyard")
    house.bring_in()
    row = house.rows()["Halyard"]
    assert row["analysis_state"] == "none" and queue.counts(house.database.read()).waiting == 0
    with house.database.write() as connection:
        queue.enqueue(connection, [row["id"]], first=True)
    house.services.analyser.begin()
    house.analysed()
    assert house.rows()["Halyard"]["analysis_state"] == "done"
    assert queue.without_analysis(house.database.read(), [row["id"]], analyses.VERSION) == []


def test_the_turn_is_as_chosen_and_what_a_set_needs_comes_first(house: House) -> None:
    with house.database.write() as connection:
        ids = [new_track(connection, f"T{n}", duration_s=300 - n) for n in range(4)]
        queue.enqueue(connection, ids)

    def order() -> list[int]:
        taken: list[int] = []
        while (waiting := queue.next_waiting(house.database.read(), set(taken))) is not None:
            taken.append(waiting.track_id)
        return [ids.index(track_id) for track_id in taken]

    assert order() == [3, 2, 1, 0]
    choose(house, turn="oldest first")
    assert order() == [0, 1, 2, 3]
    choose(house, turn="shortest first")
    assert order() == [3, 2, 1, 0]
    with house.database.write() as connection:
        queue.enqueue(connection, [ids[1], ids[0]], first=True)
    assert order() == [1, 0, 3, 2]


def test_windows_are_learnt_from_a_style_and_the_users_own_go_before(house: House) -> None:
    with house.database.write() as connection:
        ids = [new_track(connection, f"D{n}", genre="Drum & Bass") for n in range(9)]
        put(connection, ids, "by hand", {"tempo": Value("174.0")})
        flat.settle(connection, ids)
        new = new_track(connection, "New", genre="Drum & Bass")
        queue.enqueue(connection, [new])
    waiting = queue.next_waiting(house.database.read(), set())
    assert waiting and waiting.window_bpm == (123.0, 246.0)
    choose(house, windows={"Drum & Bass": (80.0, 160.0)})
    waiting = queue.next_waiting(house.database.read(), set())
    assert waiting and waiting.window_bpm == (80.0, 160.0)
    listed = queue.style_windows(house.database.read())[0]
    assert (listed.style, listed.known, listed.learnt) == ("Drum & Bass", 9, (123.0, 246.0))
    with pytest.raises(LibraryError, match="no tempo window"), house.database.write() as connection:
        queue.set_choice(connection, AnalysisChoice(windows={"House": (140.0, 70.0)}))
    assert learn_window([120.0] * 7) is None and learn_window([80.0] * 5 + [170.0] * 5) is None


def test_an_import_has_a_window_of_its_own_and_a_comparison_replaces_nothing(house: House) -> None:
    song = house.song("Halyard", bpm=120)
    write_tags(song, Tags("Halyard"))
    house.wait(house.services.importer.add([house.music], window_bpm=(40.0, 80.0)))
    house.analysed()
    row = house.rows()["Halyard"]
    assert row["bpm"] == pytest.approx(60.0, abs=0.3)
    with house.database.write("by hand") as connection:
        put(connection, [row["id"]], "by hand", {"key": Value("C major")})
    job = house.wait(house.services.comparer.add([row["id"]], (80.0, 160.0), ["grid"]))
    found = {each["field"]: (each["before"], each["after"]) for each in job.result["differences"]}
    assert set(found) <= {"tempo", "doubt"} and found["tempo"][0] == "60.00"
    assert float(found["tempo"][1]) == pytest.approx(120.0, abs=0.1)
    assert house.rows()["Halyard"]["bpm"] == row["bpm"]
    with house.database.write() as connection:
        queue.enqueue(connection, [row["id"]], True, (80.0, 160.0), ["grid"])
        put(connection, [row["id"]], "analysis", {"energy": Value("1")})
    house.services.analyser.begin()
    house.analysed()
    after = house.rows()["Halyard"]
    assert after["bpm"] == pytest.approx(120.0, abs=0.3)
    key, energy = (values.winner(house.database.read(), row["id"], field) for field in ("key", "energy"))
    assert key and key.value.text == "C major", "what was done by hand stays"
    assert energy and energy.value.text == "1", "what was not asked for stays"
