"""Who may ask the server, and what others on this machine can see of a home."""

from __future__ import annotations

import re
import stat
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

import vinyl
from vinyl.library.lock import KEY_HEADER
from vinyl.operations.services import PRIVATE

SOURCE = Path(vinyl.__file__).parent


@pytest.fixture
def stranger(client: TestClient) -> TestClient:
    """Another user of this machine: the same address, no key."""
    return TestClient(client.app, base_url="http://127.0.0.1:8420", follow_redirects=False)


@pytest.mark.parametrize(
    ("method", "path"),
    [
        ("GET", "/api/crates"), ("POST", "/api/undo"), ("GET", "/api/events"), ("GET", "/other-side/"),
        ("GET", "/player/sticks"), ("GET", "/shelf"), ("GET", "/api/openapi.json"),
        ("GET", "/api/crates?key="),
    ],
)  # fmt: skip
def test_who_has_no_key_is_turned_away(stranger: TestClient, method: str, path: str) -> None:
    for headers in ({}, {KEY_HEADER: ""}, {KEY_HEADER: "0" * 32}, {"Cookie": "vinyl-8420="}):
        answer = stranger.request(method, path, headers=headers)
        assert answer.status_code == 401 and "key" in answer.text


def test_the_launchers_address_lets_a_browser_in_and_its_key_off_the_address(
    client: TestClient, stranger: TestClient
) -> None:
    key = client.headers[KEY_HEADER]
    for _ in range(2):
        answer = stranger.get("/shelf", params={"sort": "title", "key": key})
        assert answer.status_code == 303 and answer.headers["location"] == "/shelf?sort=title"
        cookie = answer.headers["set-cookie"].lower()
        assert "httponly" in cookie and "samesite=lax" in cookie and cookie.startswith("vinyl-8420=")
    assert stranger.get("/api/crates").status_code == 200
    assert stranger.get("/api/crates", params={"key": "A minor"}).status_code == 200


def test_what_a_home_holds_is_its_owners(client: TestClient) -> None:
    home = client.app.state.services.settings.home  # type: ignore[attr-defined]
    for name in PRIVATE:
        assert stat.S_IMODE((home / name).stat().st_mode) == 0o700, name


ANOTHER_READER = re.compile(
    r"from xml\.etree\S* import (?!Element\b|ParseError\b)|import xml\.etree|minidom|expat"
)


def test_xml_is_read_in_one_place_and_safely() -> None:
    assert [path for path in SOURCE.rglob("*.py") if ANOTHER_READER.search(path.read_text())] == []
