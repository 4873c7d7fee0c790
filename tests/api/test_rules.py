"""Crates that fill themselves, through HTTP."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from tests.api.conftest import by_title

FAST: dict[str, Any] = {"kind": "between", "field": "bpm", "low": 60, "high": None}
NEWEST = [{"sort": "added_at", "descending": True}]


def rule(*parts: dict[str, Any]) -> dict[str, Any]:
    return {"where": {"kind": "all", "parts": list(parts)}, "order": NEWEST, "limit": None}


def test_a_rule_crate_is_made_changed_asked_and_frozen(client: TestClient) -> None:
    words = {"kind": "words", "text": "two"}
    made = client.post("/api/rules", json={"name": "Two", "rule": rule(words)}).json()
    assert made["fills_itself"] and made in client.get("/api/crates").json()
    held = client.post("/api/tracks/find", json={"where": {"kind": "list", "list_id": made["id"]}}).json()
    assert [row["title"] for row in held["rows"]] == ["Two"]
    assert client.get("/api/rules/counts").json()[0]["tracks"] == 1
    lines = client.post("/api/rules/lines", json={"where": rule(words, FAST)["where"]}).json()
    assert [line["words"] for line in lines["lines"]] == ["“two” in its text", "tempo from 60"]
    why = {"where": rule(words)["where"], "track_id": by_title(client, "One")}
    assert [reason["holds"] for reason in client.post("/api/rules/why", json=why).json()] == [False, False]
    path = f"/api/crates/{made['id']}"
    first = {**rule(), "order": [{"sort": "title", "descending": False}], "limit": 2}
    assert client.put(f"{path}/rule", json=first).status_code == 200
    assert client.get(f"{path}/rule").json() == first
    frozen = client.post(f"{path}/freeze", json={"name": "As it was"}).json()
    assert frozen["tracks"] == 2 and not frozen["fills_itself"]
    refused = client.post(f"{path}/tracks", json={"ids": [by_title(client, "One")]})
    assert refused.status_code == 422 and "fills itself" in refused.json()["detail"]
    for _ in range(3):
        client.post("/api/undo")
    assert client.get("/api/crates").json() == []


def test_a_line_is_added_changed_and_taken_away_in_many_rules_at_once(client: TestClient) -> None:
    new, old = {"kind": "lately", "field": "added_at", "days": 30}, {"kind": "tagged", "tag_id": 1}
    ids = [
        client.post("/api/rules", json={"name": name, "rule": rule(*lines)}).json()["id"]
        for name, lines in (("A", [FAST, old]), ("B", [FAST]), ("C", [old]))
    ]
    lines_of = lambda: [client.get(f"/api/crates/{i}/rule").json()["where"]["parts"] for i in ids]  # noqa: E731
    before = lines_of()
    change = lambda **what: client.post("/api/rules/shared/change", json={"crate_ids": ids, **what})  # noqa: E731
    shared = client.post("/api/rules/shared", json={"crate_ids": ids}).json()
    assert [(line["rules"], line["words"][:5]) for line in shared] == [(2, "tag V"), (2, "tempo")]
    assert change(new=new).json() == {"rules": 3}
    assert change(new=new).json() == {"rules": 0}, "where it stands already nothing is changed"
    assert [len(lines) for lines in lines_of()] == [3, 2, 2]
    assert change(old=old, new={**new, "days": 7}).json() == {"rules": 2}
    assert [lines[1].get("days") for lines in lines_of()] == [7, 30, 30], "in its own place"
    assert change(old=shared[1]["where"]).json() == {"rules": 2}
    refused = change(new={"kind": "list", "list_id": ids[0]})
    assert refused.status_code == 422 and "circle" in refused.json()["detail"], refused.json()
    assert change().status_code == 422
    for _ in range(3):
        client.post("/api/undo")
    assert lines_of() == before, "the refused one has changed none of them"
    for _ in ids:
        client.post("/api/undo")


def test_rules_that_make_no_sense_are_refused_in_words(client: TestClient) -> None:
    made = client.post("/api/rules", json={"name": "Own", "rule": rule(FAST)}).json()
    path = f"/api/crates/{made['id']}/rule"
    own = {"kind": "list", "list_id": made["id"]}
    refusals = (
        (rule(own), "round in a circle"),
        (rule({"kind": "key", "key": "H minor", "fits": True}), "H minor"),
        ({**rule(FAST), "limit": 0}, "limit"),
        ({**rule(FAST), "order": []}, "order"),
        (rule({"kind": "lately", "field": "added_at", "days": -1}), "days"),
    )
    for body, words in refusals:
        answer = client.put(path, json=body)
        assert answer.status_code == 422 and words in answer.text, (body, answer.text)
    assert client.get(path).json() == rule(FAST)
    assert client.get("/api/crates/999/rule").status_code == 404
    client.post("/api/undo")
