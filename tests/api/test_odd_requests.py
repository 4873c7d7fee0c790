"""Whatever is sent, the server answers: with a result or with words, never with a fault of its own."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from vinyl.api.app import create_app
from vinyl.api.services import Settings

NUMBERS = st.sampled_from(
    [0, 1, 2, 3, 4, 12.5, -1, 0.001, 1e-300, 120, 1e9, -1e9, 1e308, 2**31, 2**63, 2**70, -(2**63)]
)
TEXTS = st.sampled_from(
    [
        "",
        "One",
        "a" * 5000,
        "\0",
        "../../etc",
        "/",
        "ünïcødé ☂",
        "%",
        "'; --",
        "\ud800",
        "1",
        "2,3",
        "nan",
        "-5",
    ]
)
JUNK = st.one_of(
    NUMBERS,
    TEXTS,
    st.none(),
    st.booleans(),
    st.just([]),
    st.just({}),
    st.just([[]]),
    st.just({"a": {"b": []}}),
)
EXAMPLES = 600
STREAMS = ("/api/events",)


def document(tmp: Any) -> dict[str, Any]:
    found: dict[str, Any] = create_app(Settings(tmp / "home", tmp / "web")).openapi()
    return found


def values(schema: dict[str, Any], root: dict[str, Any], depth: int = 0) -> st.SearchStrategy[Any]:
    """Values mostly of the kind that a schema asks for, but of any size, and now and then of another kind."""
    if "$ref" in schema:
        schema = root["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]]
    choices = schema.get("anyOf") or schema.get("oneOf")
    if choices:
        return st.one_of([values(choice, root, depth) for choice in choices])
    if "const" in schema or "enum" in schema:
        return st.one_of(st.sampled_from(schema.get("enum") or [schema["const"]]), JUNK) if depth else JUNK
    kind = schema.get("type")
    if kind == "object" and depth < 5:
        return fields(schema, root, depth)
    if kind == "array" and depth < 5:
        return st.lists(values(schema.get("items", {}), root, depth + 1), max_size=3)
    usual = {
        "integer": NUMBERS,
        "number": NUMBERS,
        "string": TEXTS,
        "boolean": st.booleans(),
        "null": st.none(),
    }.get(str(kind), JUNK)
    return st.integers(0, 19).flatmap(lambda chance: JUNK if chance == 0 else usual)


def fields(schema: dict[str, Any], root: dict[str, Any], depth: int) -> st.SearchStrategy[Any]:
    properties = schema.get("properties", {})
    needed = set(schema.get("required", ()))
    made = {name: values(inner, root, depth + 1) for name, inner in properties.items()}
    required = {name: strategy for name, strategy in made.items() if name in needed}
    return st.fixed_dictionaries(required, optional={name: made[name] for name in made if name not in needed})


@st.composite
def requests(draw: st.DrawFn, root: dict[str, Any]) -> tuple[str, str, dict[str, Any], str | None]:
    path = draw(st.sampled_from(sorted(path for path in root["paths"] if path not in STREAMS)))
    method = draw(st.sampled_from(sorted(root["paths"][path])))
    operation = root["paths"][path][method]
    query: dict[str, Any] = {}
    for parameter in operation.get("parameters", ()):
        if parameter["in"] == "path":
            path = path.replace(
                f"{{{parameter['name']}}}",
                str(draw(st.sampled_from([1, 2, 3, 0, -1, 2**63, 2**70, "x", "%00"]))),
            )
        elif draw(st.booleans()) or parameter.get("required"):
            query[parameter["name"]] = (
                str(draw(values(parameter["schema"], root, 1))).encode("utf-8", "replace").decode()
            )
    body = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema")
    return method, path, query, json.dumps(draw(values(body, root))) if body is not None else None


@pytest.fixture(scope="module")
def root(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    return document(tmp_path_factory.mktemp("openapi"))


def fault(client: TestClient, method: str, path: str, query: dict[str, Any], body: str | None) -> str | None:
    """What is wrong with the answer to a request, if anything."""
    headers = {"content-type": "application/json"} if body is not None else {}
    try:
        answer = client.request(method, path, params=query, content=body, headers=headers)
    except Exception as error:
        return f"{method} {path} {query} {str(body)[:300]}: {error!r}"
    if answer.status_code >= 500 and answer.status_code not in (503, 507):
        return f"{method} {path} {query} {str(body)[:300]}: {answer.status_code} {answer.text[:300]}"
    if answer.status_code >= 400 and not answer.json().get("detail"):
        return f"{method} {path}: {answer.status_code} without words"
    return None


def test_no_request_makes_the_server_fail(client: TestClient, root: dict[str, Any]) -> None:
    faults: list[str] = []

    @settings(
        max_examples=EXAMPLES,
        deadline=None,
        derandomize=True,
        database=None,
        suppress_health_check=list(HealthCheck),
    )
    @given(requests(root))
    def ask(request: tuple[str, str, dict[str, Any], str | None]) -> None:
        found = fault(client, *request)
        faults.extend(
            [found] if found else []
        )  # not raised at once: the library changes, so that it could not be repeated

    ask()
    assert not faults, "\n".join(faults)
