"""The locks of whoever serves a study: nothing that looks at its file may take them away."""

import os
import signal
import sqlite3
import subprocess
import sys
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import httpx2
import pytest

from rowtag.core.errors import InUse
from rowtag.store.studyfile import StudyFile
from rowtag.store.verify import verify
from rowtag.store.workspace import Workspace, study_files
from tests.conftest import brought_in
from tests.store.test_kill import start


def locked(path: Path, process: int) -> bool:
    """Whether a process holds a lock on a file, as the system says."""
    inode = str(path.stat().st_ino)
    lines = (line.split() for line in Path("/proc/locks").read_text().splitlines())
    return any(parts[4] == str(process) and parts[5].split(":")[2] == inode for parts in lines if parts[1] != "->")


def refused(here: Workspace) -> None:
    with pytest.raises(InUse):
        Workspace(here.folder)


TOUCHES: dict[str, Callable[[Workspace, str], object]] = {
    "backed up": lambda here, id: here.back_up(id),
    "a backup taken back": lambda here, id: here.restore_backup(id, here.back_up(id).name),
    "carried": lambda here, id: here.carry(id),
    "copied": lambda here, id: here.copy(id, "A copy"),
    "verified": lambda here, id: verify(here.path(id)),
    "listed": lambda here, id: study_files(here.folder),
    "opened twice": lambda here, id: StudyFile(here.path(id), there=True).close(),
    "renamed": lambda here, id: here.rename(id, "Plots of 2026"),
    "removed and restored": lambda here, id: (here.remove(id), here.restore(id)),
    "another workspace refused": lambda here, id: refused(here),
    "its source read": lambda here, id: [
        list(here.study(id).source_bytes(each.sha256)) for each in here.study(id).study.shelves["source"].values()
    ],
}


@pytest.mark.parametrize("touch", TOUCHES.values(), ids=TOUCHES)
def test_locks_are_kept(workspace: Workspace, touch: Callable[[Workspace, str], object]) -> None:
    """Whatever is done with a study that is open, its file stays locked."""
    study = brought_in(workspace)
    file = workspace.study(study)
    assert file.revision and locked(workspace.path(study), os.getpid())
    touch(workspace, study)
    assert locked(workspace.path(study), os.getpid())


READ = "import sqlite3, sys; c = sqlite3.connect(sys.argv[1]); c.execute('SELECT * FROM move').fetchall(); c.close()"


@pytest.mark.parametrize("way", ["backups", "carried", "copy"])
def test_what_is_acknowledged_stays_whoever_else_reads(tmp_path: Path, way: str) -> None:
    """After a study went out, another program may read its file: the steps after that outlive a kill, too."""
    workspace = Workspace(tmp_path)
    study = brought_in(workspace)
    hours, path = workspace.study(study).study.order[2], workspace.path(study)
    workspace.close()
    server, address = start(tmp_path)
    url = f"{address}/api/studies/{study}"
    try:
        with httpx2.Client(timeout=60) as client:
            base = client.get(url).json()["revision"]

            def typed(number: int, base: int) -> int:
                step = {"do": "set entries", "variable": hours, "entries": {"3": str(number)}}
                reply = client.post(f"{url}/steps", json={"id": f"typed-{number:04d}", "base": base, "step": step})
                assert reply.status_code == 200, reply.text
                return int(reply.json()["revision"])

            base = typed(0, base)
            gone = (
                client.get(f"{url}/{way}")
                if way == "carried"
                else client.post(f"{url}/{way}", json={"title": "A copy", "records": True})
            )
            assert gone.status_code < 300, gone.text
            subprocess.run([sys.executable, "-c", READ, str(path)], check=True)
            for number in range(1, 6):
                base = typed(number, base)
    finally:
        os.kill(server.pid, signal.SIGKILL)
        server.communicate()
    assert verify(path).sound
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("SELECT count(*) FROM step WHERE id LIKE 'typed-%'").fetchone() == (6,)
