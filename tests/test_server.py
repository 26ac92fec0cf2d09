"""The server as a process: addresses, ports, tokens, a second one, and the demo that starts again."""

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

import httpx2
import pytest


@contextmanager
def serving(
    *args: str, command: Sequence[str] = (sys.executable, "-m", "rowtag.cli")
) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """A running command that serves, and the address it printed."""
    env = {**os.environ, "PYTHONUNBUFFERED": "1"}
    process = subprocess.Popen([*command, *args], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env)
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
    args = ("demo", "--workspace", str(tmp_path), "--port", "0", "--no-token")
    with serving(*args) as (_, address):
        assert "/study/demo/codebook" in address
        base = address.split("/study")[0]
        shown = httpx2.get(f"{base}/api/studies/demo").json()
        id = shown["variables"][1]["id"]
        step = {"do": "define", "variables": [id], "parts": {"label": "Where the plot lies"}}
        body = {"id": "step-0001", "base": shown["revision"], "step": step}
        assert httpx2.post(f"{base}/api/studies/demo/steps", json=body).status_code == 200
    with serving(*args) as (_, address):
        again = httpx2.get(address.split("/study")[0] + "/api/studies/demo").json()
        assert again["variables"][1]["label"] == "Where the plot lies"
        assert again["revision"] == shown["revision"] + 1


def test_a_stopped_server_leaves_nothing_behind(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What it held in the machine's temporary folder goes with it, and its readers, too."""
    with TemporaryDirectory() as held:  # sockets, whose names must be short
        monkeypatch.setenv("TMPDIR", held)
        with serving("serve", "--workspace", str(tmp_path / "ws"), "--port", "0", "--no-token") as (process, address):
            file = {"file": ("plots.csv", b"plot,rent\n1,20\n")}
            assert httpx2.post(f"{address}api/intake", files=file).status_code == 201
        assert process.returncode == 0
        assert list(Path(held).iterdir()) == []


def test_a_second_server_and_a_taken_port_say_so(tmp_path: Path) -> None:
    """Both are refused with a sentence and exit code 2, and leave the first server alone."""
    with serving("serve", "--workspace", str(tmp_path / "one"), "--port", "0", "--no-token") as (_, address):
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


@pytest.mark.parametrize("host", [None, "0.0.0.0", "127.0.0.2"])
def test_the_token_is_asked_for(tmp_path: Path, host: str | None) -> None:
    """The printed address carries a token, the same at the next start; without it nothing is told."""
    args = ["demo", "--workspace", str(tmp_path), "--port", "0", *(["--host", host] if host else [])]
    with serving(*args) as (_, address):
        base, token = address.replace("0.0.0.0", "127.0.0.1").split("/enter/")
        assert len(token) > 20
        assert httpx2.get(f"{base}/api/studies").status_code == 401
        refused = httpx2.get(f"{base}/", headers={"accept": "text/html"})
        assert refused.status_code == 401 and refused.text.endswith("open the address it printed at its start.")
        with httpx2.Client(follow_redirects=True) as client:
            entered = client.get(f"{base}/enter/{token}")
            assert entered.status_code in (200, 503) and entered.url.path == "/study/demo/codebook"
            assert client.get(f"{base}/api/studies").status_code == 200
    private = [path for path in tmp_path.rglob("*") if path.is_file() and path.stat().st_mode & 0o077]
    assert not private and not tmp_path.stat().st_mode & 0o077, "other accounts of the machine stay out"
    with serving(*args) as (_, address):
        assert address.endswith(token)


@pytest.mark.parametrize("how", ["taken", "read only", "cut"])
def test_a_start_that_fails_says_so(tmp_path: Path, how: str) -> None:
    """A workspace that cannot be one ends the start with a sentence."""
    folder = tmp_path / "ws"
    if how == "taken":
        folder.write_text("a file")
    elif how == "read only":
        folder = Path("/proc/rowtag")
    else:
        (folder / "catalogue.sqlite").mkdir(parents=True)
    command = [sys.executable, "-m", "rowtag.cli", "demo", "--workspace", str(folder), "--port", "0"]
    run = subprocess.run(command, capture_output=True, text=True, timeout=60)
    assert run.returncode in (1, 2) and run.stderr.startswith("rowtag: ") and "Traceback" not in run.stderr


def test_only_this_machine_by_default(tmp_path: Path) -> None:
    """Another Host is not answered, so that no page of another site can read what is here."""
    with serving("serve", "--workspace", str(tmp_path), "--port", "0", "--no-token") as (_, address):
        assert address.startswith("http://127.0.0.1:")
        assert httpx2.get(f"{address}api/studies", headers={"host": "rowtag.example"}).status_code == 421
