"""What nobody asks for, and somebody will: asked of the real interface, and answered in a sentence, in time."""

import tempfile
import time

import pytest
from fastapi.testclient import TestClient

from rowtag.api import server
from rowtag.core.steps.skips import SetSkips
from rowtag.core.steps.variables import Arrange
from rowtag.core.tag import Skip
from rowtag.service.intake import second_keying
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in

LINES = "".join(f"{n},{n % 3},{n % 2},{n % 5}\n" for n in range(1, 41))


@pytest.fixture
def study(workspace: Workspace) -> str:
    return brought_in(workspace, f"plot,holds,shed,hours\n{LINES}")


def test_a_million_variables_asked_for(client: TestClient, workspace: Workspace, study: str) -> None:
    """In a view, on one page, for one step: what is not there is said, what is there twice is done once or refused."""
    ids, url = list(workspace.study(study).study.order), f"/api/studies/{study}"
    many = (ids * 250_000)[:1_000_000]
    step = {"do": "keep view", "view": "view1", "shows": {"name": "All", "variables": many}}
    asked = [
        client.post(f"{url}/page", json={"variables": many}),
        client.post(f"{url}/steps", json={"id": "many-view-1", "base": 2, "step": step}),
        client.post(f"{url}/views", json={"views": [{"view": "gaps", "variables": many}]}),
        client.post(f"{url}/preview", json={"step": {"do": "define", "variables": many, "parts": {"label": "x"}}}),
    ]
    for reply in asked:
        assert reply.status_code < 500, reply.text[:300]
        assert reply.status_code < 400 or reply.json()["detail"].endswith("."), reply.text[:300]
    begun = time.perf_counter()
    assert client.get(f"{url}/record-views").status_code == 200 and client.get(url).status_code == 200
    assert time.perf_counter() - begun < 5, "others wait for it"


def test_skips_that_lead_in_a_circle(client: TestClient, workspace: Workspace, study: str) -> None:
    """Variables moved past each other leave skips that lead back: everything that follows them comes to an end."""
    file = workspace.study(study)
    _, holds, shed, hours = file.study.order
    file.take(SetSkips(variable=holds, skips=(Skip(codes=("1",), to=hours),)), "skips-there")
    file.take(Arrange(variables=(hours,), before=holds), "moved-before")
    file.take(SetSkips(variable=hours, skips=(Skip(codes=("2",), to=shed),)), "skips-back")
    url = f"/api/studies/{study}"
    for page in ("", "/checks", "/keyed-questions", "/gaps", "/check-report", f"/variables/{holds}", "/routine"):
        reply = client.get(url + page)
        assert reply.status_code == 200, (page, reply.text[:300])
    assert client.post(f"{url}/handover/preview", json={}).status_code == 200


def test_identifiers_twice_in_a_second_keying(client: TestClient, workspace: Workspace, study: str) -> None:
    """Whoever is keyed twice there is met with nobody, and counted; nothing is compared by chance."""
    second = second_keying(workspace, study).id
    url, ids = f"/api/studies/{second}", list(workspace.study(second).study.order)
    entries = {id: list(texts) for id, texts in zip(ids, ("1223", "1211", "1010", "1234"), strict=True)}
    step = {"do": "set block", "records": [], "more": 4, "entries": entries}
    reply = client.post(f"{url}/steps", json={"id": "keyed-again", "base": 2, "step": step})
    assert reply.status_code == 200, reply.text
    plot = workspace.study(study).study.order[0]
    found = client.get(f"/api/studies/{study}/keyings/{second}", params={"by": plot}).json()
    assert (found["met"], found["repeated"], found["only_own"]) == (2, 1, 37), found["only_own"]
    assert {each["identifier"] for each in found["differences"]} <= {"1", "3"}


def test_a_temporary_folder_that_takes_nothing(
    client: TestClient, workspace: Workspace, study: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A file that has to wait there is refused in a sentence; steps are kept as ever."""
    monkeypatch.setattr(tempfile, "tempdir", "/proc/none")
    reply = client.post("/api/intake", files={"file": ("large.csv", b"plot,rent\n" + b"1,20\n" * 500_000)})
    assert reply.status_code == 507 and "The disk would not take this" in reply.json()["detail"]
    variable = workspace.study(study).study.order[2]
    step = {"do": "set entries", "variable": variable, "entries": {"1": "0"}}
    body = {"id": "typed-0001", "base": 2, "step": step}
    assert client.post(f"/api/studies/{study}/steps", json=body).status_code == 200


def test_no_temporary_folder_at_all(workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where the machine has none, what waits does so in the workspace."""
    monkeypatch.setattr(tempfile, "tempdir", None)
    monkeypatch.setattr(tempfile, "_candidate_tempdir_list", lambda: ["/proc/none", "/proc"])
    server.make_room(workspace.scratch)
    with tempfile.TemporaryFile() as file:
        assert file.write(b"x") == 1
