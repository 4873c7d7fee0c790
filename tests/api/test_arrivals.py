"""Arrivals through HTTP: foreign lists, wanted entries, analysis, tags written, files that are away."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from tests.patience import wait_for
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, read_tags, write_tags


@pytest.fixture
def music(client: TestClient) -> Path:
    return Path(client.get("/api/imports").json()[-1]["folder"])


def test_where_files_lie_is_told_with_what_is_not_in_vinyl_yet(client: TestClient, music: Path) -> None:
    (top,) = client.get("/api/disk-folders").json()
    assert top == {"name": music.name, "path": str(music), "tracks": 3, "there": True}
    (music / "later" / "deep").mkdir(parents=True)
    (music / "later" / "Not yet.flac").write_bytes((music / "One.flac").read_bytes())
    (music / "later" / "notes.txt").touch()
    look = lambda path: client.get("/api/disk-folders/in", params={"path": str(path)})  # noqa: E731
    inside = look(music).json()
    assert inside["tracks"] == 3 and inside["problem"] is None and "One.flac" not in inside["new"]
    later = next(folder for folder in inside["folders"] if folder["name"] == "later")
    assert later == {"name": "later", "path": str(music / "later"), "tracks": 0, "there": True}
    within = look(later["path"]).json()
    assert (within["new"], within["new_count"]) == (["Not yet.flac"], 1)
    assert [folder["name"] for folder in within["folders"]] == ["deep"]
    gone = look(music / "nowhere").json()
    assert "cannot be found now" in gone["problem"] and gone["folders"] == gone["new"] == []
    assert "--allow" in look("/proc").json()["problem"], "what the library knows is told all the same"
    shutil.rmtree(music / "later")


@pytest.mark.parametrize(("under", "count"), [("{}", 3), ("{}/", 3), ("{}/later", 0), ("/", 3), ("{}x", 0)])
def test_what_lies_under_a_folder_is_found(client: TestClient, music: Path, under: str, count: int) -> None:
    where = {"kind": "text", "field": "folder", "text": under.format(music), "how": "under"}
    assert client.post("/api/tracks/find", json={"where": where}).json()["total"] == count
    refused = client.post("/api/tracks/find", json={"where": {**where, "field": "title"}})
    assert refused.status_code == 422 and "Only a folder" in refused.json()["detail"]


def test_a_list_is_looked_at_then_brought_in_and_what_is_wanted_can_be_dropped(
    client: TestClient, music: Path
) -> None:
    path = music / "list.m3u8"
    path.write_text("#EXTINF:1,Kelp Union - Sluice\nZ:\\x\\Sluice.mp3\nZ:\\x\\One.flac\nTwo.flac\n")
    look = client.post("/api/playlists/look", json={"path": str(path), "by_names": False}).json()
    assert look["counts"] == {"here": 1, "by_name": 0, "on_disk": 0, "wanted": 2} and look["total"] == 3
    assert look["proposals"] == [{"there": "Z:/x", "here": str(music), "finds": 1}]
    assert [entry["state"] for entry in look["entries"]] == ["wanted", "wanted", "here"], "missing ones first"
    mapping = {"there": "Z:/x", "here": str(music)}
    body = {"path": str(path), "name": "Friday", "mappings": [mapping]}
    brought = client.post("/api/playlists", json=body)
    assert brought.status_code == 201
    crate = brought.json()["crate_id"]
    assert next(c for c in client.get("/api/crates").json() if c["id"] == crate)["wanted"] == 1
    (entry,) = client.get(f"/api/crates/{crate}/wanted").json()
    assert (entry["artist"], entry["title"], entry["number"], entry["after"]) == (
        "Kelp Union",
        "Sluice",
        1,
        None,
    )
    assert (
        client.post("/api/playlists", json=body).json()["detail"]
        == "There is already a crate called “Friday”."
    )
    gone = f"/api/crates/{crate}/wanted/remove"
    assert client.post(gone, json={"ids": [entry["id"]]}).status_code == 204
    assert client.post(gone, json={"ids": [entry["id"]]}).status_code == 404
    client.post("/api/undo")
    assert client.get(f"/api/crates/{crate}/wanted").json() == [entry], "undo wants it again"
    client.delete(f"/api/crates/{crate}")


@pytest.mark.parametrize(
    ("name", "data", "status", "words"),
    [
        ("bomb.xspf", '<!DOCTYPE x [<!ENTITY a "aa">]><playlist>&a;</playlist>', 422, "XML entities"),
        ("empty.m3u", "", 422, "holds no entries"),
        ("/etc/hosts", None, 403, "outside the folders"),
        ("nowhere.pls", None, 403, "nothing at"),
    ],
)
def test_lists_that_cannot_be_read_are_refused_in_words(
    client: TestClient, music: Path, name: str, data: str | None, status: int, words: str
) -> None:
    path = music / name
    if data is not None:
        path.write_text(data)
    answer = client.post("/api/playlists/look", json={"path": str(path)})
    assert answer.status_code == status and words in answer.json()["detail"]


def test_tags_are_planned_written_and_put_back(client: TestClient, music: Path) -> None:
    track, path = by_title(client, "Two"), music / "Two.flac"
    before = path.read_bytes()
    body = {"ids": [track], "fields": ["key", "tempo"], "notation": "short", "tempo_digits": 1}
    (plan,) = client.post("/api/tags/plan", json=body).json()["files"]
    assert {change["field"]: change["after"] for change in plan["changes"]}["tempo"] == "126.0"
    assert path.read_bytes() == before
    wrong = client.post("/api/tags/plan", json={**body, "pattern": "{titel}"})
    assert wrong.status_code == 422 and "There is no {titel}" in wrong.json()["detail"]
    job = finished(client, client.post("/api/tags/write", json=body))
    assert job["can_put_back"] and job["result"] == {"written": 1, "unchanged": 0}
    assert read_tags(path).bpm == 126.0
    finished(client, client.post(f"/api/jobs/{job['id']}/put-back"))
    assert path.read_bytes() == before
    assert not client.get(f"/api/jobs/{job['id']}").json()["can_put_back"]
    assert client.post(f"/api/jobs/{job['id']}/put-back").status_code == 422


def test_analysis_is_chosen_asked_for_and_compared(client: TestClient) -> None:
    track = by_title(client, "One")
    chosen = {
        "arrival": "when opened",
        "turn": "oldest first",
        "windows": {"House": {"low": 90, "high": 180}},
    }
    said = client.put("/api/analysis", json=chosen).json()
    assert said["arrival"] == "when opened" and said["windows"][0]["own"] == {"low": 90.0, "high": 180.0}
    wrong = {**chosen, "windows": {"House": {"low": 180, "high": 90}}}
    assert client.put("/api/analysis", json=wrong).status_code == 422
    assert client.post("/api/analysis/again", json={"ids": [track], "only_missing": True}).json() == {
        "queued": 0
    }
    asked = {"ids": [track], "parts": ["grid"], "window": {"low": 40, "high": 80}}
    job = finished(client, client.post("/api/analysis/compare", json=asked))
    found = client.get(f"/api/analysis/compare/{job['id']}").json()
    assert {each["field"]: each["after"] for each in found}["tempo"] == "60.00"
    assert row(client, track)["bpm"] == pytest.approx(120, abs=0.05), "nothing is replaced by comparing"
    other = next(job for job in client.get("/api/jobs").json() if job["kind"] == "import")
    assert client.get(f"/api/analysis/compare/{other['id']}").status_code == 422
    client.post("/api/undo")


def test_what_an_older_version_has_heard_is_heard_anew_when_asked_for(
    client: TestClient, music: Path
) -> None:
    track = by_title(client, "One")
    assert client.get("/api/analysis").json()["heard_before"] == 0
    with closing(sqlite3.connect(music.parent / "home" / "library.db")) as connection, connection:
        connection.execute("UPDATE track_analysis SET version = 1 WHERE track_id = ?", (track,))
    assert client.get("/api/analysis").json()["heard_before"] == 1
    assert client.post("/api/analysis/heard-before").json() == {"queued": 1}
    assert client.get("/api/analysis").json()["heard_before"] == 0, "those in the queue are not told twice"
    wait_for(lambda: client.get("/api/analysis").json()["waiting"] == 0, "the analysis")
    assert row(client, track)["bpm"] == pytest.approx(120, abs=0.05)
    assert client.post("/api/analysis/heard-before").json() == {"queued": 0}


def test_dropped_files_are_looked_up_by_name_and_size(client: TestClient, music: Path) -> None:
    size = (music / "One.flac").stat().st_size
    files = [{"name": "One.flac", "size_bytes": size}, {"name": "One.flac", "size_bytes": size + 1}]
    found = client.post("/api/dropped", json={"files": files}).json()
    assert found == {"audio": [str(music / "One.flac")], "playlists": [], "missing": ["One.flac"]}


def test_a_file_that_is_away_is_found_in_another_folder(client: TestClient, music: Path) -> None:
    missing = by_title(client, "Missing")
    assert client.post("/api/away/find", json={"folder": "/etc"}).status_code == 403
    job = finished(client, client.post("/api/away/find", json={"folder": str(music)}))
    assert client.get(f"/api/away/found/{job['id']}").json() == [], "a track's own file is nobody else's"
    assert client.post(f"/api/away/found/{job['id']}/take", json={"ids": [missing]}).json() == {"taken": 0}


def test_a_crate_is_made_of_a_folder_of_files(client: TestClient, music: Path) -> None:
    new = music / "Quay nights"
    new.mkdir()
    for name, bpm in (("2 Later", 118.0), ("1 Tern", 122.0)):
        encode(drum_loop(bpm, 0.5, 8.0), RATE_HZ, new / f"{name}.flac", "flac")
        write_tags(new / f"{name}.flac", Tags(name, "Kelp Union"))
    (new / "notes.txt").write_text("no audio")
    body = {"path": str(new), "name": "Quay nights", "by_names": False}
    made = client.post("/api/playlists", json=body).json()
    places = lambda: client.get(f"/api/crates/{made['crate_id']}/places").json()["places"]  # noqa: E731
    wait_for(lambda: len(places()) == 2, "both files in their places")
    assert [row(client, track)["title"] for track in places()] == ["1 Tern", "2 Later"]
    again = client.post("/api/playlists", json=body).json()
    names = {crate["id"]: crate["name"] for crate in client.get("/api/crates").json()}
    assert names[again["crate_id"]] == "Quay nights 2"
    (music / "Empty").mkdir()
    refused = client.post("/api/playlists", json={"path": str(music / "Empty"), "name": "Empty"})
    assert refused.status_code == 422 and "no audio files" in refused.json()["detail"]
