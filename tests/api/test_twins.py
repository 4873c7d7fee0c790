"""Twins over HTTP, on real files: found, looked at, settled with all their work, undone, put aside."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from tests.patience import wait_for
from tests.running import OPEN
from tests.signals import RATE_HZ
from vinyl.api.app import create_app
from vinyl.demo.fresh import fresh_score
from vinyl.demo.render import render
from vinyl.library.lock import KEY_HEADER
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags
from vinyl.operations.services import Settings

SILENCE_S, LENGTH_S = 0.41, 60.0


def _piece(seed: int) -> np.ndarray[Any, Any]:
    return render(fresh_score(seed))[:, : int(LENGTH_S * RATE_HZ)]


@pytest.fixture(scope="module")
def recordings() -> list[np.ndarray[Any, Any]]:
    return [_piece(seed) for seed in (91, 92, 93)]


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where a home and its music lie, as they were analysed, for each test anew."""
    return tmp_path_factory.mktemp("twins") / "place"


@pytest.fixture(scope="module")
def kept(place: Path, recordings: list[np.ndarray[Any, Any]]) -> Path:
    """Tide as FLAC, as MP3 with silence before, and a noted copy; Pier twice and an edit of it; Gull."""
    music = place / "music"
    tide, pier, gull = recordings
    silence = np.zeros((2, round(SILENCE_S * RATE_HZ)), np.float32)
    cut = pier[:, 25 * RATE_HZ :]
    for folder, title, samples, form in (
        ("a", "Tide", tide, "flac"),
        ("b", "Tide in March", np.hstack([silence, tide]), "mp3"),
        ("a", "Pier", pier, "flac"),
        ("b", "Pier 1", pier, "mp3"),
        ("c", "Pier short", cut, "mp3"),
        ("a", "Gull", gull, "flac"),
    ):
        (music / folder).mkdir(parents=True, exist_ok=True)
        file = music / folder / f"{title}.{form}"
        encode(samples, RATE_HZ, file, form)
        write_tags(file, Tags(title, "Kelp Union", genre="House"))
    (music / "z").mkdir()
    shutil.copy(music / "a" / "Tide.flac", music / "z" / "Tide again.flac")
    with _opened(place) as made:
        made.post("/api/imports", json={"paths": [str(music)]})
        _at_rest(made)
    return place.rename(place.with_name("kept"))


@pytest.fixture
def client(kept: Path, place: Path) -> Iterator[TestClient]:
    shutil.rmtree(place, ignore_errors=True)
    shutil.copytree(kept, place)
    with _opened(place) as made:
        yield made


def _opened(place: Path) -> TestClient:
    music = (place / "music",)
    app = create_app(Settings(place / "home", place / "web", allow=music, offered=music, workers=2, nice=0))
    key = {KEY_HEADER: app.state.services.key}
    return TestClient(app, base_url="http://127.0.0.1:8420", headers=key)


def _at_rest(client: TestClient) -> None:
    wait_for(
        lambda: (
            not [j for j in client.get("/api/jobs").json() if j["state"] in OPEN]
            and client.get("/api/twins").json()["unseen"] == 0
        ),
        "the end of all work",
    )


def _groups(client: TestClient) -> dict[str, dict[str, Any]]:
    return {f"{each['kind']} {each['title']}": each for each in client.get("/api/twins").json()["groups"]}


def _cues(client: TestClient, track: int) -> list[dict[str, Any]]:
    return list(client.get(f"/api/tracks/{track}").json()["cues"])


def _work(client: TestClient) -> tuple[int, int, int]:
    """Work done on the MP3 of Tide, in a list before and after others; ids of both and of the list."""
    tide, march = by_title(client, "Tide"), by_title(client, "Tide in March")
    for pad, at_s in ((1, 8.41), (2, 30.0 + SILENCE_S)):
        cue = {"position_s": at_s, "length_s": None, "label": f"at {pad}", "colour": "violet", "pad": pad}
        assert client.post(
            f"/api/tracks/{march}/cues", json={**cue, "role": None, "engages": False}
        ).is_success
    client.put("/api/tracks/rating", json={"ids": [march], "stars": 5}).raise_for_status()
    client.post("/api/tracks/played", json={"ids": [march]})
    crate = client.post("/api/crates", json={"name": "Quay"}).json()["id"]
    client.post(f"/api/crates/{crate}/tracks", json={"ids": [by_title(client, "Gull"), march]})
    client.put("/api/tracks/locks", json={"ids": [march], "part": "grid", "locked": True}).raise_for_status()
    return tide, march, crate


def _in_list(client: TestClient, crate: int) -> list[str]:
    asked = {"where": {"kind": "list", "list_id": crate}, "sort": "crate", "crate_id": crate}
    return [each["title"] for each in client.post("/api/tracks/find", json=asked).json()["rows"]]


def test_a_group_is_settled_with_all_its_work_and_undone_with_its_files(client: TestClient) -> None:
    tide, march, crate = _work(client)
    set_at = [cue["position_s"] for cue in _cues(client, march)]
    groups = _groups(client)
    assert set(groups) == {"sure Tide", "sure Pier", "edit Pier"}, groups
    assert groups["sure Tide"]["files"] == 3 and "0.4 s later" in groups["sure Tide"]["words"]
    told = client.post("/api/twins/group", json={"track_ids": sorted((tide, march))}).json()
    assert told["kept_id"] == tide and told["reason"] == "the better sound"
    second = next(each for each in told["tracks"] if each["track_id"] != told["track_ids"][0])
    assert abs(second["offset_s"]) == pytest.approx(SILENCE_S, abs=0.003) and second["speed"] == 1.0
    wanted = {"kept_id": tide, "copy_ids": [march], "copies": [each["path"] for each in told["copies"]]}
    look = client.post("/api/twins/look", json=wanted).json()
    assert (
        not look["lost"] and "2 cues" in " ".join(look["carried"]) and "-0.41 s" in " ".join(look["carried"])
    )

    files = [Path(row(client, each)["path"]) for each in (tide, march)] + [Path(wanted["copies"][0])]
    assert client.post("/api/twins/settle", json={**wanted, "seal": "as it was"}).status_code == 422
    client.post("/api/twins/settle", json={**wanted, "seal": look["seal"]}).raise_for_status()
    _at_rest(client)
    cues = _cues(client, tide)
    assert [cue["position_s"] + SILENCE_S for cue in cues] == pytest.approx(set_at, abs=0.005)
    assert [(cue["pad"], cue["label"]) for cue in cues] == [(1, "at 1"), (2, "at 2")]
    kept = row(client, tide)
    assert (kept["plays"], kept["rating"], kept["locks"]) == (1, 5, ["grid"])
    assert _in_list(client, crate) == ["Gull", "Tide"]
    assert [path.exists() for path in files] == [True, False, False] and set(_groups(client)) == {
        "sure Pier",
        "edit Pier",
    }
    aside = client.get("/api/off-shelf").json()
    assert {(each["is_copy"], each["why"]) for each in aside} == {
        (False, "a copy of Tide.flac"),
        (True, "the very sound of Tide.flac"),
    }
    assert all(Path(each["kept"]).exists() for each in aside)

    client.post("/api/undo").raise_for_status()
    _at_rest(client)
    assert all(path.exists() for path in files) and not client.get("/api/off-shelf").json()
    assert len(_cues(client, march)) == 2 and not _cues(client, tide) and row(client, march)["plays"] == 1
    assert _in_list(client, crate) == ["Gull", "Tide in March"] and "sure Tide" in _groups(client)
    client.post("/api/redo").raise_for_status()
    _at_rest(client)
    assert [path.exists() for path in files] == [True, False, False] and len(_cues(client, tide)) == 2


def test_all_sure_groups_are_settled_in_one_step_and_what_must_be_looked_at_is_left(
    client: TestClient,
) -> None:
    tide, march, _ = _work(client)
    pier, other = by_title(client, "Pier"), by_title(client, "Pier 1")
    told = client.get("/api/twins/sure").json()
    assert (told["groups"], told["files"], told["cues"], told["plays"], told["places"]) == (2, 3, 2, 1, 1)
    for track, comment in ((pier, "warm"), (other, "cold")):
        told = {"ids": [track], "values": {"comment": comment}}
        client.put("/api/tracks/values", json=told).raise_for_status()
    job = finished(client, client.post("/api/twins/sure", json={}))
    assert job["state"] == "done" and job["failures"] == 1
    (failed,) = client.get(f"/api/jobs/{job['id']}/failures").json()
    assert "comment was set by hand in both" in failed["reason"]
    _at_rest(client)
    assert set(_groups(client)) == {"sure Pier", "edit Pier"} and len(_cues(client, tide)) == 2
    client.post("/api/undo").raise_for_status()
    _at_rest(client)
    assert len(_cues(client, march)) == 2 and {"sure Tide", "sure Pier"} <= set(_groups(client))


def test_what_the_user_says_of_groups_is_kept(client: TestClient) -> None:
    pier, short = by_title(client, "Pier"), by_title(client, "Pier short")
    edit = _groups(client)["edit Pier"]["track_ids"]
    assert {pier, short} <= set(edit)
    client.put(
        "/api/versions", json={"track_ids": edit, "name": "Pier", "kinds": {short: "radio"}}
    ).raise_for_status()
    assert "edit Pier" not in _groups(client)
    versions = client.get(f"/api/tracks/{pier}/versions").json()
    assert {each["track_id"]: each["kind"] for each in versions}[short] == "radio"
    client.post("/api/undo")
    assert "edit Pier" in _groups(client) and not client.get(f"/api/tracks/{pier}/versions").json()

    sure = _groups(client)["sure Pier"]["track_ids"]
    client.post("/api/twins/later", json={"track_ids": sure, "later": True}).raise_for_status()
    assert (
        client.get("/api/twins").json()["groups"][-1]["later"]
        and client.get("/api/twins/sure").json()["groups"] == 1
    )
    client.post("/api/twins/not", json={"track_ids": sure}).raise_for_status()
    client.post("/api/twins/search")
    _at_rest(client)
    assert "sure Pier" not in _groups(client)

    order = {"reasons": ["folder", "sound", "work", "plays", "lists", "tags"], "folders": []}
    order["folders"] = [str(Path(row(client, by_title(client, "Tide in March"))["path"]).parent)]
    client.put("/api/twins/order", json=order).raise_for_status()
    tides = _groups(client)["sure Tide in March"]["track_ids"]
    told = client.post("/api/twins/group", json={"track_ids": tides}).json()
    assert told["kept_id"] == by_title(client, "Tide in March") and "folder" in told["reason"]


def test_arrivals_say_what_is_there_already_and_a_list_that_names_a_copy_means_the_kept_file(
    client: TestClient, place: Path
) -> None:
    (run,) = [each for each in client.get("/api/jobs").json() if each["kind"] == "import"]
    files = client.get(f"/api/imports/{run['id']}/files").json()
    told = {Path(each["path"]).name: each["twin"] for each in files}
    assert told["Tide in March.mp3"] == "you have this: Tide.flac, in better quality"
    assert told["Tide.flac"] is None and told["Gull.flac"] is None

    tide, march = by_title(client, "Tide"), by_title(client, "Tide in March")
    path = Path(row(client, march)["path"])
    wanted: dict[str, Any] = {"kept_id": tide, "copy_ids": [march]}
    seal = client.post("/api/twins/look", json=wanted).json()["seal"]
    client.post("/api/twins/settle", json={**wanted, "seal": seal}).raise_for_status()
    assert client.post("/api/twins/look", json=wanted).json() is None, "it is off the Shelf"
    assert client.post("/api/twins/group", json={"track_ids": [tide, march]}).json() is None
    answer = client.post("/api/twins/settle", json={**wanted, "seal": seal})
    assert answer.status_code in (404, 422), "as from a second window"
    _at_rest(client)
    playlist = place / "music" / "night.m3u8"
    playlist.write_text(f"#EXTM3U\n{path}\n")
    made = client.post("/api/playlists", json={"path": str(playlist), "name": "Night"})
    assert made.is_success, made.text
    _at_rest(client)
    (crate,) = [each["id"] for each in client.get("/api/crates").json() if each["name"] == "Night"]
    assert _in_list(client, crate) == ["Tide"]


def test_a_file_that_has_changed_or_is_gone_is_no_reason_to_lose_another(client: TestClient) -> None:
    tide, march, _ = _work(client)
    wanted: dict[str, Any] = {"kept_id": tide, "copy_ids": [march]}
    seal = client.post("/api/twins/look", json=wanted).json()["seal"]
    files = {each: Path(row(client, each)["path"]) for each in (tide, march)}
    os.utime(files[march], (1, 1))
    answer = client.post("/api/twins/settle", json={**wanted, "seal": seal})
    assert answer.status_code == 422 and "changed since it was analysed" in answer.json()["detail"]
    files[tide].rename(files[tide].with_suffix(".gone"))
    answer = client.post("/api/twins/settle", json={**wanted, "seal": seal})
    assert answer.status_code == 422 and "would be kept, and is not there" in answer.json()["detail"]
    assert files[march].exists() and len(_cues(client, march)) == 2 and row(client, march)["plays"] == 1


def test_a_noted_copy_becomes_the_tracks_file_and_can_give_way_again(client: TestClient) -> None:
    tide = by_title(client, "Tide")
    group = _groups(client)["sure Tide"]

    def files() -> tuple[str, list[str]]:
        told = client.post("/api/twins/group", json={"track_ids": group["track_ids"]}).json()
        (path,) = (each["path"] for each in told["tracks"] if each["track_id"] == tide)
        return path, [each["path"] for each in told["copies"]]

    had, (copy,) = files()
    client.post("/api/twins/use-copy", json={"track_id": tide, "path": copy}).raise_for_status()
    assert files() == (copy, [had])
    refused = client.post("/api/twins/use-copy", json={"track_id": tide, "path": copy})
    assert refused.status_code == 404 and "no copy" in refused.json()["detail"]
    Path(had).write_bytes(b"something else")
    refused = client.post("/api/twins/use-copy", json={"track_id": tide, "path": had})
    assert refused.status_code == 422 and "changed" in refused.json()["detail"]
    Path(had).unlink()
    assert client.post("/api/twins/use-copy", json={"track_id": tide, "path": had}).status_code == 422
    assert files() == (copy, [had])
