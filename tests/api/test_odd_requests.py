"""Whatever is sent, the server answers by its own document: with a result or with words, never a fault."""

from __future__ import annotations

import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from vinyl.library.lock import KEY_HEADER

# A stream without an end has a test of its own.
LEFT_OUT = "/api/events"
CHECKS = [not_a_server_error, response_schema_conformance]
EXAMPLES = settings(
    max_examples=10,
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
