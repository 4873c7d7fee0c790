"""A server over three short tracks, for the tests of the API."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.patience import wait_for
from tests.running import OPEN
from tests.signals import RATE_HZ, drum_loop
from vinyl.api.app import create_app
from vinyl.library.lock import KEY_HEADER
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags
from vinyl.operations.services import Settings


def by_title(client: TestClient, title: str) -> int:
    """The id of the first track with these words."""
    found = {"where": {"kind": "words", "text": title}, "sort": "title"}
    return int(client.post("/api/tracks/find", json=found).json()["rows"][0]["id"])


def row(client: TestClient, track: int) -> dict[str, Any]:
    """A track as lists show it."""
    return dict(client.post("/api/tracks/rows", json={"ids": [track]}).json()[0])


def finished(client: TestClient, answer: Any) -> dict[str, Any]:
    """The job that an answer tells of, once it has ended."""
    assert answer.status_code in (200, 201, 202), answer.text
    path = f"/api/jobs/{answer.json()['id']}"
    job = lambda: client.get(path).json()  # noqa: E731
    wait_for(lambda: job()["state"] not in OPEN, lambda: f"the end of {job()}")
    return dict(job())


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """A server over two analysed tracks and a track whose file is gone."""
    folder = tmp_path_factory.mktemp("api")
    music = folder / "music"
    music.mkdir()
    for name, bpm in (("One", 120.0), ("Two", 126.0), ("Missing", 100.0)):
        encode(drum_loop(bpm, 0.5, 20.0), RATE_HZ, music / f"{name}.flac", "flac")
        write_tags(music / f"{name}.flac", Tags(name, "Kelp Union", genre="House"))
    settings = Settings(folder / "home", folder / "web", allow=(music,), offered=(music,), workers=1, nice=0)
    app = create_app(settings)
    key = {KEY_HEADER: app.state.services.key}
    with TestClient(app, base_url="http://127.0.0.1:8420", headers=key) as made:
        made.post("/api/imports", json={"paths": [str(music)]})
        ended = lambda: {job["kind"] for job in made.get("/api/jobs").json() if job["state"] == "done"}  # noqa: E731
        wait_for(lambda: ended() >= {"import", "analysis", "twins"}, "the import and the analysis")
        (music / "Missing.flac").unlink()
        yield made
