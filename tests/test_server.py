"""The server as a process: addresses, ports, tokens, a second one, and the demo that starts again."""

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx2


@contextmanager
def serving(*args: str) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """A running command that serves, and the address it printed."""
    command = [sys.executable, "-m", "rowtag.cli", *args]
    env = {**os.environ, "PYTHONUNBUFFERED": "1"}
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env)
    try:
        assert process.stdout is not None
        found = re.search(r"http://\S+", process.stdout.readline())
        assert found
        yield process, found[0]
    finally:
        process.send_signal(signal.SIGTERM)
        process.communicate(timeout=20)


def test_the_demo_starts_within_seconds_and_keeps_its_work(tmp_path: Path) -> None:
    """The printed address opens the demo; what was done in it is there at the second start."""
    args = ("demo", "--workspace", str(tmp_path), "--port", "0")
    with serving(*args) as (_, address):
        assert "/study/demo/codebook" in address
        base = address.split("/study")[0]
        shown = httpx2.get(f"{base}/api/studies/demo").json()
        id = shown["variables"][1]["id"]
        step = {"do": "define", "variables": [id], "parts": {"label": "Where the plot lies"}}
        body = {"id": "step-0001", "base": shown["revision"], "step": step}
        assert httpx2.post(f"{base}/api/studies/demo/steps", json=body).status_code == 200
    begun = time.monotonic()
    with serving(*args) as (_, address):
        assert time.monotonic() - begun < 10
        again = httpx2.get(address.split("/study")[0] + "/api/studies/demo").json()
        assert again["variables"][1]["label"] == "Where the plot lies"
        assert again["revision"] == shown["revision"] + 1


def test_a_second_server_and_a_taken_port_say_so(tmp_path: Path) -> None:
    """Both are refused with a sentence and exit code 2, and leave the first server alone."""
    with serving("serve", "--workspace", str(tmp_path / "one"), "--port", "0") as (_, address):
        port = address.rstrip("/").rsplit(":", 1)[1]
        for workspace, said in (("one", "Another Row Tag is serving"), ("two", "Nothing can listen on 127.0.0.1")):
            command = [
                sys.executable,
                "-m",
                "rowtag.cli",
                "serve",
                "--workspace",
                str(tmp_path / workspace),
                "--port",
                port,
            ]
            run = subprocess.run(command, capture_output=True, text=True, timeout=60)
            assert run.returncode == 2 and said in run.stderr and "Traceback" not in run.stderr
        assert httpx2.get(f"{address}api/studies").json() == []


def test_beyond_this_machine_the_token_is_asked_for(tmp_path: Path) -> None:
    """Listening on all addresses, the printed one carries a token; without it nothing is told."""
    with serving("serve", "--workspace", str(tmp_path), "--port", "0", "--host", "0.0.0.0") as (_, address):
        base, token = address.replace("0.0.0.0", "127.0.0.1").split("/enter/")
        assert len(token) > 20
        assert httpx2.get(f"{base}/api/studies").status_code == 401
        assert httpx2.get(f"{base}/").status_code == 401
        with httpx2.Client(follow_redirects=True) as client:
            assert client.get(f"{base}/enter/{token}").status_code in (200, 503)
            assert client.get(f"{base}/api/studies").status_code == 200


def test_only_this_machine_by_default(tmp_path: Path) -> None:
    """Another Host is not answered, so that no page of another site can read what is here."""
    with serving("serve", "--workspace", str(tmp_path), "--port", "0") as (_, address):
        assert address.startswith("http://127.0.0.1:")
        assert httpx2.get(f"{address}api/studies", headers={"host": "rowtag.example"}).status_code == 421
