"""What is analysed, when, in which turn and within which tempi; and comparing before anything is replaced."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from concurrent.futures import Future
from pathlib import Path

import pytest

from tests.jobs.test_background import House
from tests.library.making import new_track
from tests.patience import wait_for
from vinyl.core.analysis import Analysis
from vinyl.core.rhythm.windows import learn_window
from vinyl.jobs.analysing import LEAST_LIMIT_S, Analyser
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


def test_a_folder_that_goes_away_during_the_analysis_is_away_and_comes_back(house: House) -> None:
    choose(house, arrival="when asked")
    house.song("Halyard")
    house.bring_in()
    track = house.rows()["Halyard"]["id"]
    elsewhere = house.music.rename(house.music.with_name("renamed"))
    with house.database.write() as connection:
        queue.enqueue(connection, [track])
    house.services.analyser.begin()
    assert house.analysed().failures == 0
    row = house.rows()["Halyard"]
    assert row["away"] and row["analysis_state"] != "failed"
    elsewhere.rename(house.music)
    house.services.importer._look()
    wait_for(lambda: house.rows()["Halyard"]["analysis_state"] == "done", "the analysis of what is back")


@pytest.mark.parametrize(("rate_hz", "says"), [(1, "1 samples"), (2_000_000, "2,000,000 samples")])
def test_a_head_that_tells_a_rate_no_sound_has_is_refused(house: House, rate_hz: int, says: str) -> None:
    path = house.song("Odd", "wav")
    data = bytearray(path.read_bytes())
    struct.pack_into("<II", data, 24, rate_hz, 4 * rate_hz)
    path.write_bytes(data)
    outcome, why = house.reasons(house.bring_in())["Odd.wav"]
    assert outcome == "broken" and says in why


def test_suspects_never_take_all_workers_and_their_time_goes_by_their_bytes(house: House) -> None:
    with house.database.write() as connection:
        good, huge, died = (
            new_track(connection, name, duration_s=100_000) for name in ("good", "huge", "died")
        )
        connection.execute("UPDATE track SET size_bytes = 200000 WHERE id IN (?, ?)", (huge, died))
        connection.execute("UPDATE track SET size_bytes = 1 << 31, duration_s = 200 WHERE id = ?", (good,))
        queue.enqueue(connection, [huge, died, good], first=True)
        queue.fail(connection, died, "Its process ended unexpectedly.", False)
    read, given = house.database.read(), list[tuple[str, float]]()
    assert (first := queue.next_waiting(read, set())) and first.track_id == huge and first.is_suspect
    assert (next_ := queue.next_waiting(read, {huge}, suspects=False)) and next_.track_id == good

    class Taking:
        count = 2

        def submit(self, _: object, path: str, window: object, timeout_s: float) -> Future[Analysis]:
            given.append((Path(path).stem, timeout_s))
            return Future()

    analyser = Analyser(house.database, house.services.waveforms, Taking())  # type: ignore[arg-type]
    analyser._fill({})
    assert [name for name, _ in given] == ["huge", "good"] and given[0][1] == LEAST_LIMIT_S


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
