"""The API through HTTP: what it answers, and what it refuses with which words."""

from __future__ import annotations

import io
import json
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.api.conftest import by_title, finished
from tests.patience import wait_for
from vinyl.media.tags import Tags, write_tags


def test_a_track_comes_with_its_grid_and_sound(client: TestClient) -> None:
    track = by_title(client, "Two")
    found = client.get(f"/api/tracks/{track}").json()
    assert found["track"]["bpm"] == pytest.approx(126.0, abs=0.02)
    assert found["grid"]["kind"] == "steady"
    pcm = client.get(f"/api/tracks/{track}/listening", params={"first_frame": 1000, "frames": 500})
    assert len(np.frombuffer(pcm.content, np.int16)) == 1000
    assert client.get(f"/api/tracks/{track}/waveform").content[:4] == b"VWF3"
    index = client.post("/api/tracks/pictures", json={"where": {"kind": "all", "parts": []}}).json()
    assert index["genre"] == {"House": 3} and index["bpm"]["126"] + index["bpm"].get("125", 0) >= 1


def test_cues_snap_move_and_loop_in_beats(client: TestClient) -> None:
    track = by_title(client, "One")
    cue = client.post(
        f"/api/tracks/{track}/cues",
        json={"position_s": 3.12, "length_beats": 8, "role": "main", "label": " Drop "},
    ).json()
    assert cue["position_s"] == pytest.approx(3.0, abs=0.006)
    assert cue["length_s"] == pytest.approx(4.0, abs=0.005)
    assert (cue["label"], cue["colour"]) == ("Drop", "vermilion")
    moved = client.patch(
        f"/api/tracks/{track}/cues/{cue['id']}", json={"move_beats": -2, "length_beats": None, "role": None}
    ).json()
    assert moved["position_s"] == pytest.approx(2.0, abs=0.006)
    assert moved["length_s"] is None and moved["role"] is None and moved["label"] == "Drop"
    assert client.get("/api/undo").json()["undo"]["name"] == "Change a cue: One"
    client.post("/api/undo")
    assert client.get(f"/api/tracks/{track}").json()["cues"][0]["role"] == "main"


def test_grid_edits_and_the_way_back(client: TestClient) -> None:
    track = by_title(client, "One")
    path = f"/api/tracks/{track}/grid"
    before = client.get(f"/api/tracks/{track}").json()["grid"]
    assert client.post(path, json={"edit": "double"}).json()["anchors"][0]["bpm"] == pytest.approx(
        240, abs=0.1
    )
    stepped = client.post(path, json={"edit": "tempo from here", "time_s": 10, "bpm": 130}).json()
    assert stepped["kind"] == "stepped" and stepped["by_hand"]
    step = {"edit": "step tempo", "by_bpm": 0.1, "reach": "this part", "time_s": 12}
    client.post(path, json=step)
    again = client.post(path, json=step).json()["anchors"]
    assert again[-1]["bpm"] == pytest.approx(130.2) and again[:-1] == stepped["anchors"][:-1]
    assert client.delete(path).json() == before


ALL: dict[str, object] = {"kind": "all", "parts": []}
DEEP = ALL
for _ in range(20):
    DEEP = {"kind": "none", "parts": [DEEP]}
REFUSED = [
    ("POST", "/api/imports", {"paths": ["/etc"]}, 403, "outside the folders"),
    ("POST", "/api/imports", {"paths": []}, 422, "paths"),
    ("POST", "/api/imports", {}, 422, "paths: Field required"),
    ("GET", "/api/folders?path=/proc/self", None, 403, "--allow"),
    ("GET", "/api/imports/99/files?limit=0", None, 422, "limit"),
    ("POST", "/api/jobs/99/cancel", None, 404, "no job 99"),
    ("GET", "/api/jobs/1/file", None, 404, "write the route anew"),
    ("GET", "/api/tracks/999", None, 404, "not in the library"),
    ("GET", "/api/tracks/nonsense", None, 422, "track_id"),
    ("POST", "/api/tracks/rows", {"ids": ["x"]}, 422, "ids"),
    ("POST", "/api/tracks/find", {"where": ALL, "sort": "shoe size"}, 422, "sort"),
    (
        "POST",
        "/api/tracks/find",
        {"where": ALL, "sort": "crate"},
        422,
        "order of their own",
    ),
    ("POST", "/api/tracks/find", {"where": {"kind": "key", "key": "H"}}, 422, "is not a key"),
    ("POST", "/api/tracks/find", {"where": {"kind": "colour"}}, 422, "where"),
    ("POST", "/api/tracks/find", {"where": {"kind": "text", "field": "path", "text": "x"}}, 422, "field"),
    ("POST", "/api/tracks/find", {"where": DEEP}, 422, "deep"),
    ("PUT", "/api/value-rules", {"field": "genre", "order": ["locked"]}, 422, ""),
    ("GET", "/api/tracks/1/listening?first_frame=-1&frames=5", None, 422, "first_frame"),
    ("GET", "/api/tracks/1/picture", None, 404, "no picture"),
    ("PUT", "/api/tracks/rating", {"ids": [1], "stars": 6}, 422, "stars"),
    ("POST", "/api/tracks/1/grid", {"edit": "set tempo", "bpm": 900}, 422, "between 30 and 300 bpm"),
    ("POST", "/api/tracks/1/grid", {"edit": "set tempo", "bpm": "fast"}, 422, "valid number"),
    ("POST", "/api/tracks/1/grid", {"edit": "explode"}, 422, "edit"),
    ("POST", "/api/tracks/999/grid", {"edit": "halve"}, 404, "not in the library"),
    ("POST", "/api/tracks/1/cues", {"position_s": -1}, 422, "position_s"),
    ("POST", "/api/tracks/1/cues", {"position_s": 1e5}, 422, "within the track"),
    ("POST", "/api/tracks/1/cues", {"position_s": 19, "length_beats": 64}, 422, "past the end"),
    ("POST", "/api/tracks/1/cues", {"position_s": 1, "pad": 9}, 422, "pad"),
    ("PATCH", "/api/tracks/1/cues/999", {"label": "x"}, 404, "no longer there"),
    ("POST", "/api/crates", {"name": "   "}, 422, "needs a name"),
    ("PATCH", "/api/crates/99", {"name": "x"}, 404, "no longer there"),
    ("POST", "/api/crates/99/tracks", {"ids": [1]}, 404, "no longer there"),
    ("POST", "/api/redo", None, 404, "nothing to redo"),
    ("POST", "/api/sticks", {"name": "x", "capacity_mb": 0}, 422, "capacity_mb"),
    ("POST", "/api/sticks", {"name": "x", "capacity_mb": 100, "profile": "Other"}, 409, "knows no player"),
    ("POST", "/api/sticks/99/plan", None, 404, "does not know this stick"),
    ("GET", "/api/nothing", None, 404, "nothing under"),
]


@pytest.mark.parametrize(("method", "path", "body", "status", "words"), REFUSED)
def test_bad_requests_are_refused_in_words(
    client: TestClient, method: str, path: str, body: object, status: int, words: str
) -> None:
    answer = client.request(method, path, json=body)
    assert answer.status_code == status, answer.text
    assert words in answer.json()["detail"]


def test_a_track_that_is_away_says_so(client: TestClient) -> None:
    answer = client.get(f"/api/tracks/{by_title(client, 'Missing')}/listening?first_frame=0&frames=10")
    assert answer.status_code == 404
    assert "away" in answer.json()["detail"]


@pytest.mark.parametrize(
    "headers",
    [
        {"Host": "evil.example"},
        {"Host": "evil.example:8420"},
        {"Origin": "http://evil.example"},
        {"Origin": "http://127.0.0.1:9999"},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
    ],
)
def test_other_hosts_and_origins_are_turned_away(client: TestClient, headers: dict[str, str]) -> None:
    assert client.get("/api/crates", headers=headers).status_code == 403
    assert client.post("/api/undo", headers=headers).status_code == 403


def test_every_answer_tells_the_browser_what_it_may_do(client: TestClient) -> None:
    for path in ("/", "/api/crates", "/api/nothing", "/api/tracks/1/waveform"):
        headers = client.get(path).headers
        policy = headers["content-security-policy"]
        assert "script-src 'self' 'wasm-unsafe-eval';" in policy and "frame-ancestors 'none'" in policy, path
        assert headers["x-content-type-options"] == "nosniff", path


def test_an_answer_tells_what_it_changed(client: TestClient) -> None:
    track = by_title(client, "Two")
    answer = client.put("/api/tracks/rating", json={"ids": [track], "stars": 4})
    told = json.loads(answer.headers["x-vinyl-changed"])
    assert {topic for event in told for topic in event["topics"]} >= {"tracks", "undo"}
    assert any(event["track_ids"] == [track] for event in told)
    assert "x-vinyl-changed" not in client.get("/api/crates").headers


def test_values_are_told_with_their_sources_and_the_order_can_be_changed(client: TestClient) -> None:
    track = by_title(client, "One")
    values = {(v["field"], v["source"]): v for v in client.get(f"/api/tracks/{track}/values").json()}
    assert values["title", "file tag"]["wins"] and values["tempo", "analysis"]["wins"]
    rules = client.get("/api/value-rules").json()
    genre = next(rule for rule in rules if rule["field"] == "genre")
    turned = {"field": "genre", "order": genre["order"][::-1]}
    assert client.put("/api/value-rules", json=turned).status_code == 200
    told = next(rule for rule in client.get("/api/value-rules").json() if rule["field"] == "genre")
    assert told["order"] == turned["order"]
    client.post("/api/undo")


def test_files_of_an_import_are_tried_again_and_told_as_text(client: TestClient) -> None:
    music = Path(client.get("/api/imports").json()[0]["folder"])
    bad = music / "Bad.mp3"
    bad.write_bytes(b"ID3\x04\x00" + bytes(3000))
    run = client.post("/api/imports", json={"paths": [str(bad)]})
    job = finished(client, run)
    report = client.get(f"/api/imports/{job['id']}/report", params={"outcome": "broken"}).text
    assert report.startswith(f"broken\t{bad}\t") and report.count("\n") == 1
    bad.write_bytes((music / "One.flac").read_bytes())
    again = finished(client, client.post(f"/api/imports/{job['id']}/again", json={"outcome": "broken"}))
    files = client.get(f"/api/imports/{again['id']}/files").json()
    assert [file["outcome"] for file in files] == ["already here"], (
        "the very sound of another, noted as a copy"
    )
    bad.unlink()
    gone = client.post(f"/api/imports/{job['id']}/again", json={"paths": [str(bad)]})
    assert (gone.status_code, gone.json()["detail"]) == (403, "None of these files is there any more.")


def test_watched_folders_must_be_allowed_and_stay_while_they_are_away(client: TestClient) -> None:
    music = Path(client.get("/api/imports").json()[-1]["folder"])
    extra = music / "extra"
    extra.mkdir()
    assert client.put("/api/watched", json={"folders": ["/etc"]}).status_code == 403
    client.put("/api/watched", json={"folders": [str(extra)]})
    extra.rmdir()
    listed = client.put("/api/watched", json={"folders": [str(extra)]}).json()
    assert listed["folders"] == [{"path": str(extra), "there": False}]
    assert client.put("/api/watched", json={"folders": []}).json()["folders"] == []


def test_sticks_through_pulling_and_a_full_stick(client: TestClient) -> None:
    crate = client.post("/api/crates", json={"name": "Gig"}).json()["id"]
    client.post(
        f"/api/crates/{crate}/tracks", json={"ids": [by_title(client, "One"), by_title(client, "Two")]}
    )
    stick = client.post("/api/sticks", json={"name": "Tiny: stick", "capacity_mb": 1}).json()
    path = f"/api/sticks/{stick['id']}"
    assert client.post("/api/sticks", json={"name": "Tiny: stick", "capacity_mb": 1}).status_code == 409
    client.put(f"{path}/crates", json={"crate_ids": [crate]})
    assert client.post(f"{path}/plan").json()["missing_bytes"] > 0
    client.post(f"{path}/pack")
    run = wait_for(
        lambda: (r := client.get("/api/sticks").json()[0]["last_run"])["state"] == "failed" and r,
        "packing to fail",
    )
    assert "The stick is full" in run["error"]
    client.post(f"{path}/pull")
    for call in (client.post(f"{path}/plan"), client.post(f"{path}/pack")):
        assert call.status_code == 409 and "not in the computer" in call.json()["detail"]
    assert client.get("/player/sticks").json()[0]["problem"].startswith("There is nothing on it")
    folder = Path(stick["folder"])
    assert client.get(f"/player/sticks/{folder.name}/files/..%2F..%2Flibrary.db").status_code == 404
    assert client.get("/player/sticks/..%2F/files/library.db").status_code == 404


def test_a_sleeve_is_asked_for_again_only_when_its_file_is_another(client: TestClient) -> None:
    song = next(Path(row["path"]) for row in rows_of(client) if row["path"].endswith("Two.flac"))
    track = by_title(client, "Two")
    seen = []
    for colour in ("olive", "navy"):
        buffer = io.BytesIO()
        Image.new("RGB", (40, 40), colour).save(buffer, "PNG")
        write_tags(song, Tags(picture=buffer.getvalue()))
        finished(client, client.post("/api/imports", json={"paths": [str(song)]}))
        answer = client.get(f"/api/tracks/{track}/picture")
        assert answer.content[:2] == b"\xff\xd8"
        again = client.get(f"/api/tracks/{track}/picture", headers={"If-None-Match": answer.headers["ETag"]})
        assert (again.status_code, again.content) == (304, b"")
        seen.append((answer.headers["ETag"], answer.content))
    assert len(set(seen)) == 2 and len({etag for etag, _ in seen}) == 2


def rows_of(client: TestClient) -> list[dict[str, Any]]:
    found = {"where": {"kind": "words", "text": ""}, "sort": "title"}
    return list(client.post("/api/tracks/find", json=found).json()["rows"])


def test_what_is_read_is_answered_while_fifty_wait_to_write(client: TestClient) -> None:
    """Another program holds the library; undo says so in words, and nothing is lost of what waits."""
    library = client.app.state.services.database.path  # type: ignore[attr-defined]
    before = len(client.get("/api/crates").json())
    with closing(sqlite3.connect(library, isolation_level=None)) as other, ThreadPoolExecutor(52) as pool:
        other.execute("BEGIN IMMEDIATE")
        names = [f"Waiting {number}" for number in range(50)]
        waiting = [pool.submit(client.post, "/api/crates", json={"name": name}) for name in names]
        for path in ("/api/undo", "/api/crates", "/api/gigs"):
            assert client.get(path).status_code == 200
        assert (
            client.post("/api/tracks/find", json={"where": {"kind": "words", "text": ""}}).status_code == 200
        )
        assert not any(each.done() for each in waiting)
        other.execute("ROLLBACK")
        assert {each.result().status_code for each in waiting} == {201}
    assert len(client.get("/api/crates").json()) == before + 50
    for _ in range(50):
        assert client.post("/api/undo").status_code == 200
