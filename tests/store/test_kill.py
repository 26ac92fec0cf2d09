"""Killing the server at any moment loses nothing that was acknowledged."""

import os
import re
import signal
import subprocess
import sys
import threading
from pathlib import Path

import httpx2
import pytest

from rowtag.store.workspace import Workspace
from tests.conftest import brought_in


def start(folder: Path) -> tuple[subprocess.Popen[str], str]:
    """A server on a free port over a workspace, and its address."""
    command = [sys.executable, "-m", "rowtag.cli", "serve", "--workspace", str(folder), "--port", "0", "--no-token"]
    env = {**os.environ, "PYTHONUNBUFFERED": "1"}
    server = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env)
    assert server.stdout is not None
    found = re.search(r"http://\S+?:\d+", server.stdout.readline())
    assert found
    return server, found[0]


@pytest.mark.parametrize("after", [0.25, 0.6])
def test_killed_in_a_burst_of_steps(tmp_path: Path, after: float) -> None:
    """Every acknowledged step is there after a kill -9, once, and the study opens."""
    workspace = Workspace(tmp_path)
    study = brought_in(workspace)
    hours = workspace.study(study).study.order[2]
    workspace.close()
    server, address = start(tmp_path)
    acknowledged: dict[str, int] = {}
    killer = threading.Timer(after, lambda: os.kill(server.pid, signal.SIGKILL))
    try:
        url = f"{address}/api/studies/{study}"
        with httpx2.Client() as client:
            base = client.get(url).json()["revision"]
            for number in range(10_000):
                step = {"do": "set entries", "variable": hours, "entries": {"3": str(number)}}
                reply = client.post(f"{url}/steps", json={"id": f"burst-{number:05d}", "base": base, "step": step})
                assert reply.status_code == 200, reply.text
                base = reply.json()["revision"]
                acknowledged[f"burst-{number:05d}"] = base
                if number == 3:
                    killer.start()
    except httpx2.TransportError:
        pass
    finally:
        server.kill()
        server.communicate()
    assert len(acknowledged) > 3
    again = Workspace(tmp_path)
    file = again.study(study)
    kept = {line.step_id: line.revision for line in file.diary(most=100_000) if line.step_id.startswith("burst")}
    assert acknowledged.items() <= kept.items() and len(kept) - len(acknowledged) in (0, 1)
    assert file.study.column(hours).texts_at(file.study.column(hours).indexes(2, 3)) == [str(len(kept) - 1)]
    again.close()


def test_stopping_is_quick_with_a_window_open(tmp_path: Path) -> None:
    """A listening window does not keep the server from stopping, nor fill the log."""
    workspace = Workspace(tmp_path)
    study = brought_in(workspace)
    workspace.close()
    server, address = start(tmp_path)
    with httpx2.Client() as client, client.stream("GET", f"{address}/api/studies/{study}/events") as events:
        assert next(events.iter_lines()) == ": listening"
        server.terminate()
        _, said = server.communicate(timeout=120)  # it would go on for ever
        assert server.returncode is not None and "Traceback" not in said, said
