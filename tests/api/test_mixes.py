"""Two tracks laid on each other over HTTP, and what is said of them."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_sets import _database, _make, _place, client
from tests.library.making import new_track
from vinyl.core.cues.cue import Cue
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import cues, grids, mixes

__all__ = ["client"]


def _mix(client: TestClient, **more: Any) -> Any:
    found = client.post("/api/mixes", json={"out_track_id": 1, "in_track_id": 3, **more})
    return found.json() if found.status_code == 200 else (found.status_code, found.json()["detail"])


def test_two_tracks_are_laid_beat_on_beat_from_their_points(client: TestClient) -> None:
    with _database(client).write() as connection:
        cues.add_cues(connection, 1, [Cue(90.1, role="out"), Cue(60.0, role="main")])
        cues.add_cues(connection, 3, [Cue(16.0, role="in"), Cue(40.0, role="main")])
    found = _mix(client, settings={"over_bars": 8, "meet": "second", "low_bar": 5})
    assert found["settings"]["out_s"] == pytest.approx(90.0)
    assert found["settings"]["in_s"] == pytest.approx(60 / 124 * round(16 / (60 / 124)))
    assert found["over_s"] == pytest.approx(32 * 60 / 124) and len(found["bars_s"]) == 9
    assert found["low_s"] == pytest.approx(found["bars_s"][4])
    moved = _mix(client, settings={**found["settings"]}, out_beats=-32, in_beats=4)
    assert moved["settings"]["out_s"] == pytest.approx(74.0)
    assert moved["settings"]["in_s"] == pytest.approx(found["settings"]["in_s"] + 4 * 60 / 124)
    met = _mix(client, settings=found["settings"], drops_meet=True)
    at = next(time for time, _, into in met["knots"] if into == pytest.approx(40.0, abs=0.25))
    assert any(out == pytest.approx(60.0) and time == at for time, out, _ in met["knots"])


def test_what_cannot_be_mixed_is_said_in_words(client: TestClient) -> None:
    with _database(client).write() as connection:
        bare = new_track(connection, "Drift")
    status, words = _mix(client, in_track_id=bare)
    assert status == 422 and "“Drift” has no beatgrid yet" in words
    assert _mix(client, in_track_id=999)[0] == 404
    status, words = _mix(client, drops_meet=True)
    assert status == 422 and "main part" in words
    for wrong in ({"over_bars": -1}, {"meet": "third"}, {"out_s": 1e999}, {"low_bar": 0}, {"in_s": -3}):
        sent = str(wrong).replace("'", '"').replace("inf", "1e999")
        body = f'{{"out_track_id": 1, "in_track_id": 3, "settings": {sent}}}'
        assert client.post("/api/mixes", content=body).status_code == 422


def test_a_verdict_is_kept_for_the_pair_and_weighs_in_every_set(client: TestClient) -> None:
    first, second = _make(client), _make(client, name="Another")
    for set_id in (first, second):
        _place(client, set_id, 1)

    def places() -> dict[int, tuple[int, list[str], list[str]]]:
        found = client.get(f"/api/sets/{second}/suggestions", params={"after": 1}).json()
        return {each["track_id"]: (at, each["reasons"], each["doubts"]) for at, each in enumerate(found)}

    before = places()
    last = max(before, key=lambda each: before[each][0])
    best = min(before, key=lambda each: before[each][0])
    verdict = {"out_track_id": 1, "in_track_id": last, "works": True}
    assert client.put("/api/mixes/verdict", json=verdict).status_code == 204
    client.put("/api/mixes/verdict", json={"out_track_id": 1, "in_track_id": best, "works": False})
    after = places()
    assert after[last][0] < before[last][0] and "you heard them together: it works" in after[last][1]
    assert after[best][0] > 0 and "you heard them together: it does not work" in after[best][2]
    client.post("/api/undo").raise_for_status()
    assert mixes.verdicts(_database(client).read(), [1]) == {(1, last): True}
    _place(client, first, last)
    assert client.get(f"/api/sets/{first}").json()["joints"][0]["works"] is True
    client.put("/api/mixes/verdict", json={**verdict, "works": None}).raise_for_status()
    assert client.get(f"/api/sets/{first}").json()["joints"][0]["works"] is None
    same = client.put("/api/mixes/verdict", json={"out_track_id": 1, "in_track_id": 1, "works": True})
    assert same.status_code == 422


def test_a_joint_keeps_all_that_was_said_of_it(client: TestClient) -> None:
    set_id = _make(client)
    _place(client, set_id, 1, 3)
    out_id, in_id = (each["id"] for each in client.get(f"/api/sets/{set_id}").json()["order"])
    settings = {"out_s": 64.0, "in_s": 8.0, "over_bars": 8, "meet": "gliding", "fade_bars": 4, "low_bar": 5}
    joint = {"out_id": out_id, "in_id": in_id, "settings": settings, "note": "bring the low end in late"}
    client.put(f"/api/sets/{set_id}/joint", json=joint).raise_for_status()
    found = client.get(f"/api/sets/{set_id}").json()
    assert found["joints"][0]["settings"] == settings
    assert found["order"][1]["begins_s"] == 64.0
    with _database(client).write() as connection:
        grids.set_grid(connection, 1, TempoMap.steady(60.0, 0.5))
    again = _mix(client, settings=settings)
    assert again["settings"]["out_s"] == pytest.approx(64.5), "on a beat of the grid as it is now"
