"""Exchange through HTTP: there, read back, later work of the other side kept, and back with conflicts."""

from __future__ import annotations

import errno
import hashlib
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from vinyl.exchange import writing
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.exchange.libraries.tidewrack import TidewrackReader
from vinyl.media.probe import probe
from vinyl.standin_libraries import reedbank, saltmarsh

ALL_CUES = [
    {"position_s": 2.0, "length_s": None, "label": "", "role": "in", "colour": "violet", "pad": None},
    {"position_s": 6.0, "length_s": None, "label": "drop", "role": None, "colour": "blue", "pad": 3},
    {"position_s": 8.0, "length_s": 2.0, "label": "hold", "role": None, "colour": "ochre", "pad": None},
]


@pytest.fixture(scope="module")
def place(client: TestClient) -> Iterator[Path]:
    """A folder that may be written, beside the music, and a track with cues in a list."""
    folder = Path(client.get("/api/offered").json()[0]["path"]) / "other programs"
    folder.mkdir()
    one = by_title(client, "One")
    for cue in ALL_CUES:
        assert client.post(f"/api/tracks/{one}/cues", json={**cue, "engages": False}).status_code == 201
    crate = client.post("/api/crates", json={"name": "Pier"}).json()["id"]
    client.post(f"/api/crates/{crate}/tracks", json={"ids": [one, by_title(client, "Two")]})
    yield folder


def _destination(client: TestClient, target: str, folder: Path, **order: Any) -> dict[str, Any]:
    name = f"{target} {len(client.get('/api/exchange/destinations').json())}"
    body = {"name": name, "order": {"target": target, "place": str(folder), **order}}
    answer = client.post("/api/exchange/destinations", json=body)
    assert answer.status_code == 201, answer.text
    return dict(answer.json()["order"])


def _ledger(client: TestClient, order: dict[str, Any]) -> dict[str, Any]:
    job = finished(client, client.post("/api/exchange/ledgers", json=order))
    assert job["state"] == "done", job["error"]
    return dict(client.get(f"/api/exchange/ledgers/{job['id']}").json())


def test_tracks_without_an_in_point_are_counted_where_cues_go_and_can_be_named(
    client: TestClient, place: Path
) -> None:
    without = {by_title(client, "Two"), by_title(client, "Missing")}
    ledger = _ledger(client, _destination(client, "reedbank", place))
    path = f"/api/exchange/ledgers/{ledger['job_id']}/without-in-point"
    assert ledger["without_in_point"] == 2 and set(client.get(path).json()) == without
    only_lists = _ledger(client, _destination(client, "m3u8", place))
    assert only_lists["without_in_point"] == 0, "a playlist has no cues"
    assert client.get("/api/exchange/ledgers/99999/without-in-point").status_code == 404
    cue = {**ALL_CUES[0], "position_s": 4.0, "engages": False}
    order = _destination(client, "reedbank", place)
    made = client.post(f"/api/tracks/{by_title(client, 'Two')}/cues", json=cue)
    assert made.status_code == 201
    assert _ledger(client, order)["without_in_point"] == 1
    assert "cue" in client.post("/api/undo").json()["name"].lower()


def _carry(client: TestClient, order: dict[str, Any]) -> dict[str, Any]:
    job = finished(client, client.post("/api/exchange/carryings", json=order))
    assert job["state"] == "done", job["error"]
    return dict(client.get(f"/api/exchange/carryings/{job['id']}").json())


def _counts(ledger: dict[str, Any], kind: str) -> dict[str, int]:
    return {each["fate"]: each["count"] for each in ledger["counts"] if each["kind"] == kind}


def _review(client: TestClient, target: str, folder: Path, **more: Any) -> dict[str, Any]:
    job = finished(
        client, client.post("/api/exchange/looks", json={"target": target, "place": str(folder), **more})
    )
    assert job["state"] == "done", job["error"]
    return dict(client.get(f"/api/exchange/looks/{job['id']}").json())


def _rows(client: TestClient, review: dict[str, Any]) -> list[dict[str, Any]]:
    return list(client.get(f"/api/exchange/looks/{review['job_id']}/rows").json()["rows"])


def test_what_the_ledger_says_is_what_is_read_back(client: TestClient, place: Path) -> None:
    order = _destination(client, "reedbank", place, lists=[client.get("/api/crates").json()[0]["id"]])
    ledger = _ledger(client, order)
    assert not list(place.iterdir()), "a ledger writes nothing"
    assert (ledger["tracks"], ledger["lists"], ledger["states"]) == (2, 1, {"new": 2})
    assert _counts(ledger, "cues") == {"as it is": 1, "changed": 1}
    assert _counts(ledger, "loops") == {"as it is": 1}
    rows = client.get(f"/api/exchange/ledgers/{ledger['job_id']}/rows", params={"kind": "cues"}).json()
    assert [(each["track"], each["why"]) for each in rows["rows"]] == [
        ("Kelp Union – One", "its role stands in its name")
    ]
    report = _carry(client, order)
    assert report["equal"] == report["values"] > 20 and report["findings_count"] == 0
    told = {each["words"]["title"]: each for each in reedbank.tracks(Path(report["place"]))}
    assert [point[1:5] for point in told["One"]["points"]] == [
        [1, 2000, None, "in"], [3, 6000, None, "drop"], [2, 8000, 2000, "hold"]
    ]  # fmt: skip
    assert reedbank.lists(Path(report["place"])) == [{"name": "Pier", "tracks": ["1", "2"]}]


def test_the_other_side_shows_it_as_that_program_would(client: TestClient, place: Path) -> None:
    crates = [client.get("/api/crates").json()[0]["id"]]
    document = Path(_carry(client, _destination(client, "reedbank", place, lists=crates))["place"])
    page = client.get("/other-side/", params={"library": str(document)}).text
    assert "<li>Pier (2)" in page and ">One</a>" in page
    page = client.get("/other-side/", params={"library": str(document), "track": "0"}).text
    assert "<svg" in page and "<td>peg 3<td>6.000 s<td>drop" in page
    assert client.get("/other-side/", params={"library": "/etc/passwd"}).status_code == 403
    assert client.get("/other-side/", params={"library": str(place)}).status_code == 422


def test_one_track_is_tried_without_a_trace(client: TestClient, place: Path) -> None:
    before = sorted(place.iterdir())
    for target in ("reedbank", "tidewrack", "saltmarsh"):
        order = {"target": target, "place": str(place)}
        tried = client.post(f"/api/exchange/tracks/{by_title(client, 'One')}/try", json=order).json()
        assert [cue["stays"] for cue in tried["ours"]] == [True, True, True]
        assert tried["worst_ms"] <= 0.5 and not tried["findings"] and tried["values"] > 8
    assert sorted(place.iterdir()) == before


def test_later_work_of_the_other_side_stays_unless_it_is_chosen(client: TestClient, place: Path) -> None:
    folder = place / "later"
    folder.mkdir()
    order = _destination(client, "reedbank", folder)
    document = Path(_carry(client, order)["place"])
    text = document.read_text()
    document.write_text(text.replace('name="drop"', 'name="their drop"').replace('is="One"', 'is="Uno"'))
    theirs = document.read_text()
    ledger = _ledger(client, order)
    assert ledger["later"] == {"texts": 1, "cues": 1} and ledger["states"] == {"same": 3}
    report = _carry(client, order)
    assert "their drop" in document.read_text() and 'is="Uno"' in document.read_text()
    assert Path(report["kept"]).read_text() == theirs
    _carry(client, {**order, "policies": {"cues": "replace", "texts": "leave"}})
    assert "their drop" not in document.read_text() and 'is="Uno"' in document.read_text()


def test_only_what_changed_goes_and_a_mirror_lists_what_vanishes(client: TestClient, place: Path) -> None:
    folder = place / "weekly"
    folder.mkdir()
    order = _destination(client, "saltmarsh", folder)
    database = Path(_carry(client, order)["place"])
    two = by_title(client, "Two")
    client.put("/api/tracks/rating", json={"ids": [two], "stars": 3})
    changed = {**order, "changed_only": True}
    assert _ledger(client, changed)["states"] == {"same": 2, "changed": 1}
    _carry(client, changed)
    stars = {each["words"]["title"]: each["words"].get("stars") for each in saltmarsh.tracks(database)}
    assert stars == {"One": None, "Two": "6", "Missing": None}
    crate = client.get("/api/crates").json()[0]["id"]
    mirror = {**order, "lists": [crate], "mirror": True}
    assert _ledger(client, mirror)["vanish"] == {"lists": [], "tracks": ["../../Missing.flac"], "count": 1}
    _carry(client, mirror)
    assert len(list(saltmarsh.tracks(database))) == 2


def test_what_another_program_has_in_its_journal_is_kept_and_not_read_into_ours(
    client: TestClient, place: Path
) -> None:
    folder = place / "journal"
    folder.mkdir()
    order = _destination(client, "saltmarsh", folder)
    database = Path(_carry(client, order)["place"])
    other = sqlite3.connect(database, isolation_level=None)
    other.execute("PRAGMA journal_mode = WAL")
    other.execute("PRAGMA wal_autocheckpoint = 0")
    other.execute("INSERT INTO word SELECT id, 'composer', 'Ilva' FROM track WHERE path LIKE '%One%'")
    before = database.read_bytes()
    job = finished(client, client.post("/api/exchange/carryings", json=order))
    assert job["state"] == "failed" and "open in another program" in job["error"]
    assert database.read_bytes() == before, "while it is open there, it stays as it is"
    # That program is killed: what it had done stands in its journal only.
    journal, crashed = folder / f"{database.name}-wal", folder / "crashed"
    crashed.mkdir()
    moved = crashed / database.name
    shutil.copy(database, moved)
    shutil.copy(journal, crashed / journal.name)
    other.close()
    report = _carry(client, _destination(client, "saltmarsh", crashed))
    assert report["values"] == report["equal"]
    kept = Path(report["kept"])
    for file in (moved, kept):
        assert {each["words"].get("composer") for each in saltmarsh.tracks(file)} == {None, "Ilva"}
    assert not list(crashed.glob(f"{database.name}-*")), "no journal lies beside what is new"


def test_one_rule_that_is_not_understood_ends_nothing(client: TestClient, place: Path) -> None:
    folder = place / "rules"
    folder.mkdir()
    database = Path(_carry(client, _destination(client, "saltmarsh", folder))["place"])
    with sqlite3.connect(database) as other:
        for number, rule in enumerate(('{"all": [{"of": "tempo", "from": "x", "to": {}}]}', "{", '[1, "a"]')):
            told = (50 + number, number, f"Odd {number}", rule)
            other.execute("INSERT INTO list VALUES (?, NULL, ?, ?, 0, ?)", told)
        other.execute("INSERT INTO list VALUES (60, NULL, 9, 'Good', 0, NULL)")
        other.execute("INSERT INTO in_list SELECT 60, id, id FROM track")
        other.execute("INSERT INTO play SELECT 900 + id, id, 'nonsense', 'x' FROM track")
    other.close()
    review = _review(client, "saltmarsh", database)
    path = f"/api/exchange/looks/{review['job_id']}/take"
    taken = finished(client, client.post(path, json={"lists": True, "plays": True}))
    assert taken["state"] == "done", taken["error"]
    names = {each["name"] for each in client.get("/api/crates").json()}
    assert {"Odd 0", "Odd 1", "Odd 2", "Good"} <= names
    assert taken["failures"] == 2, "the rule that cannot be, and the plays without a time"
    client.post("/api/undo")


def test_what_comes_back_is_reviewed_and_locks_hold(client: TestClient, place: Path) -> None:
    folder = place / "back"
    folder.mkdir()
    order = _destination(client, "saltmarsh", folder)
    database = Path(_carry(client, order)["place"])
    sent = _review(client, "saltmarsh", database)
    assert not sent["kinds"] and not sent["lists"], "what was sent is no news"
    crate = next(each["id"] for each in client.get("/api/crates").json() if each["name"] == "Pier")
    assert client.patch(f"/api/crates/{crate}", json={"name": "Pier, late"}).is_success
    assert [each["name"] for each in _review(client, "saltmarsh", database)["lists"]] == ["Pier"]
    client.post("/api/undo")
    one, two = by_title(client, "One"), by_title(client, "Two")
    with sqlite3.connect(database) as other:
        other.execute("INSERT INTO word SELECT id, 'composer', 'Ilva' FROM track WHERE path LIKE '%One%'")
        other.execute("UPDATE word SET text = 'Zwei' WHERE name = 'title' AND text = 'Two'")
        other.execute(
            "INSERT INTO point SELECT id, 99, 12.5, NULL, 'theirs', '#1f6397', 0 FROM track "
            "WHERE path LIKE '%One%'"
        )
    other.close()
    client.put("/api/tracks/locks", json={"ids": [two], "part": "tags", "locked": True})
    source = hashlib.sha256(database.read_bytes()).hexdigest()
    review = _review(client, "saltmarsh", database)
    found = {(each["track"][-3:], each["what"]): each for each in _rows(client, review)}
    assert set(found) == {("One", "composer"), ("One", "cues and loops"), ("wei", "title")}
    assert found["wei", "title"]["rule"] == "Two" and "theirs" not in found["wei", "title"]["ways"]
    taken = finished(
        client,
        client.post(f"/api/exchange/looks/{review['job_id']}/take", json={"lists": False, "plays": True}),
    )
    assert taken["state"] == "done" and taken["failures"] == 0
    cues = client.get(f"/api/tracks/{one}").json()["cues"]
    assert [cue["label"] for cue in cues] == ["", "drop", "hold", "theirs"]
    assert row(client, one)["composer"] == "Ilva" and row(client, two)["title"] == "Two"
    client.post("/api/undo")
    assert len(client.get(f"/api/tracks/{one}").json()["cues"]) == 3
    assert row(client, one)["composer"] == ""
    client.put("/api/tracks/locks", json={"ids": [two], "part": "tags", "locked": False})
    assert hashlib.sha256(database.read_bytes()).hexdigest() == source


def test_plays_come_into_the_logbook_once(client: TestClient, place: Path) -> None:
    folder = place / "plays"
    folder.mkdir()
    database = Path(_carry(client, _destination(client, "saltmarsh", folder))["place"])
    with sqlite3.connect(database) as other:
        for minute in (0, 6, 12):
            at = f"2026-10-02T21:{minute:02}:00+00:00"
            other.execute(
                "INSERT INTO play (track, at, night) VALUES (1 + ? % 2, ?, 'Pier')", (minute // 6, at)
            )
    other.close()
    before = len(client.get("/api/gigs").json())
    for _ in range(2):
        review = _review(client, "saltmarsh", database)
        assert review["plays"] == 3
        take = client.post(
            f"/api/exchange/looks/{review['job_id']}/take", json={"lists": False, "plays": True}
        )
        assert finished(client, take)["state"] == "done"
    gigs = client.get("/api/gigs").json()
    assert len(gigs) == before + 1 and sum(gig["tracks"] for gig in gigs) >= 3


def test_tags_carry_a_library_and_the_sound_stays(client: TestClient, place: Path) -> None:
    folder = place / "tide"
    folder.mkdir()
    order = _destination(client, "tidewrack", folder)
    one = by_title(client, "One")
    report = _carry(client, order)
    assert (report["failures"], report["equal"]) == (1, report["values"])
    reader = TidewrackReader(folder)
    cards = {card.words.get("title", ""): card for _, card in reader.cards()}
    # As they were set, on the nearest beat.
    assert [point.at for point in cards["One"].points] == pytest.approx([88200, 264600, 352800], abs=20)
    assert cards["One"].words["comment"].startswith("Energy ")
    assert client.get(f"/api/tracks/{one}").status_code == 200
    again = _carry(client, order)
    assert again["equal"] == again["values"] and Path(again["kept"]).is_dir()
    review = _review(client, "tidewrack", folder)
    assert review["kinds"] == [] and review["states"] == {"here": 3}


def test_routes_go_as_audio_files_of_their_own_each_once(client: TestClient, place: Path) -> None:
    folder = place / "routes"
    folder.mkdir()
    one = by_title(client, "One")
    jumps = [{"from_s": 6.0, "to_s": 12.0}]
    client.post(f"/api/tracks/{one}/routes", json={"name": "short/er", "jumps": jumps})
    order = _destination(client, "reedbank", folder, options={"routes": "audio"})
    report = _carry(client, order)
    assert report["equal"] == report["values"] and report["failures"] == 0
    (file,) = (folder / "Routes").iterdir()
    assert probe(file).duration_s == pytest.approx(14.0, abs=0.05)
    told = [each for each in reedbank.tracks(Path(report["place"])) if each["path"] == str(file)]
    assert [each["words"]["title"] for each in told] == ["One (short/er)"]
    assert reedbank.lists(Path(report["place"]))[-1]["name"] == "Routes"
    written = file.stat().st_mtime_ns
    again = _carry(client, order)
    assert again["equal"] == again["values"] and file.stat().st_mtime_ns == written
    assert len([x for x in reedbank.lists(Path(again["place"])) if x["name"] == "Routes"]) == 1


def test_straight_through_the_own_collection_has_no_part(client: TestClient, place: Path) -> None:
    folder = place / "straight"
    folder.mkdir()
    document = Path(_carry(client, _destination(client, "reedbank", folder))["place"])
    text = document.read_text()
    document.write_text(text.replace('is="One"', 'is="Only there"'))
    order = {
        "target": "saltmarsh", "place": str(folder),
        "source": {"target": "reedbank", "place": str(document), "mappings": []},
    }  # fmt: skip
    report = _carry(client, order)
    assert report["equal"] == report["values"]
    told = {each["words"]["title"]: each for each in saltmarsh.tracks(Path(report["place"]))}
    assert "Only there" in told and told["Only there"]["points"][0][2] == 2.0
    assert not client.post(
        "/api/tracks/find", json={"where": {"kind": "words", "text": "Only there"}}
    ).json()["rows"]


def test_a_disk_that_fills_up_leaves_the_old_library(
    client: TestClient, place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = place / "full"
    folder.mkdir()
    order = _destination(client, "reedbank", folder)
    document = Path(_carry(client, order)["place"])
    before = document.read_bytes()

    def full(path: Path, *given: object) -> None:
        write_reedbank(path, [], ())
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(writing, "write_reedbank", full)
    job = client.post("/api/exchange/carryings", json=order).json()
    path = f"/api/jobs/{job['id']}"
    while "disk is full" not in (client.get(path).json()["error"] or ""):
        assert client.get(path).json()["state"] in ("waiting", "running")
    client.post(f"{path}/cancel")
    assert document.read_bytes() == before
    assert [each.name for each in folder.iterdir()] == [document.name], "nothing half written is left"


def test_odd_requests_are_refused_in_words(client: TestClient, place: Path) -> None:
    post = lambda order: client.post("/api/exchange/ledgers", json=order)  # noqa: E731
    for order, says in (
        ({"target": "reedbank", "place": "/etc"}, "outside the folders"),
        ({"target": "reedbank", "place": ""}, "Say where"),
        ({"target": "reedbank", "place": str(place / "no" / "such")}, "There is no folder"),
        ({"target": "reedbank", "place": str(place), "options": {"colours": "neon"}}, "colours"),
        ({"target": "reedbank", "place": str(place), "options": {"volume": "11"}}, "no choice"),
    ):
        answer = post(order)
        assert answer.status_code == 422 and says in answer.json()["detail"], answer.text
    looks = client.post(
        "/api/exchange/looks", json={"target": "reedbank", "place": str(place / "gone.reedbank.xml")}
    )
    assert looks.status_code == 422 and "There is no Reedbank library" in looks.json()["detail"]
    assert client.get("/api/exchange/ledgers/99999").status_code == 404
    assert client.get("/api/exchange/looks/99999").status_code == 404
    twice = {"name": "twice", "order": {"target": "reedbank", "place": str(place)}}
    assert client.post("/api/exchange/destinations", json=twice).status_code == 201
    assert "already" in client.post("/api/exchange/destinations", json=twice).json()["detail"]
