"""What holds for every route and every kind of step over HTTP."""

import json
import re
import time
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rowtag.api.app import create_app
from rowtag.service import beside
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in
from tests.core.test_steps import SENTENCES

SCHEMA = create_app(None).openapi()
ROUTES = [
    (method.upper(), path)
    for path, methods in SCHEMA["paths"].items()
    for method in methods
    if "{" in path and "/events" not in path
]
BODIES: dict[str, Any] = {
    "StepRequest": {"id": "step-0001", "base": 1, "step": {"do": "rename", "names": {"v": "x"}}},
    "PreviewRequest": {"step": {"do": "rename", "names": {"v": "x"}}},
    "HeadRequest": {"to": "undo", "expected": 1},
    "NewStudy": {"title": "x"},
    "HandoverRequest": {},
    "ViewsRequest": {"views": [{"view": "distribution", "variable": "none"}]},
    "Look": {"settings": {}},
    "BringInRequest": {"study": "none", "step_id": "step-0001", "settings": {}},
    "GuessRequest": {"kind": "fixed"},
    "FieldsRequest": {"settings": {}, "source": {"kind": "text", "value": "plot 4"}},
    "ColumnsRequest": {"settings": {}, "choices": {}},
    "JoinRequest": {"study": "none", "settings": {}, "more": {}},
    "MoreRecordsRequest": {"study": "none", "settings": {}, "more": {}, "step_id": "step-0001"},
    "BesideRequest": {"study": "none", "settings": {}, "more": {}},
    "MoreVariablesRequest": {"study": "none", "settings": {}, "more": {}, "step_id": "step-0001"},
    "CorrectRequest": {"study": "none", "settings": {}, "how": {"source": "none"}},
    "CorrectNow": {"study": "none", "settings": {}, "how": {"source": "none"}, "expected": 1},
    "NextWaveRequest": {"file": "none"},
    "NextWaveNow": {"file": "none", "title": "x"},
    "CodebookFrom": {"other": "none", "step_id": "step-0001"},
    "Chosen": {},
    "SheetLines": {"first": 1, "last": 1},
    "Matches": {},
    "EffectsRequest": {"variables": []},
    "NewText": {},
    "TakeRequest": {"chosen": {}},
    "NotationRequest": {"text": "x", "whole": True},
    "NamesRequest": {},
    "ArrangeRequest": {"arrangement": {}},
    "SeveralRequest": {"steps": [{"do": "define", "variables": ["none"], "parts": {"label": "x"}}]},
    "FormulaRequest": {"text": "x > 1"},
    "DeriveRequest": {"text": "mean(x, y)", "names": "z"},
    "AmendRequest": {"edits": [{"at": "none", "how": "out"}]},
    "AmendNow": {"edits": [{"at": "none", "how": "out"}], "expected": 1},
    "CopyRequest": {"title": "x"},
    "NewEdition": {"name": "x"},
    "RoutineRequest": {"text": "row tag routine: 1"},
    "RoutineNow": {"text": "row tag routine: 1", "expected": 1},
    "OccurrencesRequest": {"lines": [{"code": "99"}]},
}


@pytest.fixture(autouse=True)
def at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is worked out beside does not wait for anybody to pause."""
    monkeypatch.setattr(beside, "QUIET", 0.0)


def body_of(method: str, path: str) -> Any:
    """A well-formed body for a route, by the name of what it takes."""
    asked = SCHEMA["paths"][path][method.lower()].get("requestBody")
    if asked is None:
        return None
    return BODIES[asked["content"]["application/json"]["schema"]["$ref"].rsplit("/", 1)[1]]


@pytest.mark.parametrize(("method", "path"), ROUTES, ids=[f"{method} {path}" for method, path in ROUTES])
def test_what_is_not_there_is_said(client: TestClient, method: str, path: str) -> None:
    """Every route that names something replies with a sentence when that is not there, and changes nothing."""
    for word in re.findall(r"\{\w+\}", path):
        path = path.replace(word, "none")
    template = next(known for verb, known in ROUTES if verb == method and _same(known, path))
    reply = client.request(method, path, json=body_of(method, template), params={"variables": "none", "one": "none"})
    if method == "DELETE" and "/intake/" in path:
        assert reply.status_code == 204, "letting go of what is gone is no error"
        return
    assert reply.status_code == 404, reply.text
    problem = reply.json()
    assert problem["detail"].endswith(".") and problem["title"] and problem["status"] == 404
    assert client.get("/api/studies").json() == []


def _same(template: str, path: str) -> bool:
    parts = zip(template.split("/"), path.split("/"), strict=False)
    return template.count("/") == path.count("/") and all(t.startswith("{") or t == p for t, p in parts)


@pytest.fixture
def study(workspace: Workspace) -> str:
    return brought_in(workspace)


@pytest.mark.parametrize("step", [step for step, _ in SENTENCES], ids=[step.do for step, _ in SENTENCES])
def test_every_step_over_http(client: TestClient, study: str, step: Any) -> None:
    """Every kind of step goes through the one route, says beforehand what it does, and can be undone."""
    shown = client.get(f"/api/studies/{study}").json()
    ids = {f"v{number}": shown["variables"][number % 3]["id"] for number in (1, 2, 3)}
    lines = [{"code": "1", "label": "Own"}, {"code": "2", "label": "Shared"}]
    for number, first in enumerate(
        (
            {"do": "list codes", "variables": [ids["v1"]], "lines": lines},
            {"do": "define", "variables": [ids["v1"]], "parts": {"width": 30}},
            {"do": "share list", "list": "list1", "name": "shade", "lines": lines, "variables": [ids["v3"]]},
            {"do": "group", "battery": "bat0", "title": "The site", "variables": [ids["v3"]]},
            {"do": "keep sheet", "sheet": "sheet0", "name": "Questionnaire", "text": "tenure - how held"},
            {"do": "keep view", "view": "view0", "shows": {"name": "First look"}},
            {
                "do": "keep rule",
                "rule": "rule0",
                "says": {"title": "Adults", "holds": {"text": "hours is valid", "names": {"hours": ids["v2"]}}},
            },
            {"do": "remark", "comment": "note0", "on": {"record": 1, "text": "Torn sheet"}},
            {
                "do": "derive",
                "variables": [
                    {"how": {"text": "hours is blank", "names": {"hours": ids["v2"]}}, "into": {"made": "empty"}}
                ],
            },
            {"do": "set entries", "variable": ids["v2"], "entries": {"1": ""}},
            {"do": "add blank records", "count": 1},
            {"do": "remove records", "records": [7]},
        )
    ):
        body = {"id": f"first-{number:03}", "base": shown["revision"], "step": first}
        shown["revision"] = client.post(f"/api/studies/{study}/steps", json=body).json()["revision"]
    written = json.loads(_with_ids(step.model_dump_json(), ids))
    before = _everything(client, study)
    preview = client.post(f"/api/studies/{study}/preview", json={"step": written})
    assert preview.status_code == 200, preview.text
    assert _everything(client, study) == before
    body = {"id": "step-0001", "base": shown["revision"], "step": written}
    done = client.post(f"/api/studies/{study}/steps", json=body).json()
    assert (done["sentence"], done["account"]) == (preview.json()["sentence"], preview.json()["account"])
    assert client.get(f"/api/studies/{study}").json()["undo"] == done["sentence"]
    client.post(f"/api/studies/{study}/head", json={"to": "undo", "expected": done["revision"]})
    assert _everything(client, study) == before


def _with_ids(text: str, ids: dict[str, str]) -> str:
    for name, id in ids.items():
        text = text.replace(f'"{name}"', f'"{id}"')
    return text


def _checked(client: TestClient, study: str) -> Any:
    """What the checks find once those are done that are worked out beside."""
    found = client.get(f"/api/studies/{study}/checks").json()
    for _ in range(200):
        if found["across"] == found["revision"] or not found["map"]:
            break
        time.sleep(0.05)
        found = client.get(f"/api/studies/{study}/checks").json()
    return found


def _everything(client: TestClient, study: str) -> Any:
    """What all views show, but for revisions and what undo would do."""
    shown = client.get(f"/api/studies/{study}").json()
    pages = [client.get(f"/api/studies/{study}/variables/{each['id']}").json() for each in shown["variables"]]
    records = client.get(f"/api/studies/{study}/records").json()
    checks = _checked(client, study)
    for view in (*pages, records, checks):
        for moment in ("revision", "across", "seen"):
            view.pop(moment, None)
    return [shown["variables"], shown["fill"], shown["batteries"], pages, records, checks]
