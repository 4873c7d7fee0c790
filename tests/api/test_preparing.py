"""Preparing a track through HTTP: every grid edit, taps, cues in numbers, locks, templates, routes."""

from __future__ import annotations

import struct
from typing import Any
from urllib.parse import unquote

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.media.decode import decode


@pytest.fixture
def track(client: TestClient) -> Any:
    """The first track with its analysed grid and nothing else, and again so after the test."""
    track_id = by_title(client, "One")
    _clear(client, track_id)
    yield track_id
    _clear(client, track_id)


def _clear(client: TestClient, track_id: int) -> None:
    for part in ("grid", "cues", "key", "tags"):
        client.put("/api/tracks/locks", json={"ids": [track_id], "part": part, "locked": False})
    client.delete(f"/api/tracks/{track_id}/grid")
    for cue in client.get(f"/api/tracks/{track_id}").json()["cues"]:
        client.delete(f"/api/tracks/{track_id}/cues/{cue['id']}")


def _edit(client: TestClient, track: int, **edit: object) -> TempoMap:
    answer = client.post(f"/api/tracks/{track}/grid", json=edit)
    assert answer.status_code == 200, answer.text
    return TempoMap(anchors_from(answer.json()["anchors"]), answer.json()["beats_per_bar"])


def test_each_edit_of_the_grid_does_what_it_says(client: TestClient, track: int) -> None:
    found = client.get(f"/api/tracks/{track}").json()["grid"]
    before = TempoMap(anchors_from(found["anchors"]))
    beats = np.arange(1, 36)
    assert np.allclose(_edit(client, track, edit="three for two").time_at(1.5 * beats), before.time_at(beats))
    assert np.allclose(_edit(client, track, edit="two for three").time_at(beats), before.time_at(beats))
    assert _edit(client, track, edit="move bar starts", beats=1).time_at(0) == pytest.approx(
        before.time_at(1)
    )
    _edit(client, track, edit="move bar starts", beats=-1)
    _edit(client, track, edit="shift", by_s=0.03)
    snapped = _edit(client, track, edit="snap to attack", time_s=8.0)
    assert np.abs(snapped.time_at(beats) - (0.5 + beats / 2)).max() < 0.003, "back on the drums"
    steady = client.post(f"/api/tracks/{track}/grid", json={"edit": "step to other end", "time_s": 8.0})
    assert steady.status_code == 422 and "no step" in steady.json()["detail"]
    _edit(client, track, edit="set tempo", bpm=120.6, hold_s=0.5)
    stretched = _edit(client, track, edit="stretch", hold_s=0.5, line_s=10.5)
    assert stretched.bpm == pytest.approx(120.0, abs=0.05), "the line 50 ms off meets its attack"
    assert len(_edit(client, track, edit="add anchor", time_s=6.5).anchors) == 2
    assert float(_edit(client, track, edit="pin beat", time_s=10.5, to_s=10.54).time_at(20)) == pytest.approx(
        10.54
    )
    assert float(
        _edit(client, track, edit="move anchor", time_s=10.5, to_s=10.52).time_at(20)
    ) == pytest.approx(10.52)
    assert _edit(client, track, edit="tempo of this part", time_s=15, bpm=121).anchors[-1].bpm == 121
    assert len(_edit(client, track, edit="delete anchor", time_s=10.5).anchors) == 2
    assert len(_edit(client, track, edit="join anchors", start_s=0.5, end_s=12.5).anchors) >= 1
    job = finished(client, client.post(f"/api/tracks/{track}/grid/rescan", json={"kind": "steady"}))
    assert job["state"] == "done"
    found = client.get(f"/api/tracks/{track}").json()["grid"]
    rescanned = TempoMap(anchors_from(found["anchors"]), found["beats_per_bar"])
    assert found["by_hand"]
    assert np.abs(rescanned.time_at(rescanned.nearest_beat(4.5)) - 4.5) < 0.006
    other = by_title(client, "Two")
    taken = _edit(client, track, edit="take from another track", track_id=other, what="tempo", hold_s=4.5)
    assert taken.bpm == pytest.approx(126.0, abs=0.02)
    assert np.abs(taken.time_at(taken.nearest_beat(4.5)) - 4.5) < 0.006
    whole = _edit(client, track, edit="take from another track", track_id=other, what="map")
    assert float(whole.time_at(0)) == pytest.approx(float(taken.time_at(0)))


def test_drift_and_raster_follow_the_grid(client: TestClient, track: int) -> None:
    drift = client.get(f"/api/tracks/{track}/drift").json()
    assert max(map(abs, drift["offset_ms"])) < 3
    _edit(client, track, edit="shift", by_s=0.02)
    assert client.get(f"/api/tracks/{track}/drift").json()["offset_ms"][1] == pytest.approx(-20, abs=3)
    raster = client.get(f"/api/tracks/{track}/raster").content
    bars, columns, first, margin = struct.unpack_from("<iiif", raster)
    assert len(raster) == 16 + 2 * bars * columns
    rows = np.frombuffer(raster, np.uint8, bars * columns, 16 + bars * columns).reshape(bars, columns)
    line = round(margin / (1 + 2 * margin) * columns)
    late = int(np.argmax(rows[1:-1].astype(int).sum(axis=0)[line - 12 : line + 12])) - 12
    assert first == 0 and -6 <= late <= -1, "stripes stand left of the line: the attacks come before it"


def test_taps_are_made_exact_by_the_sound(client: TestClient, track: int) -> None:
    taps = [4.51, 5.0, 5.48, 6.02, 6.5, 7.01, 7.49, 8.0]
    found = client.post(f"/api/tracks/{track}/taps", json={"taps_s": taps}).json()
    assert found["bpm"] == pytest.approx(120.0, abs=0.1) and found["by_onsets"]
    assert 0 < found["spread_bpm"] < 2


def test_cues_stay_when_the_grid_changes_and_move_onto_it_when_asked(client: TestClient, track: int) -> None:
    path = f"/api/tracks/{track}/cues"
    cue = client.post(path, json={"position_s": 4.5, "label": "verse", "pad": 3}).json()
    loop = client.post(path, json={"position_s": 2.5, "length_beats": 4, "pad": 7}).json()
    _edit(client, track, edit="shift", by_s=0.05)
    assert [c["position_s"] for c in client.get(f"/api/tracks/{track}").json()["cues"]] == [
        loop["position_s"],
        cue["position_s"],
    ]
    told = client.post(f"{path}/onto-grid", json={}).json()
    assert [move["by_ms"] for move in told] == pytest.approx([50, 50], abs=0.1)
    assert client.get(f"/api/tracks/{track}").json()["cues"][1]["position_s"] == cue["position_s"], (
        "only told"
    )
    client.post(f"{path}/onto-grid", json={"apply": True})
    moved = client.get(f"/api/tracks/{track}").json()["cues"]
    assert [c["position_s"] for c in moved] == pytest.approx(
        [loop["position_s"] + 0.05, cue["position_s"] + 0.05]
    )
    assert moved[0]["length_s"] == pytest.approx(2.0, abs=0.01)
    assert client.patch(f"{path}/{cue['id']}", json={"move_ms": -7}).json()["position_s"] == pytest.approx(
        cue["position_s"] + 0.043
    )
    assert [c["pad"] for c in client.post(f"{path}/number-pads").json()] == [1, 2]
    assert client.get("/api/cue-labels").json()[0] == "verse"


@pytest.mark.parametrize(
    ("part", "call"),
    [
        ("grid", lambda c, t: c.post(f"/api/tracks/{t}/grid", json={"edit": "halve"})),
        ("grid", lambda c, t: c.delete(f"/api/tracks/{t}/grid")),
        ("cues", lambda c, t: c.post(f"/api/tracks/{t}/cues", json={"position_s": 2})),
        ("cues", lambda c, t: c.post(f"/api/tracks/{t}/cues/number-pads")),
        ("tags", lambda c, t: c.put("/api/tracks/rating", json={"ids": [t], "stars": 2})),
    ],
)
def test_a_locked_part_refuses_and_says_so(client: TestClient, track: int, part: str, call: Any) -> None:
    before = client.get(f"/api/tracks/{track}").json()
    client.put("/api/tracks/locks", json={"ids": [track], "part": part, "locked": True})
    said = client.get(f"/api/tracks/{track}/values").json()
    held = {value["field"]: value for value in said if value["source"] == "locked"}
    assert all((value["origin"] is None) == (value["text"] is None) for value in held.values())
    answer = call(client, track)
    assert (
        answer.status_code == 422
        and f"The {part} of “One”" in answer.json()["detail"]
        and "locked" in answer.json()["detail"]
    )
    after = client.get(f"/api/tracks/{track}").json()
    assert after["track"]["locks"] == [part]
    assert (after["grid"], after["cues"], after["track"]["rating"]) == (
        before["grid"],
        before["cues"],
        before["track"]["rating"],
    )


def test_a_template_is_shown_first_then_set_but_not_over_a_lock(client: TestClient, track: int) -> None:
    other = by_title(client, "Two")
    for each in (track, other):
        client.post(f"/api/tracks/{each}/cues", json={"position_s": 12.5, "role": "main"})
    client.put("/api/tracks/locks", json={"ids": [other], "part": "cues", "locked": True})
    wanted = {
        "name": "Two bars before",
        "cues": [{"place": "main", "offset_beats": -8, "label": "ready", "length_beats": 4}],
    }
    template = client.post("/api/templates", json=wanted).json()["id"]
    use = f"/api/templates/{template}"
    told = client.post(f"{use}/preview", json={"ids": [track, other]}).json()
    assert [(len(r["wanted"]), r["hindrance"]) for r in told["results"]] == [
        (1, ""),
        (1, "its cues are locked"),
    ]
    assert len(client.get(f"/api/tracks/{track}").json()["cues"]) == 1
    result = client.post(f"{use}/use", json={"ids": [track, other]}).json()
    assert (result["cues"], result["tracks"], result["hindered"]) == (1, 1, 1)
    first, _ = client.get(f"/api/tracks/{track}").json()["cues"]
    assert (first["label"], first["position_s"]) == ("ready", pytest.approx(8.5, abs=0.01))
    assert len(client.get(f"/api/tracks/{other}").json()["cues"]) == 1
    again = client.post(f"{use}/preview", json={"ids": [track]}).json()
    assert again["results"][0]["wanted"][0]["there"], "a second time nothing is added"
    client.post(f"/api/tracks/{track}/cues", json={"position_s": 8.5, "label": "mine"})
    gone = client.post(f"{use}/take-away", json={"ids": [track, other]}).json()
    assert (gone["cues"], gone["tracks"], gone["hindered"]) == (1, 1, 1)
    kept = [cue["label"] for cue in client.get(f"/api/tracks/{track}").json()["cues"]]
    assert kept == ["mine", ""], "what stands there under another name is not the template’s"
    client.put("/api/tracks/locks", json={"ids": [other], "part": "cues", "locked": False})


def test_all_cues_of_a_kind_go_at_once_and_come_back(client: TestClient, track: int) -> None:
    other = by_title(client, "Two")
    several = [
        {"position_s": 2.5, "role": "in", "pad": 1},
        {"position_s": 6.5, "pad": 2},
        {"position_s": 8.5, "length_beats": 4},
        {"position_s": 12.5, "role": "main"},
    ]
    for each in (track, other):
        kept = client.get(f"/api/tracks/{each}").json()["cues"]
        client.post("/api/tracks/cues/delete", json={"ids": [each], "kind": "all"})
        assert not client.get(f"/api/tracks/{each}").json()["cues"], kept
        client.post(f"/api/tracks/{each}/cues/several", json={"cues": several})
    client.put("/api/tracks/locks", json={"ids": [other], "part": "cues", "locked": True})
    counted = client.post("/api/tracks/cues/count", json={"ids": [track, other]}).json()
    assert {each["kind"]: each["cues"] for each in counted} == {
        "all": 4, "others": 2, "roles": 2, "pads": 2, "loops": 1,
    }  # fmt: skip

    def left(kind: str) -> list[float]:
        gone = client.post("/api/tracks/cues/delete", json={"ids": [track, other], "kind": kind}).json()
        assert gone["tracks"] == 1 and gone["locked"] == 1
        found = [cue["position_s"] for cue in client.get(f"/api/tracks/{track}").json()["cues"]]
        shown = row(client, track)["cues"].split()
        assert sum(int(each) if each.isdigit() else 1 for each in shown) == len(found), "the list follows"
        client.post("/api/undo")
        assert len(client.get(f"/api/tracks/{track}").json()["cues"]) == 4
        return [round(each, 1) for each in found]

    assert left("all") == []
    assert left("others") == [2.5, 12.5]
    assert left("roles") == [6.5, 8.5]
    assert left("pads") == [8.5, 12.5]
    assert left("loops") == [2.5, 6.5, 12.5]
    assert len(client.get(f"/api/tracks/{other}").json()["cues"]) == 4
    client.put("/api/tracks/locks", json={"ids": [other], "part": "cues", "locked": False})


def test_what_is_left_follows_the_rules_that_are_set(client: TestClient, track: int) -> None:
    assert (
        client.put(
            "/api/finish-rules",
            json={"grid": "locked", "key": False, "cues": 2, "roles": ["in"], "stars": True},
        ).status_code
        == 200
    )
    left = lambda: row(client, track)["left"]  # noqa: E731
    client.put("/api/tracks/rating", json={"ids": [track], "stars": 0})
    assert left() == ["grid", "cues", "tags"]
    client.put("/api/tracks/locks", json={"ids": [track], "part": "grid", "locked": True})
    several = [{"position_s": 2.5, "role": "in"}, {"position_s": 8.5}]
    client.post(f"/api/tracks/{track}/cues/several", json={"cues": several})
    client.put("/api/tracks/rating", json={"ids": [track], "stars": 3})
    assert left() == []
    client.post("/api/undo")
    assert left() == ["tags"]
    client.put("/api/finish-rules", json={})


def test_a_route_is_kept_heard_and_written_as_a_new_file(
    client: TestClient, track: int, tmp_path: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = f"/api/tracks/{track}/routes"
    source = client.get(f"/api/tracks/{track}").json()["track"]
    made = client.post(path, json={"name": "short", "jumps": [{"from_s": 4.5, "to_s": 12.5}]}).json()
    assert made["length_s"] == pytest.approx(source["duration_s"] - 8.0)
    assert row(client, track)["routes"] == 1
    heard = finished(client, client.post(f"{path}/{made['id']}/heard"))["result"]
    assert 0 < heard["energy"] <= 100 and heard["lufs"] < 0
    job = finished(client, client.post(f"{path}/{made['id']}/audio", json={"form": "wav"}))
    answer = client.get(f"/api/jobs/{job['id']}/file")
    assert "One (short).wav" in unquote(answer.headers["content-disposition"])
    (tmp_path / "route.wav").write_bytes(answer.content)
    sound = decode(tmp_path / "route.wav").samples
    assert sound.shape[1] == pytest.approx((source["duration_s"] - 8.0) * 44100, abs=2)
    monkeypatch.setattr("vinyl.jobs.listening_again.KEPT_EXPORTS", 2)
    later = [finished(client, client.post(f"{path}/{made['id']}/audio", json={"form": "wav"})) for _ in "12"]
    kept = [client.get(f"/api/jobs/{each['id']}/file").status_code for each in (job, *later)]
    assert kept == [404, 200, 200], "the newest files are kept, older ones make room"
    refused = client.put(f"{path}/{made['id']}", json={"name": "bad", "jumps": [{"from_s": 4, "to_s": 99}]})
    assert refused.status_code == 422 and "outside the track" in refused.json()["detail"]
    assert client.delete(f"{path}/{made['id']}").status_code == 204
    assert client.post(f"{path}/{made['id']}/heard").status_code == 404


def test_colours_get_names_and_signs(client: TestClient) -> None:
    named = client.put(
        "/api/cue-colours", json=[{"colour": "blue", "name": "vocals", "sign": "V", "hex": "#3366aa"}]
    ).json()
    assert {"colour": "blue", "name": "vocals", "sign": "V", "hex": "#3366aa"} in named
    client.post("/api/undo")
    assert {"colour": "blue", "name": "blue", "sign": "●", "hex": None} in client.get(
        "/api/cue-colours"
    ).json()
