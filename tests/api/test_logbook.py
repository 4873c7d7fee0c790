"""The Logbook over HTTP: a night typed, changed, told by files, and read back from those that it goes out
as.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, row
from vinyl.exchange.lists import read_playlist

TYPED = "22:55 Kelp Union – One\n23:02 Two\n00:10 Nils Weir – Bollard"


@pytest.fixture
def night(client: TestClient) -> Any:
    """A night typed by hand; taken back at the end."""
    said = {"text": TYPED, "on": "2026-10-30", "begins": "22:30", "venue": "The Slipway", "kind": "weekly"}
    (taken,) = client.post("/api/nights", json=said).json()
    yield client.get(f"/api/gigs/{taken['gig_id']}").json()
    client.post("/api/gigs/delete", json={"ids": [taken["gig_id"]]})


def test_a_night_is_typed_and_changed(client: TestClient, night: Any) -> None:
    gig, plays = night["gig"], night["plays"]
    assert [play["at"] for play in plays] == ["22:55", "23:02", "00:10"]
    assert [play["track_id"] for play in plays] == [by_title(client, "One"), by_title(client, "Two"), None]
    assert (gig["on"], gig["begins"], gig["tracks"], gig["not_here"]) == ("2026-10-30", "22:30", 3, 1)
    changed = client.patch(
        f"/api/gigs/{gig['id']}", json={"begins": "23:30", "ends": "02:00", "note": "Rain."}
    )
    assert [play["at"] for play in changed.json()["plays"]] == ["23:55", "00:02", "01:10"]
    assert (changed.json()["gig"]["ends"], changed.json()["gig"]["note"]) == ("02:00", "Rain.")
    added = client.post(f"/api/gigs/{gig['id']}/plays", json={"text": "01:30 One", "before": None}).json()
    assert added["plays"][3]["at"] == "01:30" and row(client, by_title(client, "One"))["plays"] == 2
    client.post("/api/undo")
    dateless = client.patch(f"/api/gigs/{gig['id']}", json={"begins": None}).json()["gig"]
    assert (dateless["on"], dateless["begins"]) == ("2026-10-30", None)
    for bad in ({"on": "0001-01-01"}, {"begins": "25:00"}, {"venue_id": 10**15}):
        assert client.patch(f"/api/gigs/{gig['id']}", json=bad).status_code in (404, 422)


def test_a_night_with_a_track_off_the_shelf_stays_whole(client: TestClient, night: Any) -> None:
    """It opens, stands beside another, goes out with its titles, is typed into, and makes the next list."""
    gig, one = night["gig"]["id"], by_title(client, "One")
    client.put("/api/tracks/values", json={"ids": [one], "values": {"title": "One by hand"}})
    client.post("/api/off-shelf", json={"ids": [one]})
    there = client.get(f"/api/gigs/{gig}").json()
    assert [(play["title"], play["track_id"] is None) for play in there["plays"]] == [
        ("One by hand", True),
        ("Two", False),
        ("Bollard", True),
    ]
    assert there["gig"]["not_here"] == 2
    beside = client.get(f"/api/gigs/{gig}/beside/{gig}").json()
    assert [each["in_a_row"] for each in beside["shared"]] == [True] * 3
    for form in ("cue", "text", "csv", "m3u8"):
        text = client.get(f"/api/gigs/{gig}/file", params={"form": form}).text
        assert "Kelp Union" in text and "One by hand" in text, form
    typed = client.post(f"/api/gigs/{gig}/plays", json={"text": "00:30 Two", "before": None})
    assert typed.status_code == 200 and len(typed.json()["plays"]) == 4
    wanted = {"on": "2026-12-04", "share": 0.5, "weeks": 4}
    places = client.post(f"/api/gigs/{gig}/next/look", json=wanted).json()["places"]
    assert (places[0]["fate"], places[0]["reason"]) == ("drop", "taken off the Shelf")
    played = client.get("/api/played", params={"venue_id": there["gig"]["venue_id"]}).json()["rows"]
    assert ("One by hand", None) in [(each["title"], each["track_id"]) for each in played]
    assert client.get(f"/api/tracks/{by_title(client, 'Two')}/plays").json()[0]["before"]
    for _ in range(3):
        client.post("/api/undo")
    assert client.get(f"/api/gigs/{gig}").json()["plays"] == night["plays"]


@pytest.mark.parametrize("form", ["m3u8", "cue", "csv", "text"])
def test_what_goes_out_is_read_back(client: TestClient, night: Any, form: str) -> None:
    folder = Path(
        client.post("/api/tracks/rows", json={"ids": [by_title(client, "One")]}).json()[0]["path"]
    ).parent
    out = client.get(f"/api/gigs/{night['gig']['id']}/file", params={"form": form})
    assert out.status_code == 200 and "The%20Slipway" in out.headers["content-disposition"]
    file = folder / f"night.{'txt' if form == 'text' else form}"
    file.write_bytes(out.content)
    told = client.post(
        "/api/nights/look", json={"path": str(file), "on": "2026-10-30", "begins": "22:30"}
    ).json()
    (found,) = told["nights"]
    times = {"m3u8": [None] * 2, "cue": ["22:55", "23:02", "00:10"]}.get(form, ["22:55", "23:02", "00:10"])
    assert [play["at"] for play in found["plays"]] == times
    assert found["same"]["id"] == night["gig"]["id"] and found["shared"] == len(times)
    if form != "text":
        assert read_playlist(file).name
    file.unlink()


def test_a_history_of_another_program_is_taken_in_night_by_night(client: TestClient, night: Any) -> None:
    folder = Path(
        client.post("/api/tracks/rows", json={"ids": [by_title(client, "One")]}).json()[0]["path"]
    ).parent
    file = folder / "history.csv"
    file.write_text(
        "Artist,Title,Played at\nKelp Union,One,2026-10-30 22:55\nKelp Union,Two,2026-10-30 23:02\n"
        "Nils Weir,Bollard,2026-10-31 00:10\nKelp Union,Two,06.11.2026 21:00\n"
        ",Nobody knows,06.11.2026 21:06\n"
    )
    told = client.post("/api/nights/look", json={"path": str(file)}).json()
    assert [each["on"] for each in told["nights"]] == ["2026-10-30", "2026-11-06"] and told["has_dates"]
    before = row(client, by_title(client, "Two"))["plays"]
    taken = client.post("/api/nights", json={"path": str(file)}).json()
    assert [each["was_there"] for each in taken] == [True, False]
    assert row(client, by_title(client, "Two"))["plays"] == before + 1, "the known night counts once"
    client.post("/api/undo")
    file.unlink()


def test_what_is_no_night_is_refused_in_words(client: TestClient) -> None:
    for told in ({"path": "/etc/passwd"}, {"path": "/nowhere/x.m3u8"}, {"crate_id": 999_999}):
        answer = client.post("/api/nights/look", json=told)
        assert answer.status_code in (403, 404, 422) and answer.json()["detail"]
    assert client.post("/api/gigs/join", json={"ids": [999_999, 999_998]}).status_code == 404
    assert client.get("/api/gigs/999999/file?form=cue").status_code == 404
    assert client.put("/api/plays/marks", json={"ids": [999_999], "went": "well"}).status_code == 422
    assert client.get("/api/gigs/1/beside/999999").status_code == 404
    assert client.put("/api/plays/999999/track", json={"track_id": 1}).status_code == 404
