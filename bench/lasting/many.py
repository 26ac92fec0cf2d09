"""Many studies, large ones, and large files: what they cost whoever does something else."""

import shutil
import statistics
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import httpx2

from bench.data import write
from bench.measures import _percentile, _server, brought_in, client_of
from rowtag.store.workspace import Workspace


def held(process: int) -> int:
    """Bytes of memory that a process holds."""
    status = Path(f"/proc/{process}/status").read_text()
    return int(status.split("VmRSS:")[1].split()[0]) << 10


def handles(process: int) -> int:
    """Files that a process has open."""
    return len(list(Path(f"/proc/{process}/fd").iterdir()))


def many_studies(folder: Path, count: int) -> Path:
    """A workspace of so many small studies, copies of one another."""
    workspace = Workspace(folder)
    write(folder / "small.csv", 300, 20)
    study, _ = brought_in(workspace, folder / "small.csv")
    path = workspace.path(study)
    workspace.close()
    for number in range(count - 1):
        shutil.copyfile(path, path.with_name(f"{number:012x}.sqlite"))
    return folder


def opened_in_turn(folder: Path, count: int) -> list[str]:
    """Opens many studies one after the other; what that takes, and what the server holds afterwards."""
    out = []
    server = _server(many_studies(folder / "many", count))
    with server as client:
        ids = [each["id"] for each in client.get("/api/studies").json()]
        taken: list[float] = []
        for number, id in enumerate(ids, 1):
            begun = time.perf_counter()
            assert client.get(f"/api/studies/{id}").status_code == 200
            taken.append(time.perf_counter() - begun)
            if number in (10, 100, len(ids)):
                process = server.process.pid
                listed = _seconds(lambda: client.get("/api/studies"))
                out.append(
                    f"| {number:,} | {_percentile(taken) * 1000:.0f} ms | {held(process) >> 20} MB | "
                    f"{handles(process)} | {listed * 1000:.0f} ms |"
                )
    return out


def _seconds(work: Callable[[], Any]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def readers(process: int) -> int:
    """Bytes that the processes under a process hold."""
    out = 0
    for task in Path(f"/proc/{process}/task").iterdir():
        try:
            for child in (task / "children").read_text().split():
                out += held(int(child)) + readers(int(child))
        except (OSError, IndexError):
            continue  # it has just ended
    return out


def beside_a_file(folder: Path) -> str:
    """How long requests elsewhere take while a large file is read and brought in."""
    write(folder / "large.csv", 100_000, 60)
    write(folder / "work.csv", 3_000, 60)
    workspace = Workspace(folder / "beside")
    study, _ = brought_in(workspace, folder / "work.csv")
    workspace.close()
    server = _server(folder / "beside")
    with server as client:
        client.get(f"/api/studies/{study}")  # somebody works there already
        made = client.post("/api/studies", json={"title": "Large"}).json()["id"]
        with (folder / "large.csv").open("rb") as file:
            handed = client.post("/api/intake", files={"file": ("large.csv", file)}).json()
        body = {"study": made, "settings": handed["settings"], "step_id": "bring-in-1"}
        job = client.post(f"/api/intake/{handed['id']}/bring-in", json=body).json()
        taken: list[float] = []
        while job["status"] == "running":
            taken.append(_seconds(lambda: client.get(f"/api/studies/{study}")))
            taken.append(_seconds(lambda: client.get(f"/api/studies/{study}/records?stop=60")))
            time.sleep(0.01)
            job = client.get(f"/api/jobs/{job['id']}").json()
        assert job["status"] == "done", job
    return (
        f"While 100,000 × 60 are brought in, {len(taken):,} requests to another study took "
        f"{statistics.median(taken) * 1000:.0f} ms in the median, {_percentile(taken) * 1000:.0f} ms at the 95th "
        f"percentile, {max(taken) * 1000:.0f} ms at most."
    )


# A server with many windows --------------------------------------------------------------------


def windows(folder: Path, count: int = 200) -> str:
    """How one works on a server on which so many studies are open in a window each."""
    server, heard = _server(many_studies(folder / "windows", count)), [0] * count
    with server as client, ExitStack() as stack:
        ids = [each["id"] for each in client.get("/api/studies").json()]
        for number, id in enumerate(ids):
            listener = stack.enter_context(client_of(str(client.base_url), None))
            stream = stack.enter_context(listener.stream("GET", f"/api/studies/{id}/events"))
            threading.Thread(target=_listen, args=(stream, heard, number), daemon=True).start()
        taken: list[float] = []
        for turn in range(3):
            for id in ids:
                begun = time.perf_counter()
                shown = client.get(f"/api/studies/{id}").json()
                step = {"do": "set entries", "variable": shown["order"][0], "entries": {"1": str(turn)}}
                body = {"id": f"window-{turn:04}", "base": shown["revision"], "step": step}
                assert client.post(f"/api/studies/{id}/steps", json=body).status_code == 200
                taken.append(time.perf_counter() - begun)
        time.sleep(1)
        return (
            f"{count} studies, each open in a window: looked at and changed in turn, {len(taken):,} times, a look and "
            f"a change take {statistics.median(taken) * 1000:.0f} ms in the median, {_percentile(taken) * 1000:.0f} ms "
            f"at the 95th percentile; {sum(each >= 3 for each in heard)} of the windows heard of all their changes. "
            f"The server holds {held(server.process.pid) >> 20} MB and {handles(server.process.pid)} open files."
        )


def _listen(stream: httpx2.Response, heard: list[int], number: int) -> None:
    with suppress(httpx2.TransportError, httpx2.StreamError):
        for line in stream.iter_lines():
            heard[number] += line == "event: revision"
