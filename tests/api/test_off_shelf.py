"""Taking tracks off the Shelf: out of lists, with the file put aside or not, back by undo or by an import."""

from __future__ import annotations

import errno
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.conftest import by_title, finished, row
from tests.patience import wait_for
from tests.running import OPEN
from vinyl.jobs import putting_aside
from vinyl.operations.services import Settings


def _titles(client: TestClient) -> set[str]:
    rows = client.post("/api/tracks/find", json={"where": {"kind": "words", "text": ""}}).json()["rows"]
    return {each["title"] for each in rows}


def _off(client: TestClient) -> dict[str, dict[str, Any]]:
    return {each["title"]: each for each in client.get("/api/off-shelf").json()}


def _at_rest(client: TestClient) -> None:
    wait_for(
        lambda: not [j for j in client.get("/api/jobs").json() if j["state"] in OPEN], "the end of all work"
    )


def _home(client: TestClient) -> Settings:
    return client.app.state.services.settings  # type: ignore[attr-defined, no-any-return]


def test_off_the_shelf_and_back(client: TestClient) -> None:
    """It goes from lists, search and likeness, its plays stay; undo brings back its very places; redo too."""
    one, two = by_title(client, "One"), by_title(client, "Two")
    crate = client.post("/api/crates", json={"name": "Quay"}).json()["id"]
    client.post(f"/api/crates/{crate}/tracks", json={"ids": [two, one]})
    client.post("/api/tracks/played", json={"ids": [one]})
    told = client.post("/api/off-shelf/look", json={"ids": [one]}).json()
    assert told["lists"] == [{"name": "Quay", "tracks": 1}] and told["plays"] == 1 and not told["sticks"]
    path = Path(row(client, one)["path"])

    assert client.post("/api/off-shelf", json={"ids": [one]}).json() == {"tracks": 1}
    assert "One" not in _titles(client) and path.exists() and _off(client)["One"]["kept"] is None
    assert client.post("/api/tracks/rows", json={"ids": [one]}).json() == []
    assert client.post("/api/off-shelf", json={"ids": [one]}).status_code == 422
    client.post("/api/undo")
    asked = {"where": {"kind": "list", "list_id": crate}, "sort": "crate", "crate_id": crate}
    in_order = [each["title"] for each in client.post("/api/tracks/find", json=asked).json()["rows"]]
    assert in_order == ["Two", "One"] and row(client, one)["plays"] == 1 and not _off(client)
    client.post("/api/redo")
    assert "One" not in _titles(client)

    job = finished(client, client.post("/api/imports", json={"paths": [str(path)]}))
    assert job["result"]["added"] == 1 and row(client, one)["plays"] == 1 and not _off(client)
    client.post("/api/tracks/played/last", json={"ids": [one]})


def test_files_put_aside(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """A file goes where it is kept and comes back by undo; one that cannot be moved stays and says so; thrown
    away it is gone, and so said.
    """
    one = by_title(client, "One")
    path = Path(row(client, one)["path"])
    sound = path.read_bytes()
    client.post("/api/off-shelf", json={"ids": [one], "aside": True})
    _at_rest(client)
    kept = Path(_off(client)["One"]["kept"])
    assert kept.is_relative_to(_home(client).home) and kept.read_bytes() == sound and not path.exists()
    client.post("/api/undo")
    _at_rest(client)
    assert path.read_bytes() == sound and not kept.exists() and not row(client, one)["away"]

    def fail(source: Path, target: Path) -> None:
        raise OSError(errno.EACCES, "refused")

    with monkeypatch.context() as patch:
        patch.setattr(putting_aside, "move", fail)
        client.post("/api/off-shelf", json={"ids": [one], "aside": True})
        _at_rest(client)
    job = next(each for each in client.get("/api/jobs").json() if each["kind"] == "put aside")
    assert job["failures"] == 1 and path.exists() and _off(client)["One"]["kept"] is None

    client.post("/api/off-shelf/back", json={"track_ids": [one]})
    assert client.post("/api/off-shelf/back", json={"track_ids": [one]}).status_code == 404
    client.post("/api/off-shelf", json={"ids": [one], "aside": True})
    _at_rest(client)
    path.write_bytes(b"another file")  # in its place: it is not overwritten
    client.post("/api/off-shelf/back", json={"track_ids": [one]})
    _at_rest(client)
    assert path.read_bytes() == b"another file" and kept.read_bytes() == sound
    path.unlink()
    client.post("/api/off-shelf", json={"ids": [one], "aside": True})
    _at_rest(client)
    freed = client.post("/api/off-shelf/throw-away", json={"track_ids": [one]}).json()
    assert freed == {"freed_bytes": len(sound), "problems": []} and not kept.exists()
    assert _off(client)["One"]["kept"] is None


def test_a_move_that_was_broken_off(tmp_path: Path, client: TestClient) -> None:
    """Killed between the note and the move, or between copy and removal: the next start ends it."""
    two = by_title(client, "Two")
    path = Path(row(client, two)["path"])
    sound, home = path.read_bytes(), _home(client)
    target = tmp_path / "kept" / path.name
    target.parent.mkdir()
    target.write_bytes(sound)
    putting_aside.move(path, target)  # the copy was whole, the source not yet removed
    assert target.read_bytes() == sound and not path.exists()
    putting_aside.move(target, path)
    services = client.app.state.services  # type: ignore[attr-defined]
    with services.database.write() as connection:
        putting_aside.off_shelf.take_off(connection, [two], aside=True)
        place = putting_aside.PutAside(two, str(path), str(home.home / "put aside" / str(two) / path.name))
        putting_aside.off_shelf.note_aside(connection, place, len(sound))
    services.aside_putter.begin()
    _at_rest(client)
    assert not path.exists() and Path(place.kept).read_bytes() == sound
    client.post("/api/off-shelf/back", json={"track_ids": [two]})
    _at_rest(client)
    assert path.read_bytes() == sound
