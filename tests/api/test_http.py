"""The HTTP interface: what windows and programs rely on."""

import io
import json
import time
import zipfile
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rowtag.api import problems
from rowtag.api.app import create_app
from rowtag.core import errors
from rowtag.core.steps import STEPS
from rowtag.store.workspace import Workspace
from tests.conftest import PLOTS, brought_in


@pytest.fixture
def study(workspace: Workspace) -> str:
    return brought_in(workspace)


def overview(client: TestClient, study: str) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/studies/{study}").json()
    return found


def variable(client: TestClient, study: str, name: str) -> str:
    return next(each["id"] for each in overview(client, study)["variables"] if each["name"] == name)


def finished(client: TestClient, job: dict[str, Any]) -> dict[str, Any]:
    """A job once it has ended."""
    while job["status"] == "running":
        job = client.get(f"/api/jobs/{job['id']}").json()
    return job


def hand_in(client: TestClient, data: bytes | str, name: str = "plots.csv") -> Any:
    content = data.encode() if isinstance(data, str) else data
    return client.post("/api/intake", files={"file": (name, content)})


def test_from_a_file_to_an_archive(client: TestClient) -> None:
    """Hand a file in, look at proposals, bring it in with one choice, and hand it over."""
    study = client.post("/api/studies", json={"title": "Plots"}).json()["id"]
    seen = hand_in(client, PLOTS).json()
    assert seen["settings"]["separator"] == ";" and seen["rows"][1] == ["0007", "1", "4"]
    look = {"settings": seen["settings"]}
    proposals = finished(client, client.post(f"/api/intake/{seen['id']}/proposals", json=look).json())["proposals"]
    assert proposals["records"] == 6
    plot, tenure, hours = proposals["columns"]
    assert [column["tag"]["type"] for column in (plot, tenure, hours)] == ["text", "integer", "text"]
    assert [each["entry"] for each in tenure["suspects"]] == ["-9"]
    body = {"study": study, "step_id": "bring-in-1", **look, "choices": {3: {"type": "integer", "level": "ratio"}}}
    done = finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())
    assert done["status"] == "done", done
    shown = overview(client, study)
    assert (shown["records"], len(shown["variables"])) == (6, 3)
    assert shown["variables"][2]["fill"] == {
        "valid": 3, "missing": 0, "blank": 1, "stray": 2, "unreadable": 2, "unlisted": 0,
    }  # fmt: skip
    options = {"values": "codes", "missing_sign": None, "guard": True}
    job = finished(client, client.post(f"/api/studies/{study}/handover", json={"options": options}).json())
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{job['id']}/file").content)) as zipped:
        assert zipped.read("data.csv").decode().splitlines()[:3] == ["plot,tenure,hours", "0007,1,4", "0014,2,12 hrs"]
        assert json.loads(zipped.read("datapackage.json"))["title"] == "Plots"


def test_steps_previews_and_moves(client: TestClient, study: str) -> None:
    """A preview says what the step then does; undo and redo move the head; the overview names both."""
    tenure = variable(client, study, "tenure")
    step = {"do": "mark missing", "variables": [tenure], "lines": [{"code": "-9", "reason": "refused"}]}
    preview = client.post(f"/api/studies/{study}/preview", json={"step": step}).json()
    base = overview(client, study)["revision"]
    done = client.post(f"/api/studies/{study}/steps", json={"id": "step-0001", "base": base, "step": step}).json()
    assert (
        done["sentence"]
        == preview["sentence"]
        == ("Marked -9 as missing (refused) for tenure; valid 6 → 5; coded missing 0 → 1.")
    )
    assert done["account"] == preview["account"] and done["revision"] == base + 1
    again = client.post(f"/api/studies/{study}/steps", json={"id": "step-0001", "base": base, "step": step}).json()
    assert again == done
    assert overview(client, study)["undo"] == done["sentence"]
    head = {"to": "undo", "expected": base + 1}
    moved = client.post(f"/api/studies/{study}/head", json=head).json()
    assert moved["revision"] == base + 2 and moved["touched"]["tags"] == [tenure]
    since = client.get(f"/api/studies/{study}", params={"known": base}).json()
    assert since["touched"]["tags"] == [tenure] and not since["touched"]["entries"], (
        "somebody may have looked in between"
    )
    nothing = client.get(f"/api/studies/{study}", params={"known": base + 2}).json()
    assert not any(nothing["touched"].values())
    assert client.post(f"/api/studies/{study}/head", json=head).status_code == 409
    assert overview(client, study)["redo"] == done["sentence"]
    newest = client.get(f"/api/studies/{study}/diary").json()["runs"][0]["lines"][0]
    assert (newest["sentence"], newest["current"]) == (done["sentence"], False)


def test_a_conflict_names_what_changed(client: TestClient, study: str) -> None:
    """Two windows that set the same part: the second is told what, and by whom."""
    tenure = variable(client, study, "tenure")
    base = overview(client, study)["revision"]

    def set_part(id: str, **parts: str) -> Any:
        step = {"do": "define", "variables": [tenure], "parts": parts}
        return client.post(f"/api/studies/{study}/steps", json={"id": id, "base": base, "step": step})

    assert set_part("window-one", label="How held").status_code == 200
    assert set_part("window-two", question="How?").status_code == 200
    refused = set_part("window-two-b", label="Holding")
    assert refused.status_code == 409
    problem = refused.json()
    assert problem["title"] == "Meanwhile this was changed: label of tenure."
    assert any("Set label “How held” on tenure" in line for line in problem["details"])
    assert refused.headers["content-type"] == "application/problem+json"


def test_a_page_of_records(client: TestClient, study: str) -> None:
    """Pages come column by column, with what each entry reads as."""
    hours = variable(client, study, "hours")
    step = {"do": "define", "variables": [hours], "parts": {"type": "integer"}}
    base = overview(client, study)["revision"]
    client.post(f"/api/studies/{study}/steps", json={"id": "step-type", "base": base, "step": step})
    page = client.get(f"/api/studies/{study}/records", params={"start": 1, "stop": 4, "variables": hours}).json()
    assert page["records"] == [2, 3, 4]
    (column,) = page["columns"]
    assert [column["texts"][at] for at in column["index"]] == ["12 hrs", "9", ""]
    assert [column["states"][at] for at in column["index"]] == [3, 0, 2]
    assert client.get(f"/api/studies/{study}/records", params={"stop": 9_999}).status_code == 422
    stray = client.get(f"/api/studies/{study}/next-stray", params={"record": 2, "variable": hours}).json()
    assert stray == {"record": 5, "position": 4, "variable": hours, "number": 2, "of": 2}
    asked = {"record": 5, "variable": hours, "back": True}
    stray = client.get(f"/api/studies/{study}/next-stray", params=asked).json()
    assert (stray["record"], stray["number"]) == (2, 1)
    asked = {"record": 2, "variable": hours, "back": True}
    assert client.get(f"/api/studies/{study}/next-stray", params=asked).json() is None
    found = client.get(f"/api/studies/{study}/variables/{hours}/records", params={"entry": "n/a"}).json()
    assert found == {"records": [5], "positions": [4]}


def test_checks_and_tables(client: TestClient, study: str) -> None:
    """The report and its map agree, and a table carries its shares."""
    tenure = variable(client, study, "tenure")
    lines = [{"code": "1", "label": "Own"}, {"code": "2", "label": "Shared"}]
    for number, step in enumerate(
        (
            {"do": "list codes", "variables": [tenure], "lines": lines},
            {"do": "define", "variables": [tenure], "parts": {"complete": True, "level": "ordinal"}},
        )
    ):
        base = overview(client, study)["revision"]
        client.post(f"/api/studies/{study}/steps", json={"id": f"step-000{number}", "base": base, "step": step})
    report = client.get(f"/api/studies/{study}/checks").json()
    worst = report["findings"][0]
    assert (worst["check"], worst["count"]) == ("unlisted codes", 2)
    row = next(row for row in report["map"] if row["family"] == worst["family"])
    assert row["marks"] == ["", "error", ""]
    views = {"views": [{"view": "distribution", "variable": tenure}]}
    (table,) = client.post(f"/api/studies/{study}/views", json=views).json()["shown"]
    shown = [
        (row["code"], row["count"], row["percent"], row["valid_percent"], row["cumulative"]) for row in table["rows"]
    ]
    assert [each[:2] for each in shown] == [("1", 2), ("2", 2), ("-9", 1), ("8", 1)]
    assert shown[0][2:] == pytest.approx((100 / 3, 50, 50)) and shown[1][4] == pytest.approx(100)
    assert shown[2][3] is None


def test_every_error_has_a_reply() -> None:
    """Each kind of error of the tree, and any that comes later, finds a status by its class."""

    def all_kinds(kind: type[errors.RowTagError]) -> list[type[errors.RowTagError]]:
        return [kind, *(each for sub in kind.__subclasses__() for each in all_kinds(sub))]

    for kind in all_kinds(errors.RowTagError):
        problem = problems.problem_of(kind("What.", remedy="Do.", where=errors.Place("a.csv", row=3)))
        assert problem.status >= 400 and problem.detail == "a.csv, row 3: What. Do."


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "said"),
    [
        ("GET", "/api/studies/none", None, 404, "no such study"),
        ("GET", "/api/nothing", None, 404, "nothing at /api/nothing"),
        ("POST", "/api/studies", {"title": " "}, 422, "needs a title"),
        ("POST", "/api/studies", {}, 422, "title is wanted"),
        ("GET", "/api/jobs/none", None, 404, "no such work"),
        ("POST", "/api/intake/none/picture", {"settings": {}}, 404, "not here any more"),
    ],
)
def test_refusals_are_sentences(client: TestClient, method: str, path: str, body: Any, status: int, said: str) -> None:
    """Whatever is asked wrongly gets a problem with a sentence."""
    reply = client.request(method, path, json=body)
    assert reply.status_code == status and said in reply.json()["detail"]
    assert reply.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("plots.csv", b"", "The file is empty"),
        ("plots.csv", b"\x89PNG\r\n\x1a\n123", "begins like a picture"),
        ("plots.xlsx", b"\xd0\xcf\x11\xe0" + b"\0" * 600, "protected by a password"),
        ("plots.xlsx", b"PK\x03\x04", "no readable workbook"),
        ("plots.pdf", b"%PDF", "an ending Row Tag does not read"),
    ],
)
def test_bad_files_leave_nothing(client: TestClient, workspace: Workspace, name: str, data: bytes, said: str) -> None:
    """A file that cannot be read gets a sentence, and is not kept."""
    reply = hand_in(client, data, name)
    assert reply.status_code == 422 and said in reply.json()["detail"]
    assert not list((workspace.folder / "handed-in").iterdir())


def test_a_failed_or_stopped_intake_leaves_no_half_study(client: TestClient) -> None:
    """When bringing in fails, or is stopped, the study stays empty and can be used."""
    study = client.post("/api/studies", json={"title": "Plots"}).json()["id"]
    seen = hand_in(client, "a,b\n" + "1,2\n" * 50 + '3,"open\n').json()
    body = {"study": study, "step_id": "bring-in-1", "settings": seen["settings"]}
    job = finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())
    assert job["status"] == "failed" and "never closed" in job["problem"]["detail"]
    assert overview(client, study)["variables"] == [] and overview(client, study)["revision"] == 1
    large = "a,b\n" + "1,x y\n" * 400_000
    seen = hand_in(client, large).json()
    body = {"study": study, "step_id": "bring-in-2", "settings": seen["settings"]}
    started = client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json()
    client.delete(f"/api/jobs/{started['id']}")
    assert finished(client, started)["status"] in ("cancelled", "done")
    if finished(client, started)["status"] == "cancelled":
        assert overview(client, study)["variables"] == []
        assert finished(client, client.post(f"/api/intake/{seen['id']}/bring-in", json=body).json())["status"] == "done"
    assert overview(client, study)["records"] == 400_000


def test_the_interface_describes_every_step(client: TestClient) -> None:
    """The description that the front end is made from has every kind of step that can be sent."""
    schema = client.get("/api/openapi.json").json()["components"]["schemas"]
    kinds = schema["StepRequest"]["properties"]["step"]["discriminator"]["mapping"]
    assert set(kinds) == {name for name, kind in STEPS.items() if not kind.needs_supplies}


def test_the_guard(workspace: Workspace) -> None:
    """Foreign hosts and origins are refused; beyond this machine the token is asked for, and kept as a cookie."""
    local = TestClient(create_app(workspace, hosts=frozenset({"127.0.0.1"})), base_url="http://127.0.0.1:4719")
    assert local.get("/api/studies").status_code == 200
    assert local.get("/api/studies", headers={"host": "evil.example"}).status_code == 421
    assert local.post("/api/studies", json={"title": "x"}, headers={"origin": "http://evil.example"}).status_code == 403
    assert (
        local.post("/api/studies", json={"title": "x"}, headers={"origin": "http://127.0.0.1:4719"}).status_code == 201
    )
    afar = TestClient(create_app(workspace, token="secret"), follow_redirects=False)
    assert afar.get("/api/studies").status_code == 401
    assert afar.get("/enter/wrong").status_code == 401
    assert afar.get("/api/studies", headers={"authorization": "Bearer secret"}).status_code == 200
    assert afar.get("/enter/secret").status_code == 303
    assert afar.get("/api/studies").status_code == 200


@pytest.mark.parametrize("host", ["[::1", "a b", "", "127.0.0.1:4719@evil.example", "127.0.0.1:", "::1", "x" * 300])
def test_hosts_are_parsed_strictly(workspace: Workspace, host: str) -> None:
    """A Host that is none is refused, whatever hosts are answered for."""
    for hosts in (frozenset[str](), frozenset({"127.0.0.1"})):
        client = TestClient(create_app(workspace, hosts=hosts), raise_server_exceptions=False)
        assert client.get("/api/studies", headers={"host": host}).status_code == 400


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "https://127.0.0.1:4719"},
        {"origin": "http://127.0.0.1:4720"},
        {"origin": "http://127.0.0.1"},
        {"origin": "null"},
        {"sec-fetch-site": "cross-site"},
        {"origin": "http://127.0.0.1:4719", "sec-fetch-site": "cross-site"},
    ],
)
def test_writes_from_elsewhere_are_refused(workspace: Workspace, headers: dict[str, str]) -> None:
    """Another scheme, port or site is another origin."""
    client = TestClient(create_app(workspace, hosts=frozenset({"127.0.0.1"})), base_url="http://127.0.0.1:4719")
    assert client.post("/api/studies", json={"title": "x"}, headers=headers).status_code == 403
    assert not client.get("/api/studies").json()


def test_what_every_reply_says(client: TestClient) -> None:
    """No reply is framed, sniffed or lent to another site; what is told of studies is kept by no cache."""
    for path in ("/api/studies", "/api/nothing", "/", "/study/x/codebook"):
        headers = client.get(path).headers
        policy = headers["content-security-policy"]
        assert "frame-ancestors 'none'" in policy and "default-src 'none'" in policy
        assert "unsafe" not in policy.replace("style-src-attr 'unsafe-inline'", "")
        assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "no-referrer"
        assert headers["cross-origin-opener-policy"] == headers["cross-origin-resource-policy"] == "same-origin"
        assert ("no-store" in headers["cache-control"]) is path.startswith("/api/")


def test_files_outside_the_site_are_out_of_reach(client: TestClient) -> None:
    """No address leads out of the front end's folder."""
    for path in ("/../app.py", "/%2e%2e/app.py", "/assets/../../app.py"):
        assert "create_app" not in client.get(path).text


def test_the_screen_and_the_report_find_the_same(client: TestClient) -> None:
    """One way leads to what is shown, to the report, and (which is made as the report is) to the command line."""
    client.post("/api/studies/demo")
    for _ in range(200):
        shown = client.get("/api/studies/demo/checks").json()
        if shown["across"] == shown["revision"]:
            break
        time.sleep(0.1)
    told = client.get("/api/studies/demo/check-report", params={"form": "json"}).json()
    names = {each["id"]: each["name"] for each in client.get("/api/studies/demo").json()["variables"]}
    assert len(shown["findings"]) > 20
    assert [(each["check"], each["severity"], each["message"], each["count"]) for each in shown["findings"]] == [
        (each["check"], each["severity"], each["message"], each["count"]) for each in told["findings"]
    ]
    for one, other in zip(shown["findings"], told["findings"], strict=True):
        assert [names[one["variable"]], *(names[id] for id in one["others"])] == (
            other.get("variables") or [other["variable"]]
        )


def test_a_rule_whose_title_holds_a_slash(client: TestClient) -> None:
    rule = {"title": "yes/no", "text": "a = 1", "severity": "note", "note": ""}
    assert client.put("/api/library/rules", json=rule).json() == [rule]
    assert client.delete("/api/library/rules/yes%2Fno").json() == []
