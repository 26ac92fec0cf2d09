"""Starting: processor time until there is something to see, in imports of NumPy and PyArrow alone."""

import os
import statistics
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from bench.measures import _server

TIMES = 5
_TICKS = os.sysconf("SC_CLK_TCK")


def measured(folder: Path) -> tuple[float, float]:
    """`rowtag describe` on a file of two lines, and a server that is started again until it answers, each as a
    multiple of `python -c "import numpy, pyarrow"`, the median of some."""
    small = folder / "two-lines.csv"
    small.write_text("a,b\n1,2\n")
    yardstick, describe, serve = [], [], []
    _answered(folder / "starting")  # a first start makes the catalogue
    for _ in range(TIMES):
        yardstick.append(_ran("-c", "import numpy, pyarrow"))
        describe.append(_ran("-m", "rowtag.cli", "describe", str(small)))
        serve.append(_answered(folder / "starting"))
    of = statistics.median(yardstick)
    return statistics.median(describe) / of, statistics.median(serve) / of


def _ran(*command: str) -> float:
    """Seconds of processor time that a command takes."""
    return _children(lambda: subprocess.run([sys.executable, *command], check=True, stdout=subprocess.DEVNULL))


def _children(work: Callable[[], object]) -> float:
    before = os.times()
    work()
    after = os.times()
    return after.children_user - before.children_user + after.children_system - before.children_system


def _answered(folder: Path) -> float:
    """Seconds of processor time of a server until its first answer with data."""
    server = _server(folder)
    with server as client:
        assert client.get("/api/studies").status_code == 200
        taken = Path(f"/proc/{server.process.pid}/stat").read_text().rsplit(")", 1)[1].split()
    return (int(taken[11]) + int(taken[12])) / _TICKS
