"""Sets over HTTP: planned, ordered, carried on, and safe from what happens to their tracks elsewhere."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.library.making import new_track
from vinyl.api.app import create_app
from vinyl.api.guard import KEY_HEADER
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import gigs, grids, off_shelf, plays, sets, twin_carrying, venues, wanted
from vinyl.library.database import Database
from vinyl.library.plays import Coming
from vinyl.operations.services import Settings

KEYS = ("A minor", "E minor", "A minor", "C major", "Eb major", "D minor")
TITLES = ("Tide", "Pier", "Gull", "Kelp", "Buoy", "Reed")


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    settings = Settings(tmp_path / "home", tmp_path / "web", allow=(tmp_path,), workers=1, nice=0)
    app = create_app(settings)
    with TestClient(
        app, base_url="http://127.0.0.1:8420", headers={KEY_HEADER: app.state.services.key}
    ) as made:
        with _database(made).write() as connection:
            for number, (title, key) in enumerate(zip(TITLES, KEYS, strict=True)):
                said = {"key": key, "energy": f"{40 + 5 * number}"}
                track_id = new_track(connection, title, artist=f"Artist {number % 4}", **said)
                grids.set_grid(connection, track_id, TempoMap.steady(120.0 + 2 * number, 0.0))
        yield made


def _database(client: TestClient) -> Database:
    return client.app.state.services.database  # type: ignore[attr-defined,no-any-return]


def _make(client: TestClient, **more: Any) -> int:
    facts = {
        "name": "Slipway Friday",
        "venue": "The Slipway",
        "on_day": "2026-11-27",
        "begins": "21:00",
        "ends": "00:00",
    }
    made = client.post("/api/sets", json={**facts, **more})
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def _place(client: TestClient, set_id: int, *ids: int) -> None:
    client.post(f"/api/sets/{set_id}/tracks", json={"ids": ids, "placed": True}).raise_for_status()


def _get(client: TestClient, set_id: int) -> dict[str, Any]:
    return dict(client.get(f"/api/sets/{set_id}").json())


def _order(client: TestClient, set_id: int) -> list[str]:
    return [each["title"] for each in _get(client, set_id)["order"]]


def _tray(client: TestClient, set_id: int) -> list[str]:
    return [each["title"] for each in _get(client, set_id)["tray"]]


def _undo(client: TestClient) -> str:
    return str(client.post("/api/undo").json()["name"])


def test_a_set_is_filled_ordered_and_undone(client: TestClient) -> None:
    set_id = _make(client)
    client.post(f"/api/sets/{set_id}/tracks", json={"ids": [5, 3, 1, 3]}).raise_for_status()
    assert _tray(client, set_id) == ["Buoy", "Gull", "Tide"]
    _place(client, set_id, 3, 5)
    _place(client, set_id, 6)
    found = _get(client, set_id)
    assert [each["title"] for each in found["order"]] == ["Gull", "Buoy", "Reed"], "as they were asked for"
    assert _tray(client, set_id) == ["Tide"] and found["slot_s"] == 3 * 3600
    over_s = 16 * 4 * 60 / 124
    assert found["order"][1]["begins_s"] == pytest.approx(200 - over_s) and found["order"][1]["at"] == "21:03"
    assert found["lasts_s"] == pytest.approx(600 - over_s - 16 * 4 * 60 / 128)
    reed = found["order"][2]["id"]
    client.patch(f"/api/sets/{set_id}/entries/{reed}", json={"pin": "first"}).raise_for_status()
    proposed = client.post(f"/api/sets/{set_id}/order", json={"by": "tempo"}).json()
    assert proposed["entry_ids"][0] == reed and _order(client, set_id) == ["Gull", "Buoy", "Reed"]
    client.put(f"/api/sets/{set_id}/order", json={"entry_ids": proposed["entry_ids"]}).raise_for_status()
    assert _order(client, set_id) == ["Reed", "Gull", "Buoy"]
    assert _undo(client) == "Order “Slipway Friday”" and _order(client, set_id) == ["Gull", "Buoy", "Reed"]
    client.post(f"/api/sets/{set_id}/remove", json={"entry_ids": [reed]}).raise_for_status()
    stale = client.put(f"/api/sets/{set_id}/order", json={"entry_ids": proposed["entry_ids"]})
    assert stale.status_code == 422 and "meanwhile" in stale.json()["detail"]
    client.delete(f"/api/sets/{set_id}").raise_for_status()
    assert client.get("/api/sets").json() == [] and client.get(f"/api/sets/{set_id}").status_code == 404
    _undo(client)
    assert _order(client, set_id) == ["Gull", "Buoy"] and _tray(client, set_id) == ["Tide"]


def test_what_happens_to_tracks_and_venues_elsewhere_leaves_the_set_whole(client: TestClient) -> None:
    set_id, database = _make(client), _database(client)
    _place(client, set_id, 1, 2, 3)
    client.post(f"/api/sets/{set_id}/tracks", json={"ids": [4]}).raise_for_status()
    joint = {
        "out_id": _get(client, set_id)["order"][0]["id"],
        "in_id": _get(client, set_id)["order"][1]["id"],
    }
    client.put(
        f"/api/sets/{set_id}/joint", json={**joint, "settings": {"over_bars": 8}, "note": "low end late"}
    ).raise_for_status()
    with database.write("off") as connection:
        off_shelf.take_off(connection, [2], False)
    found = _get(client, set_id)
    assert [each["title"] for each in found["order"]] == ["Tide", "Pier", "Gull"]
    assert "not on the Shelf" in [each["words"] for each in found["order"][1]["cautions"]]
    assert (found["joints"][0]["settings"]["over_bars"], found["joints"][0]["note"]) == (8, "low end late")
    _undo(client)
    with database.write("twins") as connection:
        plan = twin_carrying.plan_carrying(connection, lambda track_id: None, 6, [3, 4])
        twin_carrying.carry_over(connection, plan, False)
    assert _order(client, set_id) == ["Tide", "Pier", "Reed"] and _tray(client, set_id) == []
    _undo(client)
    assert _order(client, set_id) == ["Tide", "Pier", "Gull"] and _tray(client, set_id) == ["Kelp"]
    with database.write("venue") as connection:
        venues.delete_venue(connection, venues.named(connection, "The Slipway"))
    assert _get(client, set_id)["venue"] == ""
    _undo(client)
    assert _get(client, set_id)["venue"] == "The Slipway"


def _night(client: TestClient, days_before: int, *ids: int, went: str = "") -> None:
    on = date(2026, 11, 27) - timedelta(days=days_before)
    with _database(client).write() as connection:
        venue_id = venues.named(connection, "The Slipway")
        facts = gigs.Facts(venue_id=venue_id, began_at=f"{on}T21:00:00.000+00:00")
        gig_id = gigs.make_gig(connection, facts)
        plays.add(connection, gig_id, [Coming(each) for each in ids], None, "by hand")
        if went:
            last = [play.id for play in plays.list_plays(connection, gig_id)][-1:]
            plays.mark(connection, last, {"went": went})


def test_repeats_jumps_and_what_is_never_to_be_played_are_said(client: TestClient) -> None:
    set_id = _make(client)
    _night(client, 7, 1, 2)
    _night(client, 200, 3, 1)
    _place(client, set_id, 1, 2, 5, 3)
    found = _get(client, set_id)
    assert [[each["kind"] for each in entry["cautions"]] for entry in found["order"]][:2] == [
        ["here"],
        ["here"],
    ]
    assert found["order"][0]["last_here"] == "20 Nov" and found["order"][0]["times_here"] == 2
    assert found["order"][3]["cautions"] == [] and found["order"][3]["times_here"] == 1
    assert [each["kind"] for each in found["joints"][0]["cautions"]] == ["again"]
    assert "key" in [each["kind"] for each in found["joints"][1]["cautions"]]
    assert "played here" not in str(found["joints"])


def test_suggestions_tell_what_goes_on_from_a_track_and_why(client: TestClient) -> None:
    set_id = _make(client)
    _night(client, 60, 1, 3, went="well")
    _night(client, 7, 2)
    _place(client, set_id, 1)

    def after(track: int, **asked: Any) -> dict[str, dict[str, Any]]:
        found = client.get(f"/api/sets/{set_id}/suggestions", params={"after": track, **asked}).json()
        assert [each["score"] for each in found] == sorted((each["score"] for each in found), reverse=True)
        return {each["title"]: each for each in found}

    found = after(1)
    assert "Tide" not in found and next(iter(found)) == "Gull"
    assert "you played them together once, it went well" in found["Gull"]["reasons"]
    assert found["Pier"]["doubts"] == ["played here 20 Nov"]
    assert "Pier" not in after(1, wanted=["not here lately"]) and "Gull" in after(
        1, wanted=["not here lately"]
    )
    assert after(1, nights=0)["Gull"]["score"] < found["Gull"]["score"] < after(1, nights=2)["Gull"]["score"]
    for odd in ("2.1", "-1", "nan"):
        asked = {"after": 1, "nights": odd}
        assert client.get(f"/api/sets/{set_id}/suggestions", params=asked).status_code == 422
    client.patch(f"/api/sets/{set_id}", json={"tempo_percent": 2.0}).raise_for_status()
    assert set(after(1, wanted=["tempo in reach"])) == {"Pier"}
    assert set(after(3, wanted=["rises"])) <= {"Kelp", "Buoy", "Reed"}
    assert client.get(f"/api/sets/{set_id}/suggestions", params={"after": 99}).status_code == 404


def test_a_chain_is_kept_and_tells_what_of_it_is_in_the_set(client: TestClient) -> None:
    set_id = _make(client)
    path = f"/api/sets/{set_id}/chain"

    def go_on(track_id: int, from_id: int | None = None) -> int:
        return int(client.post(path, json={"track_id": track_id, "from_id": from_id}).json()["id"])

    begun = go_on(1)
    on = go_on(3, begun)
    assert go_on(3, begun) == on, "where one went before"
    _place(client, set_id, 3)
    assert [(each["track_id"], each["from_id"], each["held"]) for each in client.get(path).json()] == [
        (1, None, ""),
        (3, begun, "order"),
    ]
    with client.app.state.services.database.write("off") as connection:  # type: ignore[attr-defined]
        off_shelf.take_off(connection, [1], False)
    gone, _ = client.get(path).json()
    assert (gone["title"], gone["on_shelf"]) == ("Tide", False)
    client.delete(f"{path}/{begun}").raise_for_status()
    assert client.get(path).json() == [] and _undo(client).startswith("Take steps of the chain")
    assert len(client.get(path).json()) == 2
    for refused in (
        client.delete(f"{path}/99"),
        client.post(path, json={"track_id": 99}),
        client.post(path, json={"track_id": 2, "from_id": 99}),
        client.get("/api/sets/99/chain"),
    ):
        assert refused.status_code == 404 and "no longer" in refused.json()["detail"]


def test_a_set_goes_on_to_a_crate_to_paper_and_to_the_next_date(client: TestClient) -> None:
    set_id = _make(client)
    _place(client, set_id, 2, 1)
    order = _get(client, set_id)["order"]
    client.patch(f"/api/sets/{set_id}/entries/{order[1]['id']}", json={"note": "closes", "pin": "last"})
    client.put(
        f"/api/sets/{set_id}/arc",
        json={"points": [{"share": 1.0, "energy": 60.0}, {"share": 0.0, "energy": 20.0}]},
    ).raise_for_status()
    crate = client.post(f"/api/sets/{set_id}/crate").json()
    assert (crate["name"], crate["tracks"]) == ("Slipway Friday", 2)

    def file(form: str) -> str:
        return client.get(f"/api/sets/{set_id}/file", params={"form": form}).raise_for_status().text

    text = file("text")
    assert "Slipway Friday · The Slipway · 2026-11-27 · 21:00 to 00:00" in text
    assert "  1  21:00  Artist 1 – Pier" in text and "16 bars over" in text and "closes" in text
    begins = _get(client, set_id)["order"][1]["begins_s"]
    frames = round(begins * 75)
    assert f"INDEX 01 {frames // 4500:02}:{frames // 75 % 60:02}:{frames % 75:02}" in file("cue")
    assert file("cue").count("TRACK") == 2 and "INDEX 01 00:00:00" in file("cue")
    assert "2026-11-27 21:00:00" in file("csv") and file("m3u8").count("#EXTINF") == 2
    copied = client.post(
        f"/api/sets/{set_id}/copy", json={"name": "Next Friday", "on_day": "2026-12-04"}
    ).json()["id"]
    found = _get(client, copied)
    assert [each["title"] for each in found["order"]] == ["Pier", "Tide"] and found["order"][1][
        "pin"
    ] == "last"
    assert (found["venue"], found["arc"]) == (
        "The Slipway",
        [{"share": 0.0, "energy": 20.0}, {"share": 1.0, "energy": 60.0}],
    )
    assert [each["name"] for each in client.get("/api/sets").json()] == ["Next Friday", "Slipway Friday"]


@pytest.mark.parametrize(
    "facts",
    [
        {"name": ""},
        {"name": "x" * 201},
        {"name": "x", "on_day": "31 Nov"},
        {"name": "x", "begins": "25:00"},
        {"name": "x", "on_day": "0001-01-01"},
    ],
)
def test_what_cannot_be_a_set_is_refused_in_words(client: TestClient, facts: dict[str, str]) -> None:
    refused = client.post("/api/sets", json=facts)
    assert refused.status_code == 422 and isinstance(refused.json()["detail"], str)
    assert client.get("/api/sets").json() == []


def test_two_windows_add_the_same_track_once(client: TestClient) -> None:
    set_id = _make(client)
    for _ in range(2):
        client.post(f"/api/sets/{set_id}/tracks", json={"ids": [1, 2]}).raise_for_status()
    assert _tray(client, set_id) == ["Tide", "Pier"]
    entry = _get(client, set_id)["tray"][0]["id"]
    gone = client.post(f"/api/sets/{set_id}/move", json={"entry_ids": [entry, 999], "before": 12345})
    assert gone.status_code == 204 and _order(client, set_id) == ["Tide"]
    assert sets.get_set(_database(client).read(), set_id).in_tray == 1


def test_a_night_is_laid_beside_its_plan(client: TestClient) -> None:
    set_id = _make(client)
    _place(client, set_id, 1, 2, 3)
    lines = "21:00 Artist 0 - Tide\n21:05 Somebody - A wish\n21:10 Artist 2 - Gull\n21:15 Artist 1 - Pier"
    told = {"text": lines, "on": "2026-11-27", "begins": "21:00", "venue": "The Slipway", "kind": "weekly"}
    client.post("/api/nights", json=told).raise_for_status()
    night = client.get("/api/gigs").json()[0]["id"]
    beside = client.get(f"/api/gigs/{night}/plan/{set_id}").raise_for_status().json()
    assert [each["title"] for each in beside["planned"]] == ["Tide", "Pier", "Gull"]
    assert beside["planned"][0]["at"] == "21:00" and beside["name"] == "Slipway Friday"
    assert [(each["first"], each["second"]) for each in beside["shared"]] == [(0, 0), (1, 3), (2, 2)]
    assert not any(each["in_a_row"] for each in beside["shared"])
    client.delete(f"/api/sets/{set_id}").raise_for_status()
    gone = client.get(f"/api/gigs/{night}/plan/{set_id}")
    assert gone.status_code == 404 and "no longer there" in gone.json()["detail"]


def test_a_recording_is_cleared_by_a_register_by_a_table_and_by_hand(client: TestClient) -> None:
    set_id = _make(client)
    path = f"/api/sets/{set_id}/clearance"
    with _database(client).write() as connection:
        known = [new_track(connection, "Salt Arithmetic", artist="Tern Logic")]
        known.append(new_track(connection, "Nine Steps to the Water", artist="BRINE SOCIAL"))
    _place(client, set_id, 1, 2, *known)

    def states() -> list[str]:
        return [each["state"] for each in client.get(path).json()["lines"]]

    assert client.get(path).json()["may"] == "not known" and states() == ["unknown"] * 4
    asked = client.post(f"{path}/ask").json()
    assert asked == {"changed": 2, "not_known": 2, "by_hand": 0, "notes": []}
    assert states() == ["unknown", "unknown", "blocked", "blocked"]
    assert client.get(path).json()["may"] == "no", "what is blocked everywhere"
    told = {each["title"]: each for each in client.get(f"/api/sets/{set_id}").json()["order"]}
    cautions = [each["words"] for each in told["Nine Steps to the Water"]["cautions"]]
    assert "blocked in Norrland Isles, Ostmark in a recording" in cautions

    by_hand = {"track_ids": [known[0]], "state": "free", "condition": "their letter of May"}
    assert client.put(path, json=by_hand).status_code == 204
    table = "artist,title,state,where\nTern Logic,Salt Arithmetic,blocked,\nArtist 0,Tide,free,\n?,?,?,\n"
    taken = client.post(f"{path}/table", json={"text": table, "source": "the label"}).json()
    assert (taken["changed"], taken["by_hand"], taken["not_known"]) == (1, 1, 2)
    assert states() == ["free", "unknown", "free", "blocked"], "what was said by hand stays"
    assert client.post(f"{path}/ask").json()["by_hand"] == 1
    assert client.get(path).json()["lines"][0]["source"] == "the label"

    made = client.get(f"{path}/file").text
    assert "their letter of May,by hand" in made and made.count("\r\n") == 5
    _undo(client), _undo(client)
    assert states() == ["unknown", "unknown", "blocked", "blocked"]
    assert client.put(path, json={**by_hand, "state": "unknown"}).status_code == 204
    assert states()[2] == "unknown", "forgotten"
    assert client.put(path, json={**by_hand, "track_ids": [9999]}).status_code == 422
    assert client.post(f"{path}/table", json={"text": "nothing"}).status_code == 422
    assert client.get("/api/sets/999/clearance").status_code == 404


def test_what_is_wanted_stands_by_its_name_until_its_file_comes(client: TestClient) -> None:
    set_id = _make(client)
    _place(client, set_id, 1, 2)
    ids = [each["id"] for each in _get(client, set_id)["order"]]

    def want(title: str, **more: Any) -> Any:
        asked = {"artist": "Kelp Union", "title": title, **more}
        return client.post(f"/api/sets/{set_id}/wanted", json=asked)

    assert want("Not Yet Out", placed=True, before=ids[1]).json() == {"owned": False}
    assert (
        "Kelp Union – Not Yet Out · not on the Shelf" in client.get(f"/api/sets/{set_id}/file?form=text").text
    )
    crate = client.post(f"/api/sets/{set_id}/crate").json()["id"]
    asked = client.get(f"/api/crates/{crate}/wanted").json()
    assert [(each["title"], each["number"], each["after"]) for each in asked] == [("Not Yet Out", 2, "Tide")]
    assert want("Nor This").status_code == 201 and want("  ").status_code == 422
    assert _order(client, set_id) == ["Tide", "Not Yet Out", "Pier"] and _tray(client, set_id) == ["Nor This"]
    entry = _get(client, set_id)["order"][1]
    assert entry["track_id"] is None and [each["kind"] for each in entry["cautions"]] == ["missing"]
    note = {"note": "white label", "pin": "here"}
    client.patch(f"/api/sets/{set_id}/entries/{entry['id']}", json=note).raise_for_status()
    with _database(client).write() as connection:
        came = new_track(connection, "Not Yet Out (Original Mix)", artist="KELP UNION")
        assert wanted.fulfil(connection, [came]) == {came: ["Slipway Friday"] * 2}, (
            "in the set and in its crate"
        )
        assert wanted.fulfil(connection, [came]) == {}
    there = _get(client, set_id)["order"][1]
    assert (there["id"], there["track_id"], there["pin"]) == (entry["id"], came, "here")
    assert want("Not Yet Out").json() == {"owned": True} and _tray(client, set_id) == ["Nor This"]
    assert client.post(f"/api/sets/{set_id}/wanted", json={"artist": "Artist 2", "title": "gull"}).json()[
        "owned"
    ]
    assert _tray(client, set_id) == ["Nor This", "Gull"]
    _undo(client)
    want("Nor This", placed=True)
    with _database(client).write() as connection:
        other = new_track(connection, "Nor This")
        wanted.fulfil(connection, [other])
    assert _order(client, set_id)[-1] == "Nor This"
    assert sum(each["track_id"] == other for each in _get(client, set_id)["tray"]) <= 1
