"""What is worked out of a whole study beside the server: always of the newest state, one study after the other."""

import threading
import time
import traceback
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from rowtag.core.checks import Finding, findings_across
from rowtag.core.study import Study

KEPT = 64
"""Studies whose findings are remembered."""
QUIET, LONGEST = 0.3, 6.0
"""Seconds in which nobody types or scrolls that are waited for, and at most for one state: what is looked at beside
who works on and on would only hold them up."""


@dataclass(frozen=True)
class Across:
    """What was found across variables and records, and the revision for which it holds."""

    revision: int
    findings: Sequence[Finding]


class Beside:
    """Works out findings across variables in a thread of its own; `tell` hears of each (study id, revision).

    Of states that came while another was looked at, only the newest is looked at.
    """

    def __init__(self, tell: Callable[[str, int], None]) -> None:
        self._tell = tell
        self._asked: OrderedDict[str, tuple[int, Study]] = OrderedDict()
        self._found: OrderedDict[str, Across] = OrderedDict()
        self._change = threading.Condition()
        self._last = self._patience = 0.0
        self._closed = False
        self._looking: str | None = None
        self._done = 0.0
        self._thread: threading.Thread | None = None

    def ask(self, id: str, revision: int, study: Study) -> None:
        """Asks for the findings of a state, unless they are there."""
        with self._change:
            known = self._found.get(id)
            if self._closed or (known is not None and known.revision >= revision):
                return
            self._asked[id] = revision, study
            self.at_work()
            if self._thread is None:
                self._thread = threading.Thread(target=self._work, daemon=True)
                self._thread.start()
            self._change.notify_all()

    def at_work(self) -> None:
        """Hears that somebody types or scrolls."""
        self._last = time.monotonic()

    def found(self, id: str) -> Across | None:
        """The newest findings that are there."""
        return self._found.get(id)

    def progress(self, id: str) -> float | None:
        """How much of what is looked at in a study is done, as a share; None where nothing is under way."""
        if self._looking == id:
            return self._done
        return 0.0 if id in self._asked else None

    def _is_done(self, share: float) -> None:
        """Notes how far it is, and lets whoever works go first before it goes on."""
        self._done = share
        with self._change:
            self._wait_for_quiet()

    def settled(self, seconds: float = 10) -> bool:
        """Waits until nothing is asked for and nothing is looked at; whether that came about."""
        with self._change:
            return self._change.wait_for(lambda: not self._asked and not self._looking, seconds)

    def close(self) -> None:
        """Ends with what is being looked at."""
        with self._change:
            self._closed = True
            self._asked.clear()
            self._change.notify_all()
        if self._thread is not None:
            self._thread.join(5)

    def _wait_for_quiet(self) -> None:
        """Waits until nobody has been at work for a moment, as long as patience lasts."""
        while not self._closed and (left := min(self._last + QUIET, self._patience) - time.monotonic()) > 0:
            self._change.wait(left)

    def _work(self) -> None:
        while True:
            with self._change:
                while not self._asked and not self._closed:
                    self._change.wait()
                self._patience = time.monotonic() + LONGEST
                self._wait_for_quiet()
                if self._closed:
                    return
                id, (revision, study) = self._asked.popitem(last=False)
                self._looking, self._done = id, 0.0
            try:
                _spell(study)
                found = Across(revision, findings_across(study, self._is_done))
                with self._change:
                    self._found[id] = found
                    self._found.move_to_end(id)
                    while len(self._found) > KEPT:
                        self._found.popitem(last=False)
                self._tell(id, revision)
            except Exception:
                traceback.print_exc()
            finally:
                with self._change:
                    self._looking = None
                    self._change.notify_all()


def _spell(study: Study) -> None:
    """Has all decimals spelled, once for each column, so that the first page that shows them need not wait for it."""
    for id in study.order:
        if study.tag(id).type == "decimal":
            study.reading(id).canonical()
