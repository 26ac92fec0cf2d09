"""The front end's own tests, run with the others so that one command is enough."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


def test_the_session_of_the_browser() -> None:
    """The queue of intentions, entries by address and stamps hold what they promise, without a browser."""
    path = os.pathsep.join([str(ROOT / ".venv" / "node-bin"), os.environ["PATH"]])
    node = shutil.which("node", path=path)
    if node is None or not (ROOT / "web" / "node_modules" / "vitest").is_dir():
        pytest.fail("The front end is not set up; run make setup.")
    command = [node, "node_modules/vitest/vitest.mjs", "run"]
    run = subprocess.run(command, cwd=ROOT / "web", capture_output=True, text=True, env={**os.environ, "PATH": path})
    assert run.returncode == 0, run.stdout + run.stderr
    assert "passed" in run.stdout
