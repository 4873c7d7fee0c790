"""Describing tracks through HTTP: chosen by what was found, tagged, edited, and put together."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from tests.running import OPEN

ALL: dict[str, Any] = {"found": {"where": {"kind": "all", "parts": []}, "sort": "title"}}


def families(client: TestClient) -> dict[str, dict[str, Any]]:
    return {family["name"]: family for family in client.get("/api/tag-families").json()}


def test_all_that_was_found_is_tagged_without_naming_it(client: TestClient) -> None:
    vocal = families(client)["Make-up"]["tags"][0]["id"]
    one = by_title(client, "One")
    chosen = {"found": {**ALL["found"], "without": [one]}}
    answer = client.put("/api/tracks/tags", json={**chosen, "tag_id": vocal, "given": True})
    assert answer.json() == {"changed": 2, "locked": 0, "job": None}
    assert client.post("/api/tracks/tags/among", json=ALL).json() == {"total": 3, "counts": {str(vocal): 2}}
    assert client.get("/api/undo").json()["undo"]["name"] == "Tag 2 tracks “Vocal”"
    offered = client.post("/api/limits", json={"text": "two voc"}).json()
    assert [(limit["words"], limit["rest"]) for limit in offered] == [("tag Vocal", "two")]
    found = client.post("/api/tracks/find", json={"where": offered[0]["where"]}).json()
    assert found["total"] == 2 and found["rows"][0]["tags"] == [vocal]
    everywhere = {"where": ALL["found"]["where"], "names": [], "tags": True}
    pictures = client.post("/api/tracks/pictures", json=everywhere)
    assert pictures.json()["tags"] == {str(vocal): 2} and pictures.json()["bpm"] == {}
    client.post("/api/undo")


def test_a_new_tag_is_made_and_given_in_one_step(client: TestClient) -> None:
    ids = [by_title(client, "One"), by_title(client, "Two")]
    family = families(client)["Moment"]["id"]
    answer = client.post("/api/tracks/tags/new", json={"ids": ids, "family_id": family, "name": "Last ferry"})
    assert answer.json() == {"changed": 2, "locked": 0, "job": None}
    made = next(tag for tag in families(client)["Moment"]["tags"] if tag["name"] == "Last ferry")
    assert made["letter"], "one that is free is proposed"
    assert client.post("/api/tracks/tags/among", json=ALL).json()["counts"][str(made["id"])] == 2
    client.post("/api/undo")
    assert "Last ferry" not in [tag["name"] for tag in families(client)["Moment"]["tags"]]


def test_families_are_made_changed_and_refused_in_words(client: TestClient) -> None:
    made = client.post("/api/tag-families", json={"name": "Room", "colour": "blue"}).json()[-1]
    tags = client.post("/api/tags", json={"family_id": made["id"], "name": "Terrace"}).json()[-1]["tags"]
    path = f"/api/tags/{tags[0]['id']}"
    changed = client.patch(path, json={"letter": "v", "colour": "ochre"}).json()
    assert changed[-1]["tags"][0]["letter"] == "v" and changed[1]["tags"][0]["letter"] is None
    again = client.post("/api/tag-families", json={"name": " room "})
    assert again.status_code == 422 and "already a family" in again.json()["detail"]
    assert client.post(f"{path}/merge", json={"into": tags[0]["id"]}).status_code == 422
    assert client.delete(path).status_code == 200 and client.delete(path).status_code == 404
    for _ in range(4):
        client.post("/api/undo")
    assert "Room" not in families(client)


def test_values_are_given_and_texts_edited_after_a_preview(client: TestClient) -> None:
    ids = [by_title(client, "One"), by_title(client, "Two")]
    common = client.post("/api/tracks/common", json={"ids": ids, "fields": ["artist", "title"]}).json()
    assert common["fields"] == {
        "artist": {"value": "Kelp Union", "different": 1},
        "title": {"value": None, "different": 2},
    }
    values = {"label": "Slipway", "never again": "yes", "energy": "88"}
    assert client.put("/api/tracks/values", json={"ids": ids, "values": values}).json()["changed"] == 2
    assert (row(client, ids[0])["label"], row(client, ids[1])["energy"]) == ("Slipway", 88)
    wrong = client.put("/api/tracks/values", json={"ids": ids, "values": {"energy": "loud"}})
    assert wrong.status_code == 422 and "number from 0 to 100" in wrong.json()["detail"]
    edit = {"ids": ids, "fields": ["artist"], "edit": {"kind": "replace", "find": "union", "put": "Choir"}}
    preview = client.post("/api/tracks/texts/preview", json=edit).json()
    assert (preview["total"], preview["changes"][0]["after"]) == (2, "Kelp Choir")
    assert row(client, ids[0])["artist"] == "Kelp Union", "a preview changes nothing"
    assert client.post("/api/tracks/texts", json=edit).json()["tracks"] == 2
    assert row(client, ids[0])["artist"] == "Kelp Choir"
    assert client.get("/api/completions/label", params={"begun": "sl"}).json() == ["Slipway"]
    for _ in range(2):
        client.post("/api/undo")
    assert (row(client, ids[0])["artist"], row(client, ids[0])["label"]) == ("Kelp Union", "")


@pytest.mark.parametrize(
    ("limit", "path", "body"),
    [
        ("describing.MOST_EDITED", "values", {"values": {"comment": "late", "year": "1999"}}),
        ("tracks.MOST_RATED", "rating", {"stars": 4}),
        ("tags.MOST_TAGGED", "tags", {"tag_id": 1}),
    ],
)
def test_what_would_take_too_long_goes_on_in_the_background(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, limit: str, path: str, body: dict[str, Any]
) -> None:
    monkeypatch.setattr(f"vinyl.api.{limit}", 2)
    before = client.post("/api/tracks/find", json={"where": ALL["found"]["where"]}).json()["rows"]
    answer = client.put(f"/api/tracks/{path}", json={**ALL, **body})
    job = finished(client, client.get(f"/api/jobs/{answer.json()['job']['id']}"))
    assert (job["state"], job["done"], job["result"]) == ("done", 3, {"locked": 0})
    rows = client.post("/api/tracks/find", json={"where": ALL["found"]["where"]}).json()["rows"]
    assert all(now != then for now, then in zip(rows, before, strict=True))
    assert client.post("/api/undo").json()["name"] == job["subject"]
    assert client.post("/api/tracks/find", json={"where": ALL["found"]["where"]}).json()["rows"] == before


def test_a_new_tag_for_very_many_is_made_at_once_and_given_in_the_background(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vinyl.api.tags.MOST_TAGGED", 2)
    wanted = {**ALL, "family_id": families(client)["Moment"]["id"], "name": "Last tram"}
    answer = client.post("/api/tracks/tags/new", json=wanted)
    finished(client, client.get(f"/api/jobs/{answer.json()['job']['id']}"))
    made = next(tag for tag in families(client)["Moment"]["tags"] if tag["name"] == "Last tram")
    assert client.post("/api/tracks/tags/among", json=ALL).json()["counts"][str(made["id"])] == 3
    names = [client.post("/api/undo").json()["name"] for _ in range(2)]
    assert names == ["Tag 3 tracks “Last tram”", "Make the tag “Last tram”"]


def test_a_value_that_cannot_be_is_refused_before_anything_begins(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vinyl.api.describing.MOST_EDITED", 2)
    answer = client.put("/api/tracks/values", json={**ALL, "values": {"year": "late"}})
    assert answer.status_code == 422 and "number from 1000" in answer.json()["detail"]
    assert "edit" not in {job["kind"] for job in client.get("/api/jobs").json() if job["state"] in OPEN}


def test_a_key_is_given_by_hand_in_any_notation_and_taken_back(client: TestClient) -> None:
    ids = [by_title(client, "One"), by_title(client, "Two")]
    put = lambda key: client.put("/api/tracks/values", json={"ids": ids, "values": {"key": key}})  # noqa: E731
    before = [row(client, each)["key"] for each in ids]
    for said, kept in (("8A", "A minor"), ("f#m", "F# minor"), ("Eb major", "Eb major")):
        assert put(said).json()["changed"] == 2
        assert [row(client, each)["key"] for each in ids] == [kept] * 2
        common = client.post("/api/tracks/common", json={"ids": ids, "fields": ["key"]}).json()
        assert common["fields"]["key"] == {"value": kept, "different": 1}
    assert "key" not in row(client, ids[0])["left"], "what was set by hand is sure"
    by_hand = {"where": {"kind": "flag", "flag": "key by hand"}}
    assert client.post("/api/tracks/find", json=by_hand).json()["total"] == 2
    wrong = put("H sharp")
    assert wrong.status_code == 422 and "not a key" in wrong.json()["detail"]
    client.put("/api/tracks/locks", json={"ids": ids[:1], "part": "key", "locked": True})
    assert put("Bb minor").json()["changed"] == 1, "a locked key stays"
    assert [row(client, each)["key"] for each in ids] == ["Eb major", "Bb minor"]
    for _ in range(5):
        client.post("/api/undo")
    assert [row(client, each)["key"] for each in ids] == before
    put("8A")
    assert put("").json()["changed"] == 2 and [row(client, each)["key"] for each in ids] == before
    for _ in range(2):
        client.post("/api/undo")


def test_what_fits_and_what_shares_a_backing(client: TestClient) -> None:
    one, two = by_title(client, "One"), by_title(client, "Two")
    fits = client.post(f"/api/tracks/{one}/fits", json={"reach": "wide"}).json()
    assert [fit["track"]["id"] for fit in fits] == [two]
    assert fits[0]["change_percent"] == pytest.approx(-4.8, abs=0.1) and "4.8 % slower" in fits[0]["reasons"]
    client.put("/api/tracks/values", json={"ids": [two], "values": {"never again": "yes"}})
    assert client.post(f"/api/tracks/{one}/fits", json={}).json() == [], "never again is not proposed"
    client.post("/api/undo")
    assert client.get(f"/api/tracks/{one}/backing").status_code == 200
    groups = client.put("/api/backings", json={"ids": [one, two], "name": "Tide"}).json()
    assert [(group["name"], group["tracks"]) for group in groups] == [("Tide", 2)]
    assert row(client, two)["backing"]["name"] == "Tide"
    client.post("/api/undo")
    assert client.get("/api/backings").json() == [] and row(client, two)["backing"] is None


def test_plays_by_hand_lie_in_the_past(client: TestClient) -> None:
    one = by_title(client, "One")
    late = client.post("/api/tracks/played", json={"ids": [one], "at": "2999-01-01T00:00:00Z"})
    assert late.status_code == 422 and "in the past" in late.json()["detail"]
    client.post("/api/tracks/played", json={"ids": [one], "at": "2026-11-20T23:00:00+02:00"})
    shown = row(client, one)
    assert (shown["plays"], shown["last_played"]) == (1, "2026-11-20")
    assert client.post("/api/tracks/played/last", json={"ids": [one]}).json() == {"tracks": 1}
    assert row(client, one)["plays"] == 0
    nobody = client.post("/api/tracks/played", json={"ids": [999]})
    assert nobody.status_code == 422 and "None of the chosen" in nobody.json()["detail"]


def test_words_with_an_error_are_found_and_it_is_said(client: TestClient) -> None:
    found = client.post("/api/tracks/find", json={"where": {"kind": "words", "text": "kelb unjon"}}).json()
    assert (found["total"], found["read_as"]) == (3, "kelp union")
    ids = client.post("/api/tracks/ids", json={"where": {"kind": "words", "text": "kelb unjon"}, "limit": 2})
    assert len(ids.json()["ids"]) == 2 and ids.json()["total"] == 3


def test_plays_come_home_from_a_stick_once(client: TestClient) -> None:
    services: Any = client.app.state.services  # type: ignore[attr-defined]
    two = by_title(client, "Two")
    sound = (
        services.database.read().execute("SELECT audio_hash FROM track WHERE id = ?", (two,)).fetchone()[0]
    )
    stick = client.post("/api/sticks", json={"name": "Spare", "capacity_mb": 50}).json()
    index = {"format": "vinyl-stick", "version": 2}
    (Path(stick["folder"]) / "vinyl-stick.json").write_text(json.dumps(index))
    play = {"play": "2f9a0c61-1", "track": sound, "began_at": "2026-11-21T01:10:00+02:00", "heard_s": 95.5}
    path = "/player/sticks/Spare/plays"
    assert client.post(path, json=play).status_code == 409, "it is still in the computer"
    client.post(f"/api/sticks/{stick['id']}/eject")
    for line in (
        play,
        {**play, "play": "2f9a0c61-2", "heard_s": 3},
        {**play, "play": "x" * 9, "track": "?"},
        play,
    ):
        assert client.post(path, json=line).status_code == 204
    with (Path(stick["folder"]) / "plays.jsonl").open("a") as file:
        file.write('{"play": "cut off')
    for taken in (2, 0):
        answer = client.post(f"/api/sticks/{stick['id']}/insert").json()
        assert answer["plays_taken"] == taken
    (night,) = [gig for gig in client.get("/api/gigs").json() if gig["came_from"] == "a stick"]
    assert (night["tracks"], night["not_here"]) == (2, 1), "what is not at home stays as text"
    assert (row(client, two)["plays"], row(client, two)["last_played"]) == (1, "2026-11-20")
    assert client.get("/api/undo").json()["undo"]["name"] == "Take in the plays of “Spare”"
    client.post("/api/undo")
    assert row(client, two)["plays"] == 0
