"""A disk that takes nothing more: every change is refused with a sentence, nothing is lost, and all goes on later."""

import contextlib
import os
import resource
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx2
import pytest

from tests.conftest import PLOTS
from tests.test_server import serving

ROOM = 6 << 20
"""Bytes of the small disk."""


@dataclass
class Disk:
    """Somewhere to keep a workspace, that can be made to take nothing more."""

    folder: Path
    fill: Callable[[int], None]
    free: Callable[[int], None]


@pytest.fixture(params=["full", "limited"])
def disk(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Disk]:
    """A small file system that is filled to the last byte, or a process that may not write to any file."""
    folder = tmp_path / "disk"
    folder.mkdir()
    if request.param == "limited":

        def limit(process: int, most: int) -> None:
            resource.prlimit(process, resource.RLIMIT_FSIZE, (most, resource.RLIM_INFINITY))

        yield Disk(folder, lambda process: limit(process, 0), lambda process: limit(process, resource.RLIM_INFINITY))
        return
    mounting = ["mount", "-t", "tmpfs", "-o", f"size={ROOM}", "tmpfs", str(folder)]
    if os.geteuid() or subprocess.run(mounting, capture_output=True).returncode:
        pytest.skip("a file system of its own may not be mounted here")
    filler = folder / "filler"

    def fill(_process: int) -> None:
        with filler.open("wb", buffering=0) as file, contextlib.suppress(OSError):
            while True:
                file.write(bytes(4096))

    try:
        yield Disk(folder, fill, lambda _process: filler.unlink())
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=True)


def step(client: httpx2.Client, id: str, label: str) -> httpx2.Response:
    shown = client.get("/api/studies/plots").json()
    body = {"do": "define", "variables": [shown["variables"][1]["id"]], "parts": {"label": label}}
    return client.post("/api/studies/plots/steps", json={"id": id, "base": shown["revision"], "step": body})


def handed_in(client: httpx2.Client) -> httpx2.Response:
    return client.post("/api/intake", files={"file": ("plots.csv", PLOTS.encode())})


def ended(client: httpx2.Client, job: httpx2.Response) -> dict[str, Any]:
    """What came of long work; it must come to something."""
    assert job.status_code == 200, job.text
    for _ in range(300):
        seen = client.get(f"/api/jobs/{job.json()['id']}").json()
        if seen["status"] != "running":
            return dict(seen)
        time.sleep(0.05)
    raise AssertionError("the work never ends")


def bring_in(client: httpx2.Client, file: dict[str, Any], study: str) -> httpx2.Response:
    body = {"study": study, "settings": file["settings"], "step_id": "bring-in-1"}
    return client.post(f"/api/intake/{file['id']}/bring-in", json=body)


def test_every_change_is_refused_with_a_sentence(disk: Disk) -> None:
    """Whatever is asked for while nothing can be written says so; what was kept stays, and later everything goes on."""
    args = ("serve", "--workspace", str(disk.folder / "ws"), "--port", "0", "--no-token")
    with serving(*args) as (process, address), httpx2.Client(base_url=address, timeout=60) as client:
        made = client.post("/api/studies", json={"title": "Plots"}).json()["id"]
        other = client.post("/api/studies", json={"title": "Other"}).json()["id"]
        assert ended(client, bring_in(client, handed_in(client).json(), made))["status"] == "done"
        waiting = handed_in(client).json()
        client = StudyClient(client, made)
        assert step(client, "step-0001", "How the plot is held").status_code == 200
        before = client.get("/api/studies/plots").json()
        diary = client.get("/api/studies/plots/diary").json()
        backup = client.post("/api/studies/plots/backups").json()["name"]
        undo = {"to": "undo", "expected": before["revision"]}
        disk.fill(process.pid)
        asked = {
            "step": step(client, "step-0002", "Tenure"),
            "undo": client.post("/api/studies/plots/head", json=undo),
            "new study": client.post("/api/studies", json={"title": "New"}),
            "rename": client.patch("/api/studies/plots", json={"title": "Renamed"}),
            "list": client.put("/api/library/lists", json={"name": "Sites", "lines": [{"code": "1", "label": "East"}]}),
            "hand in": handed_in(client),
            "demo": client.post("/api/studies/demo"),
            "back up": client.post("/api/studies/plots/backups"),
            "restore a backup": client.post(f"/api/studies/plots/backups/{backup}/restore"),
            "remove": client.delete("/api/studies/plots"),
        }
        for what, reply in asked.items():
            said = reply.json()
            assert reply.status_code in (422, 507), (what, said)
            assert "disk" in said["detail"] or "stored" in said["detail"], (what, said)
        for job in (
            bring_in(client, waiting, other),
            client.post("/api/studies/plots/handover", json={}),
        ):
            seen = ended(client, job)
            assert seen["status"] == "failed" and "room on the disk" in str(seen["problem"]), seen
        assert client.get("/api/studies/plots").json() == before
        assert client.get("/api/studies/plots/diary").json() == diary
        disk.free(process.pid)
        assert {each["title"] for each in client.get("/api/studies").json()} == {"Plots", "Other"}
        assert step(client, "step-0002", "Tenure").status_code == 200
        assert client.post("/api/studies", json={"title": "New"}).status_code == 201
        assert ended(client, bring_in(client, waiting, other))["status"] == "done"
        assert ended(client, client.post("/api/studies/plots/handover", json={}))["status"] == "done"
        after = client.get("/api/studies/plots").json()
    with serving(*args) as (_, address), httpx2.Client(base_url=address, timeout=60) as client:
        again = StudyClient(client, made).get("/api/studies/plots").json()
        assert again["variables"] == after["variables"] and again["revision"] == after["revision"]
        assert {each["title"] for each in client.get("/api/studies").json()} == {"Plots", "Other", "New"}


class StudyClient:
    """A client for which the study of this test is called “plots”."""

    def __init__(self, client: httpx2.Client, study: str) -> None:
        self._client, self._study = client, study

    def __getattr__(self, method: str) -> Callable[..., httpx2.Response]:
        ask = getattr(self._client, method)
        return lambda path, **rest: ask(path.replace("/studies/plots", f"/studies/{self._study}"), **rest)


@pytest.mark.parametrize("begun", [False, True], ids=["new", "kept"])
def test_a_start_says_so(disk: Disk, begun: bool) -> None:
    """A server or a demo that cannot write at its start ends with a sentence, or serves what is there."""
    workspace = disk.folder / "ws"
    if begun:
        with serving("serve", "--workspace", str(workspace), "--port", "0", "--no-token"):
            pass
    disk.fill(os.getpid())
    try:
        for command in (["serve"], ["demo"], ["demo-files", str(disk.folder / "files")]):
            where = [] if command[0] == "demo-files" else ["--workspace", str(workspace), "--port", "0", "--no-token"]
            run = subprocess.Popen(
                [sys.executable, "-m", "rowtag.cli", *command, *where],
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                text=True,
                env={**os.environ, "PYTHONUNBUFFERED": "1", "PYTHONDONTWRITEBYTECODE": "1"},
            )
            assert run.stdout is not None
            served = "Row Tag is at" in run.stdout.readline()
            if served:
                run.terminate()
            _, said = run.communicate(timeout=60)
            assert "Traceback" not in said, said
            assert served or (run.returncode in (1, 2) and said.startswith("rowtag: ") and "disk" in said), said
    finally:
        disk.free(os.getpid())
