"""Whole lists through HTTP and from the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title
from tests.patience import wait_for
from vinyl.cli import main

RULE = {
    "where": {"kind": "text", "field": "genre", "text": "House", "how": "is"},
    "order": [{"sort": "title", "descending": False}],
    "limit": None,
}


def make(client: TestClient, name: str, *titles: str) -> int:
    made = int(client.post("/api/crates", json={"name": name}).json()["id"])
    for title in titles:
        client.post(f"/api/crates/{made}/tracks", json={"ids": [by_title(client, title)]})
    return made


def test_a_list_is_divided_arranged_copied_and_brought_back(client: TestClient) -> None:
    one, two = make(client, "One", "One", "Two"), make(client, "Two", "Missing", "Two")
    path = f"/api/crates/{one}"
    assert (
        client.post(f"{path}/dividers", json={"name": "Late", "at": 1, "colour": "blue"}).status_code == 204
    )
    (section,) = client.post(f"{path}/sections", json={}).json()
    assert (section["name"], section["at"], section["tracks"], section["colour"]) == ("Late", 1, 1, "blue")
    client.patch(f"/api/dividers/{section['divider_id']}", json={"at": 0})
    assert client.post(f"{path}/sections", json={}).json()[0]["tracks"] == 2
    assert client.post(f"{path}/sections", json={"sorts": [{"sort": "bpm"}]}).json() == []
    assert client.post(f"{path}/combine", json={"other_id": two, "how": "merge"}).json() == {"tracks": 1}
    assert client.post(f"{path}/arrange", json={"how": "as sorted", "sorts": []}).status_code == 422
    assert client.post(f"{path}/arrange", json={"how": "reverse"}).status_code == 204
    assert client.put(f"{path}/looks", json={"note": "for the harbour"}).status_code == 204
    copy = client.post(f"{path}/copy", json={"name": "One"}).json()
    assert (copy["name"], copy["tracks"], copy["note"]) == ("One 2", 3, "for the harbour")
    out = client.post(f"/api/crates/{two}/tracks", json={"ids": [by_title(client, "One")], "out_of": one})
    assert out.json() == {"added": 1, "already_in": 0, "warnings": []}
    tracks = {crate["name"]: crate["tracks"] for crate in client.get("/api/crates").json()}
    assert tracks == {"One": 2, "Two": 3, "One 2": 3}
    assert client.patch(path, json={"repeats": True}).json()["repeats"]
    third = by_title(client, "Missing")
    assert client.post(f"{path}/tracks", json={"ids": [third]}).json()["added"] == 1
    there = client.get(f"{path}/places").json()
    (again,) = (int(name) for name in there["repeated"])
    assert there["places"][-1] == again < 0 and there["repeated"][str(again)] == third
    assert client.put(f"{path}/notes", json={"places": [again], "note": "late"}).status_code == 204
    assert client.get(f"{path}/places").json()["notes"] == {str(again): "late"}
    assert client.put(f"{path}/notes", json={"places": [-99], "note": "late"}).status_code == 404
    assert client.put(f"{path}/notes", json={"places": [again], "note": "x" * 401}).status_code == 422
    client.post(f"{path}/tracks/remove", json={"places": [again]})
    client.delete(f"/api/crates/{copy['id']}")
    (deleted,) = client.get("/api/lists/deleted").json()
    back = client.post(f"/api/lists/deleted/{deleted['id']}/bring-back").json()
    assert back["tracks"] == 3 and client.get("/api/lists/deleted").json() == []
    assert client.post(f"/api/lists/deleted/{deleted['id']}/bring-back").status_code == 404
    while client.post("/api/undo").status_code == 200:
        pass
    assert client.get("/api/crates").json() == []


def test_series_and_counts_follow_in_the_background(client: TestClient) -> None:
    folder = client.post("/api/lists/series", json={"name": "By style", "by": "style"}).json()
    assert folder["is_folder"] and folder["series"] == "style"
    client.put("/api/tracks/values", json={"ids": [by_title(client, "One")], "values": {"genre": "Electro"}})
    named = lambda: {c["name"]: c["id"] for c in client.get("/api/crates").json()}  # noqa: E731
    wait_for(lambda: "Electro" in named(), lambda: f"Electro among {named()}")
    counts = {each["id"]: each["tracks"] for each in client.get("/api/rules/counts").json()}
    assert counts[named()["Electro"]] == 1 and counts[folder["id"]] == 3
    for ready in client.get("/api/lists/ready-made").json():
        made = client.post("/api/rules", json={"name": ready["name"], "rule": ready["rule"]})
        assert made.status_code == 201, made.text
    assert client.post("/api/lists/series", json={"name": "X", "by": "weather"}).status_code == 422
    while client.post("/api/undo").status_code == 200:
        pass


def test_lists_are_listed_shown_written_and_brought_in_from_the_command_line(
    client: TestClient, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    home = Path(client.app.state.services.settings.home)  # type: ignore[attr-defined]
    folder = client.post("/api/crates", json={"name": "Nights", "is_folder": True}).json()["id"]
    one = make(client, "One", "Two", "One")
    client.put(f"/api/crates/{one}/folder", json={"folder_id": folder})
    client.post(f"/api/crates/{one}/dividers", json={"name": "Late", "at": 1})
    client.post("/api/rules", json={"name": "House", "rule": RULE, "folder_id": folder})

    def run(*words: str) -> str:
        assert main(["crate", *words, "--home", str(home)]) == 0
        return capsys.readouterr().out

    listed = run("list")
    assert "Nights  (folder, 3 tracks)" in listed and "  One  (by hand, 2 tracks)" in listed
    assert run("show", "one") == "Kelp Union - Two\n-- Late\nKelp Union - One\n"
    assert run("show", "House").startswith("style House\nKelp Union - ")
    assert main(["find", "kelp union, house,", "by title", "--home", str(home)]) == 0
    said, *found = capsys.readouterr().out.splitlines()
    assert said.startswith("artist Kelp Union, and style House: ") and found[1].endswith("Kelp Union - One")
    assert main(["find", "halyerd", "--home", str(home)]) == 1
    assert capsys.readouterr().out == "“halyerd” in its text: 0 tracks\n"
    run("export", "Nights", str(tmp_path / "nights.json"))
    assert json.loads(run("export", "One"))["name"] == "One"
    assert run("import", str(tmp_path / "nights.json")) == "2 tracks found, 0 wanted\n"
    names = [crate["name"] for crate in client.get("/api/crates").json()]
    assert names == ["Nights", "One", "House", "Nights 2", "One 2", "House 2"]
    for wrong in ("[]", "{", '{"format": "vinyl list", "name": "x", "places": [3]}'):
        (tmp_path / "wrong.json").write_text(wrong)
        assert main(["crate", "import", str(tmp_path / "wrong.json"), "--home", str(home)]) == 1
        assert "vinyl: " in capsys.readouterr().err
    assert main(["crate", "show", "nobody", "--home", str(home)]) == 1
    while client.post("/api/undo").status_code == 200:
        pass
