"""What may come with a request: so much and no more, JSON as the standard has it, and whatever is typed or pasted."""

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from rowtag.api import bodies
from rowtag.store.workspace import Workspace
from tests.conftest import brought_in

JSON = {"content-type": "application/json"}


def blocks(count: int, size: int = 1 << 16) -> Iterator[bytes]:
    """A body that does not say how long it is."""
    for _ in range(count):
        yield b'"' + b"x" * size


@pytest.fixture
def small(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bodies, "MOST_JSON", 1 << 20)
    monkeypatch.setattr(bodies, "MOST_BYTES", 2 << 20)


@pytest.mark.usefixtures("small")
def test_bodies_are_counted_while_they_arrive(client: TestClient, workspace: Workspace) -> None:
    """A body of no stated length is refused once it is too long; no more of it is taken, and nothing is kept."""
    taken = 0

    def counted() -> Iterator[bytes]:
        nonlocal taken
        for block in blocks(1_000):
            taken += len(block)
            yield block

    refused = client.post("/api/studies", content=counted(), headers=JSON)
    assert refused.status_code == 413
    assert "This is larger than the 1 MB that a request may have." in refused.json()["detail"]
    stated = client.post("/api/studies", content=b'{"title": "' + b"x" * (2 << 20) + b'"}', headers=JSON)
    assert stated.status_code == 413
    assert workspace.entries() == []


@pytest.mark.usefixtures("small")
def test_files_may_be_larger_but_not_without_end(client: TestClient, workspace: Workspace) -> None:
    """A file has a limit of its own; what was there of one that is too large goes."""
    file = {"file": ("plots.csv", b"plot,rent\n" + b"1,20\n" * 300_000)}
    assert client.post("/api/intake", files=file).status_code == 201
    waiting = len(list(workspace.scratch.iterdir()))
    file = {"file": ("plots.csv", b"plot,rent\n" + b"1,20\n" * 900_000)}
    assert client.post("/api/intake", files=file).status_code == 413
    assert len(list(workspace.scratch.iterdir())) == waiting


@pytest.mark.parametrize(
    ("body", "said"),
    [
        (b'{"title": "\\ud800"}', "JSON"),
        (b'{"title": NaN}', "JSON"),
        (b'{"title": "Plots",}', "JSON"),
        (b'{"title": "\xff"}', "JSON"),
        (b'{"title": ' + b"9" * 5_000 + b"}", "JSON, at character 10"),
        (b"[" * 100_000, "JSON"),
        (b'{"title": ["Plots"]}', "title must be text"),
        (b"", "what was given is wanted"),
    ],
)
def test_json_as_the_standard_has_it(client: TestClient, body: bytes, said: str) -> None:
    """Whatever is no JSON, or another than was asked for, is refused with what is wrong."""
    refused = client.post("/api/studies", content=body, headers=JSON)
    assert refused.status_code == 422, refused.text
    assert said in refused.json()["detail"], refused.json()


def test_numbers_beyond_what_is_told_apart(client: TestClient, workspace: Workspace) -> None:
    """Integers of any length, in bodies and addresses, are refused, never an error inside."""
    study = brought_in(workspace)
    for number in (2**53 + 1, 2**63, 2**64, 10**40, -1):
        assert client.get(f"/api/studies/{study}/records?start={number}").status_code in (200, 422)
        step = {"do": "remove records", "records": [number]}
        body = {"id": "step-0001", "base": number, "step": step}
        assert client.post(f"/api/studies/{study}/steps", json=body).status_code == 422


@pytest.mark.parametrize("address", ["/api/studies/%00", f"/api/studies/{'x' * 5_000}", "/%00", f"/{'x' * 5_000}"])
def test_addresses_of_any_kind(client: TestClient, address: str) -> None:
    """Addresses that name nothing say so, or show the page, which does."""
    reply = client.get(address)
    assert reply.status_code in (404, 414) if address.startswith("/api") else reply.status_code < 500


@pytest.mark.parametrize(
    ("line", "codes"),
    [
        ("..", None), ("...", None), (".. 5 Low", [(None, None, "5")]), ("nan .. 3 Low", None),
        ("1 " + "x" * 3_000, None),
        ("98\n99", [("98", None, None), ("99", None, None)]),
    ],
)  # fmt: skip
def test_lines_that_are_typed(
    client: TestClient, workspace: Workspace, line: str, codes: list[tuple[str | None, ...]] | None
) -> None:
    """A typed line is a code, a range, or refused with why: when it is read, or when it is to be kept."""
    study = brought_in(workspace)
    variable = client.get(f"/api/studies/{study}").json()["variables"][1]["id"]
    read = client.post("/api/code-lines", json={"text": line})
    lines = read.json().get("lines", [])
    if codes is not None:
        assert [(each["code"], each["low"], each["high"]) for each in lines] == codes
        return
    if read.status_code == 200:
        lines = [{part: each[part] for part in ("code", "low", "high", "label")} for each in lines]
        step = {"do": "list codes", "variables": [variable], "lines": lines}
        read = client.post(f"/api/studies/{study}/steps", json={"id": "step-0001", "step": step, "base": 2})
        if read.status_code == 200:  # then it is a code as it stands
            assert [each["code"] for each in lines] == [line.split()[0]]
            return
    assert read.status_code == 422 and read.json()["detail"]


@pytest.mark.parametrize("low", ["nan", "inf", "-inf", "1e999", "x", " "])
def test_limits_are_numbers(client: TestClient, workspace: Workspace, low: str) -> None:
    """Limits that bound nothing are refused, in words."""
    study = brought_in(workspace)
    variable = client.get(f"/api/studies/{study}").json()["variables"][2]["id"]
    step = {"do": "define", "variables": [variable], "parts": {"limits": {"low": low}}}
    refused = client.post(f"/api/studies/{study}/steps", json={"id": "step-0001", "step": step, "base": 2})
    assert refused.status_code == 422
    assert "limits low cannot be used" in refused.json()["detail"] and "is no number, date or time" in refused.text


def test_pairs_of_names_without_names(client: TestClient, workspace: Workspace) -> None:
    """Lines of old and new names that hold none rename nothing; those that are not there are named."""
    study = brought_in(workspace)
    for pairs, unknown in (("", 0), ("\n\t\n", 0), ("nobody\tother\n", 1), ("\tother\n", 1), ("tenure\t\n", 1)):
        reply = client.post(f"/api/studies/{study}/names", json={"pairs": pairs, "variables": []})
        assert reply.status_code == 200, reply.text
        assert reply.json()["names"] == [] and len(reply.json()["unknown"]) == unknown, pairs


def test_pairs_of_nothing(client: TestClient, workspace: Workspace) -> None:
    """Lines of new names that hold signs alone are told as lines that nobody knows."""
    study = brought_in(workspace)
    for pairs in (",", "a,\n;", "->", "=\n\t,"):
        reply = client.post(f"/api/studies/{study}/names", json={"pairs": pairs, "variables": []})
        assert reply.status_code == 200 and reply.json()["unknown"], reply.text


@pytest.mark.parametrize("path", ["/api/studies/carried", "/api/sheets/pages", "/api/intake"])
def test_files_may_be_large(client: TestClient, path: str) -> None:
    """What takes a file takes one of 2 GB; any other body 64 MB."""
    size = {"Content-Length": str(1 << 30), "Content-Type": "multipart/form-data; boundary=b"}
    assert client.post(path, content=b"--b--", headers=size).status_code != 413
    assert client.post("/api/studies", content=b"{}", headers=size).status_code == 413
