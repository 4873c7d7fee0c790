"""A server over three short tracks, for the tests of the API."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tests.running import wait_for
from tests.signals import RATE_HZ, drum_loop
from vinyl.api.app import create_app
from vinyl.api.services import Settings
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """A server over two analysed tracks and a track whose file is gone."""
    folder = tmp_path_factory.mktemp("api")
    music = folder / "music"
    music.mkdir()
    for name, bpm in (("One", 120.0), ("Two", 126.0), ("Missing", 100.0)):
        encode(drum_loop(bpm, 0.5, 20.0), RATE_HZ, music / f"{name}.flac", "flac")
        write_tags(music / f"{name}.flac", Tags(name, "Kelp Union", genre="House"))
    settings = Settings(folder / "home", folder / "web", allow=(music,), offered=(music,), workers=1)
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8420") as made:
        made.post("/api/imports", json={"folder": str(music)})
        wait_for(lambda: made.get("/api/imports").json()[0]["state"] == "done", "the import")
        wait_for(lambda: all(t["bpm"] for t in made.get("/api/tracks?ids=1,2,3").json()), "the analysis", 60)
        (music / "Missing.flac").unlink()
        yield made
