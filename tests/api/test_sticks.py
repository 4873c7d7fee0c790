"""Sticks through the API: players, drives, what does not fit, faults, checks, and the command line."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished
from tests.patience import wait_for
from tests.running import OPEN
from vinyl.cli import main
from vinyl.library.database import Database
from vinyl.sticks import store
from vinyl.sticks.drives import FoundDrive
from vinyl.sticks.medium import StandIn, flip, make_stand_in


@pytest.fixture(scope="module")
def crate(client: TestClient) -> Iterator[int]:
    crate = client.post("/api/crates", json={"name": "Main hours"}).json()["id"]
    ids = [by_title(client, title) for title in ("One", "Two", "Missing")]
    client.post(f"/api/crates/{crate}/tracks", json={"ids": ids})
    cue = {"length_s": None, "label": "", "colour": "violet", "pad": None, "engages": False}
    for at in range(6):
        told = {**cue, "position_s": 2.0 + at, "role": None if at else "in"}
        client.post(f"/api/tracks/{ids[0]}/cues", json=told)
    yield int(crate)


def _make(client: TestClient, name: str, crate: int, *players: str, **more: Any) -> dict[str, Any]:
    stick = client.post("/api/sticks", json={"name": name, "capacity_mb": 60, **more}).json()
    path = f"/api/sticks/{stick['id']}"
    if players:
        client.put(f"{path}/players", json={"players": [{"profile": each} for each in players]})
    client.put(f"{path}/crates", json={"crate_ids": [crate]})
    return {**stick, "path": path}


def _told(client: TestClient, stick: dict[str, Any]) -> dict[str, Any]:
    return next(each for each in client.get("/api/sticks").json() if each["id"] == stick["id"])


def _ended(client: TestClient, stick: dict[str, Any], which: str) -> dict[str, Any]:
    run = lambda: _told(client, stick)[which]  # noqa: E731
    return dict(wait_for(lambda: (r := run()) and r["state"] not in OPEN and r, lambda: f"an end of {run()}"))


def _pack(client: TestClient, *sticks: dict[str, Any]) -> list[dict[str, Any]]:
    for stick in sticks:
        assert client.post(f"{stick['path']}/pack").status_code == 202
    return [_ended(client, stick, "last_run") for stick in sticks]


def _index(stick: dict[str, Any]) -> dict[str, Any]:
    return dict(json.loads((Path(stick["folder"]) / "vinyl-stick.json").read_text()))


def test_each_player_finds_what_it_can_hold(client: TestClient, crate: int) -> None:
    stick = _make(client, "TIDE-1", crate, "Fairlead", "Windlass")
    plan = client.post(f"{stick['path']}/plan").json()
    assert sorted((file["action"], file["form"]) for file in plan["files"]) == [
        ("convert", "wav"), ("convert", "wav"), ("copy", ""), ("copy", ""),
    ]  # fmt: skip
    said = {(each["kind"], each["title"]): each for each in plan["problems"]}
    assert said["loss", "One"]["says"] == "2 of 6 cues stay here: it has 4 places"
    assert ("away", "Missing") in said and ("in point", "Two") in said
    _pack(client, stick)
    fairlead, windlass = _index(stick)["players"]
    assert {track["file"].rpartition(".")[2] for track in fairlead["tracks"]} == {"flac"}
    assert all(track["file"].startswith("Music/K/Kelp Union/") for track in windlass["tracks"])
    assert sorted(len(track["cues"]) for track in windlass["tracks"]) == [0, 4]
    assert windlass["lists"][0]["playlist"] == "Crates/for Windlass/Main hours.m3u8"
    lines = (Path(stick["folder"]) / windlass["lists"][0]["playlist"]).read_text().splitlines()
    playlist = Path(stick["folder"]) / "Crates" / "for Windlass"
    assert all((playlist / line).resolve().is_file() for line in lines if not line.startswith("#"))
    (run,) = _pack(client, stick)
    assert (run["unchanged"], run["written"]) == (True, 0)
    former = {"players": [{"profile": "Fairlead"}, {"profile": "Capstan"}]}
    assert client.put(f"{stick['path']}/players", json=former).status_code < 300
    (run,) = _pack(client, stick)
    profiles = [player["profile"] for player in _index(stick)["players"]]
    assert (run["written"], profiles) == (0, ["Fairlead", "Windlass"]), "its former name is understood"


def test_two_sticks_at_once_and_one_that_breaks_is_finished_later(client: TestClient, crate: int) -> None:
    one = _make(client, "BUOY-1", crate)
    two = _make(client, "BUOY-2", crate, spare_of=one["id"])
    assert _told(client, two)["crate_ids"] == [crate]
    client.put(f"{two['path']}/fault", json={"fault": "torn out", "after_mb": 1})
    runs = _pack(client, one, two)
    assert [run["state"] for run in runs] == ["done", "failed"]
    assert "not in the computer" in runs[1]["error"]
    services: Any = client.app.state.services  # type: ignore[attr-defined]
    told = services.database.revision()
    client.post(f"{two['path']}/insert")
    assert services.database.revision() > told, "windows hear of it, for it has a number of its own"
    (run,) = _pack(client, two)
    assert run["state"] == "done"
    assert _told(client, two)["same_as"] == ["BUOY-1"]
    assert [file["sha256"] for file in _index(two)["files"]] == [
        file["sha256"] for file in _index(one)["files"]
    ]


def test_a_new_stick_is_told_once_more_when_it_is_in_the_computer(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Who looks between its being known and its being there must hear that this was too early."""
    database = client.app.state.services.database  # type: ignore[attr-defined]
    seen: list[tuple[bool, int]] = []

    def look_first(folder: Path, capacity_bytes: int) -> StandIn:
        early = next(each for each in client.get("/api/sticks").json() if each["name"] == "Quick")
        seen.append((early["is_in"], database.revision()))
        return make_stand_in(folder, capacity_bytes)

    monkeypatch.setattr("vinyl.operations.sticks.make_stand_in", look_first)
    made = client.post("/api/sticks", json={"name": "Quick", "capacity_mb": 5}).json()
    assert made["is_in"] and seen[0][0] is False
    assert database.revision() > seen[0][1]
    client.delete(f"/api/sticks/{made['id']}")


def test_what_does_not_fit_is_solved_by_a_proposal(client: TestClient, crate: int) -> None:
    stick = _make(client, "Small", crate, capacity_mb=2)
    plan = client.post(f"{stick['path']}/plan").json()
    assert plan["missing_bytes"] > 0
    proposals = plan["proposals"]
    assert proposals["leave_out"] and proposals["smaller_saves"] > 1_000_000
    client.put(f"{stick['path']}/options", json={"routes": True, "smaller": True})
    plan = client.post(f"{stick['path']}/plan").json()
    assert plan["missing_bytes"] == 0 and {file["form"] for file in plan["files"]} == {"mp3"}
    client.put(f"{stick['path']}/options", json={"routes": True, "smaller": False})
    ids = [each["id"] for each in proposals["leave_out"]]
    out = client.put(f"{stick['path']}/left-out", json={"track_ids": ids, "left_out": True}).json()
    assert out["left_out"] == sorted(ids)
    assert client.post(f"{stick['path']}/plan").json()["missing_bytes"] == 0
    out = client.put(f"{stick['path']}/left-out", json={"track_ids": ids, "left_out": False}).json()
    assert out["left_out"] == []


def test_one_bad_line_closes_no_room_and_two_packings_never_begin_at_once(
    client: TestClient, crate: int
) -> None:
    stick = _make(client, "Papers", crate, "Fairlead")
    with ThreadPoolExecutor(6) as pool:
        began = list(pool.map(lambda _: client.post(f"{stick['path']}/pack").status_code, range(6)))
    _ended(client, stick, "last_run")
    assert began.count(202) == 1 and set(began) == {202, 409}, began
    index = _index(stick)
    one = next(each for each in index["players"][0]["tracks"] if each["title"] == "One")
    said = {"at": "2026-11-20T10:00:00Z", "on": index["written_at"], "player": "Fairlead", "track": one["id"]}
    bad = [{"time": 0.0, "beat": 0.0, "bpm": -5.0}]
    lines = [
        {**said, "change": "00000001", "what": "grid", "anchors": bad, "beats_per_bar": 4},
        {**said, "change": "00000002", "what": "cues", "cues": [{**one["cues"][0], "pad": 12}], "before": []},
        {**said, "change": "00000003", "what": "stars", "stars": 4},
    ]
    (Path(stick["folder"]) / "changes.jsonl").write_text("\n".join(json.dumps(each) for each in lines))
    told = _told(client, stick)
    assert told["came_home"] == 1 and len(told["left_out_lines"]) == 2
    assert "line 1" in told["left_out_lines"][0] and "pad" in told["left_out_lines"][1]
    (home,) = client.get(f"{stick['path']}/home").json()
    taken = client.post(f"{stick['path']}/home", json={"choices": {home["key"]: "theirs"}}).json()
    assert (taken["taken"], taken["failed"], _told(client, stick)["came_home"]) == (1, [], 0)


def test_a_bit_that_turns_is_found_and_mended(client: TestClient, crate: int) -> None:
    stick = _make(client, "Worn", crate)
    _pack(client, stick)
    client.post(f"{stick['path']}/check", json={"mend": False})
    assert _ended(client, stick, "last_check")["damaged"] == 0
    flip(next(Path(stick["folder"]).rglob("*.flac")), 0.5)
    flip(Path(stick["folder"]) / "vinyl-stick.json", 0.5)
    client.post(f"{stick['path']}/check", json={"mend": True})
    check = wait_for(
        lambda: (c := _ended(client, stick, "last_check"))["damaged"] and c, "a check that finds something"
    )
    assert (check["damaged"], check["mended"]) == (2, 1)
    assert not client.post(f"{stick['path']}/plan").json()["damaged"]


def test_a_folder_of_a_drive_and_a_strangers_one(
    client: TestClient, crate: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    drive = tmp_path / "STICK"
    drive.mkdir()
    (drive / "holiday.jpg").write_bytes(b"mine")
    refused = client.post("/api/sticks", json={"name": "Real", "folder": str(drive)})
    assert refused.status_code == 403 and "outside" in refused.json()["detail"]
    found = FoundDrive(str(drive), "STICK", "exfat", 8_000_000_000, 7_000_000_000)
    monkeypatch.setattr("vinyl.operations.sticks.find_drives", lambda: [found])
    stick = _make(client, "Real", crate, folder=str(drive))
    assert client.post("/api/sticks", json={"name": "Again", "folder": str(drive)}).status_code == 409
    assert _pack(client, stick)[0]["state"] == "done"
    assert client.post(f"{stick['path']}/eject").status_code == 200
    assert client.post(f"{stick['path']}/pull").status_code == 409
    (drive / ".vinyl-stick").write_text("another one")
    assert not _told(client, stick)["is_in"], "another drive at the same place is not this stick"
    assert (drive / "holiday.jpg").read_bytes() == b"mine"
    assert client.delete(stick["path"]).status_code == 204


def test_settings_go_along_by_the_names_that_a_player_knows(client: TestClient, crate: int) -> None:
    stick = _make(client, "Settled", crate)
    kept = {"name": "The Slipway", "answers": {"range": "16 %", "language": "Deutsch"}}
    made = client.post("/api/sticks/settings", json=kept).json()
    assert client.post("/api/sticks/settings", json=kept).status_code == 409
    bad = client.post("/api/sticks/settings", json={"name": "x", "answers": {"range": "all of it"}})
    assert bad.status_code == 409 and "no answer" in bad.json()["detail"]
    players = [{"profile": name, "settings_id": made["id"]} for name in ("Windlass", "Fairlead")]
    client.put(f"{stick['path']}/players", json={"players": players})
    _pack(client, stick)
    windlass, fairlead = (player["settings"] for player in _index(stick)["players"])
    assert windlass == {"start": "at its in point", "range": "16 %", "brightness": "of middle brightness"}
    assert (fairlead["language"], fairlead["range"]) == ("Deutsch", "16 %")
    assert client.delete(f"/api/sticks/settings/{made['id']}").status_code == 204
    _pack(client, stick)
    assert _index(stick)["players"][1]["settings"]["language"] == "English"


def test_by_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    home = tmp_path / "home"
    database = Database.prepared(home / "library.db")
    with database.write() as connection:
        store.add_stick(connection, "Nowhere", tmp_path / "nowhere", "Quay One")

    def run(*given: str) -> tuple[int, str]:
        code = main(["stick", *given, "--home", str(home)])
        said = capsys.readouterr()
        return code, said.out + said.err

    assert run("list") == (0, "Nowhere: for Quay One, not here, packed never\n")
    assert run("plan") == (1, "vinyl: No stick is in the computer.\n")
    assert run("pack", "Other") == (1, "vinyl: There is no stick called “Other”. There are: Nowhere.\n")
    code, said = run("check", "Nowhere")
    assert code == 1 and "not in the computer" in said


def test_a_stick_of_another_vinyl_is_taken_as_an_import_only(
    client: TestClient, tmp_path_factory: pytest.TempPathFactory, crate: int
) -> None:
    """Nothing is written on it; cues set there come home as differences, strangers' nonsense is said."""
    folder = client.app.state.services.settings.allow[0] / "drive"  # type: ignore[attr-defined]
    folder.mkdir()
    stick = client.post("/api/sticks", json={"name": "A drive", "folder": str(folder)}).json()
    path = f"/api/sticks/{stick['id']}"
    client.put(f"{path}/crates", json={"crate_ids": [crate]})
    _pack(client, {**stick, "path": path})
    assert client.get("/api/sticks/whose", params={"folder": str(folder)}).json() == {"whose": "here"}
    client.delete(path)
    assert client.get("/api/sticks/whose", params={"folder": str(folder)}).json() == {"whose": "another"}
    refused = client.post("/api/sticks", json={"name": "Mine now", "folder": str(folder)})
    assert refused.status_code == 409 and "Nothing is written on it" in refused.json()["detail"]

    index = json.loads((folder / "vinyl-stick.json").read_text())
    one = next(track for track in index["players"][0]["tracks"] if track["title"] == "One")
    cue = {"position_s": 11.5, "length_s": None, "label": "theirs", "role": None, "colour": "blue"}
    one["cues"].append({**cue, "pad": None, "engages": False})
    index["players"][0]["tracks"][1]["anchors"] = [{"time": 0, "beat": 0, "bpm": 9000}]
    (folder / "vinyl-stick.json").write_text(json.dumps(index))
    before = {each.name: each.read_bytes() for each in folder.rglob("*") if each.is_file()}
    looked = finished(
        client, client.post("/api/exchange/looks", json={"target": "stick", "place": str(folder)})
    )
    assert looked["state"] == "done", looked["error"]
    review = client.get(f"/api/exchange/looks/{looked['id']}").json()
    assert review["states"] and [each["name"] for each in review["lists"]] == ["Main hours"]
    kinds = {each["kind"] for each in review["kinds"]}
    assert any("cue" in kind for kind in kinds), kinds
    assert before == {each.name: each.read_bytes() for each in folder.rglob("*") if each.is_file()}
    (folder / "vinyl-stick.json").write_text("{}")
    job = finished(client, client.post("/api/exchange/looks", json={"target": "stick", "place": str(folder)}))
    assert job["state"] == "failed" and "is damaged" in job["error"]
