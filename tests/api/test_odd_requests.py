"""Whatever is sent, the server answers by its own document: with a result or with words, never a fault."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from vinyl.core.carrying.card import Card, Step
from vinyl.exchange.libraries.saltmarsh import write_saltmarsh
from vinyl.library.lock import KEY_HEADER

# A stream without an end has a test of its own.
LEFT_OUT = "/api/events"
CHECKS = [not_a_server_error, response_schema_conformance]
EXAMPLES = settings(
    max_examples=5,
    deadline=None,
    database=None,
    phases=(Phase.explicit, Phase.generate),
    suppress_health_check=list(HealthCheck),
)


def test_no_request_brings_the_server_down(client: TestClient) -> None:
    here = {"Host": "127.0.0.1:8420", KEY_HEADER: client.headers[KEY_HEADER]}
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", client.app, headers=here)
    tried = 0
    for found in schema.exclude(path=LEFT_OUT).get_all_operations():
        operation = found.ok()

        @EXAMPLES
        @given(case=operation.as_strategy())
        def try_it(case: schemathesis.Case) -> None:
            answer = case.call(headers={**(case.headers or {}), **here})
            case.validate_response(answer, checks=CHECKS)

        try_it()
        tried += 1
    assert tried > 50
    assert client.get("/api/undo").status_code == 200, "the server is well after all of them"


HALF = '"\\ud800"'
DEEP_RULE = '{"kind": "none", "parts": [' * 3000 + "]}" * 3000


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "/api/exchange/tracks/1/try", '{"target": "csv", "place": "/tmp"}'),
        ("POST", "/api/exchange/tracks/1/try", '{"target": "m3u8", "place": "/tmp"}'),
        ("POST", "/api/sticks/settings", f'{{"name": "x", "answers": {{{HALF}: "y"}}}}'),
        ("POST", "/api/sticks/settings", f'{{"name": {HALF}, "answers": {{}}}}'),
        ("POST", "/api/crates", f'{{"name": {HALF}}}'),
        ("POST", "/api/tracks/find", f'{{"where": {DEEP_RULE}}}'),
        ("POST", "/api/rules", f'{{"name": "x", "rule": {{"where": {DEEP_RULE}}}}}'),
        ("POST", "/api/crates/1/tracks", f'{{"ids": [1], "position": {2**63}}}'),
        ("GET", f"/api/tracks/{2**63}", ""),
        ("GET", f"/api/gigs/{2**70}", ""),
        ("POST", "/api/nights", '{"text": "x", "on": "2026-11-20", "begins": "nonsense"}'),
        ("PATCH", "/api/gigs/1", '{"begins": "nonsense"}'),
        ("POST", "/player/sticks/One/changes", "{"),
        ("POST", "/player/sticks/One/changes", "null"),
        ("POST", "/player/sticks/One/plays", "[" * 100_000),
        ("POST", "/player/sticks/One/plays", "7"),
        ("GET", "/other-side/?library=/dev/zero", ""),
        ("GET", "/other-side/?library=/etc/passwd&track=99999999999999999999", ""),
        ("GET", "/api/undo?key=%C3%A4", ""),
    ],
)
def test_odd_requests_are_answered_in_words(client: TestClient, method: str, path: str, body: str) -> None:
    stick = client.app.state.services.settings.sticks / "One"  # type: ignore[attr-defined]
    stick.mkdir(parents=True, exist_ok=True)
    (stick / ".stand-in-medium.json").write_text('{"plugged_in": false}')
    (stick / "vinyl-stick.json").write_text('{"format": "vinyl-stick", "version": 2}')
    answer = client.request(method, path, content=body.encode(), headers={"Content-Type": "application/json"})
    assert answer.status_code < 500, answer.text
    assert answer.status_code < 400 or len(answer.text) > 20


def test_what_is_too_large_is_refused_before_it_is_read(client: TestClient) -> None:
    def endless() -> Iterator[bytes]:
        yield from (b" " * 2**20 for _ in range(40))

    for body in (b" " * (20 << 20), endless()):
        answer = client.post("/api/tracks/find", content=body, headers={"Content-Type": "application/json"})  # type: ignore[arg-type]
        assert answer.status_code == 413 and "larger than anything" in answer.json()["detail"]


@pytest.mark.parametrize(
    "spoil",
    [
        "UPDATE track SET beats = x'00' WHERE id = 1",
        "UPDATE word SET text = x'ff00' WHERE name = 'title'",
        "UPDATE track SET path = x'00ff'",
        "INSERT INTO point VALUES (1, 77, 'soon', 'never', 5, 6, 7)",
        "DROP TABLE list",
    ],
)
def test_the_other_side_shows_or_refuses_whatever_a_library_holds(
    client: TestClient, tmp_path_factory: pytest.TempPathFactory, spoil: str
) -> None:
    folder = client.app.state.services.settings.allow[0]  # type: ignore[attr-defined]
    place = folder / f"{tmp_path_factory.mktemp('x').name}.saltmarsh.db"
    write_saltmarsh(place, [("1", Card("One.flac", {"title": "T"}, (Step(0.0, 0.0, -120.0),)))], ())
    with closing(sqlite3.connect(place, isolation_level=None)) as other:
        other.execute(spoil)
    for more in ({}, {"track": "0"}):
        answer = client.get("/other-side/", params={"library": str(place), **more})
        assert answer.status_code in (200, 422) and "</html>" in answer.text
    place.unlink()
    os.mkfifo(place)
    assert client.get("/other-side/", params={"library": str(place)}).status_code == 404
    place.unlink()
