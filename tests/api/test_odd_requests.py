"""Whatever is sent, the server answers by its own document: with a result or with words, never with a fault
of its own.
"""

from __future__ import annotations

from typing import Any

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

# A stream without an end has a test of its own.
LEFT_OUT = "/api/events"
HERE = {"Host": "127.0.0.1:8420"}


@pytest.fixture(scope="module")
def document(client: TestClient) -> Any:
    return schemathesis.openapi.from_asgi("/api/openapi.json", client.app, headers=HERE)


schema = schemathesis.pytest.from_fixture("document").exclude(path=LEFT_OUT)


@schema.parametrize()
@settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
def test_no_request_brings_the_server_down(case: schemathesis.Case, client: TestClient) -> None:
    answer = case.call(headers={**(case.headers or {}), **HERE})
    case.validate_response(answer, checks=[not_a_server_error, response_schema_conformance])


def test_the_server_is_well_after_all_of_them(client: TestClient) -> None:
    assert client.get("/api/tracks/1").json()["track"]["title"]
    assert client.get("/api/jobs").status_code == 200
