"""Long work: runs beside the server, says how far it is, can be stopped, and leaves nothing when stopped."""

import secrets
import threading
import traceback
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

from rowtag.core.errors import Cancelled, NotThere, RowTagError, not_stored
from rowtag.formats.table import Watch

KEPT_JOBS = 50


@dataclass
class Job:
    """One piece of long work. `share` goes from 0 to 1; `result` is there once it is done."""

    id: str
    what: str
    status: Literal["running", "done", "failed", "cancelled"] = "running"
    share: float = 0.0
    doing: str = ""
    result: dict[str, Any] = field(default_factory=dict)
    error: RowTagError | None = None
    file: Path | None = None
    file_name: str = ""
    stop: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)

    def watch(self, share: float, doing: str) -> None:
        """Notes how far the work is; raises Cancelled when somebody stopped it."""
        if self.stop.is_set():
            raise Cancelled("Stopped.", remedy="Nothing was kept.")
        self.share, self.doing = share, doing


class Jobs:
    """The work that is going on, and what lately came of it."""

    def __init__(self) -> None:
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = threading.Lock()

    def start(self, what: str, work: Callable[[Job, Watch], dict[str, Any]]) -> Job:
        """Starts work in a thread of its own; what it gives becomes the job's result."""
        job = Job(secrets.token_hex(6), what)
        with self._lock:
            self._jobs[job.id] = job
            while len(self._jobs) > KEPT_JOBS:
                _, old = self._jobs.popitem(last=False)
                if old.file is not None:
                    old.file.unlink(missing_ok=True)
        threading.Thread(target=self._run, args=(job, work), daemon=True).start()
        return job

    def get(self, id: str) -> Job:
        """A job by its id."""
        if id not in self._jobs:
            raise NotThere("There is no such work any more.", remedy="Start it again.")
        return self._jobs[id]

    def cancel(self, id: str) -> Job:
        """Asks a job to stop."""
        job = self.get(id)
        job.stop.set()
        return job

    def close(self) -> None:
        """Stops everything that still runs."""
        for job in list(self._jobs.values()):
            job.stop.set()
        for job in list(self._jobs.values()):
            job.ended.wait(5)

    @staticmethod
    def _run(job: Job, work: Callable[[Job, Watch], dict[str, Any]]) -> None:
        try:
            job.result = work(job, job.watch)
            job.share, job.status = 1.0, "done"
        except Cancelled:
            job.status = "cancelled"
        except RowTagError as error:
            job.error, job.status = error, "failed"
        except OSError as error:
            job.error, job.status = not_stored(job.what, error), "failed"
        except Exception:
            traceback.print_exc()
            job.error = RowTagError(
                "Something went wrong inside Row Tag; nothing was changed.", remedy="The log says more."
            )
            job.status = "failed"
        finally:
            job.ended.set()
