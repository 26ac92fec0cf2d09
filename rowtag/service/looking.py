"""Looking at a whole study: what its tags come to together, told from the state before where little has changed."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from rowtag.core.engine import Same
from rowtag.core.reading import Fill
from rowtag.core.steps.base import NO_FILL
from rowtag.core.study import Study
from rowtag.core.touched import Touched, touched
from rowtag.store.studyfile import StudyFile

KEPT = 16
"""States whose totals are remembered."""
MOST_MOVES = 50
"""Revisions that are looked at one by one for what they touched; whoever knows an earlier one asks for everything."""


@dataclass(frozen=True)
class Share:
    """What one variable adds: its fill, how many findings it has, and whether it is ready."""

    fill: Fill = NO_FILL
    findings: int = 0
    ready: int = 0

    def __add__(self, other: "Share") -> "Share":
        return Share(self.fill + other.fill, self.findings + other.findings, self.ready + other.ready)

    def __sub__(self, other: "Share") -> "Share":
        return Share(self.fill - other.fill, self.findings - other.findings, self.ready - other.ready)


class Totals:
    """What the variables of states come to together; `share` tells it of one."""

    def __init__(self, share: Callable[[Study, str], Share]) -> None:
        self._share = share
        self._known: OrderedDict[Same, Share] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, study: Study, before: Study | None, changed: Touched | None) -> Share:
        """The totals of a state. Where those of the state before are known, only what was touched is looked at."""
        with self._lock:
            known = self._known.get(Same(study))
            earlier = None if before is None else self._known.get(Same(before))
        if known is not None:
            return known
        if earlier is None or before is None or changed is None or changed.records:
            found = self._sum(study, study.order)
        else:
            found = earlier - self._sum(before, changed.variables) + self._sum(study, changed.variables)
        with self._lock:
            self._known[Same(study)] = found
            while len(self._known) > KEPT:
                self._known.popitem(last=False)
        return found

    def _sum(self, study: Study, ids: Iterable[str]) -> Share:
        return sum((self._share(study, id) for id in ids if id in study.variables), Share())


def since(before: Study | None, study: Study) -> tuple[Touched | None, list[str]]:
    """What was touched since a state, and the variables that look otherwise: all, where that state is not known."""
    if before is None:
        return None, list(study.order)
    changed = touched(before, study)
    return changed, [id for id in study.order if changed.records or id in changed.variables]


def touched_on_the_way(file: StudyFile, known: int, revision: int, straight: Touched | None) -> dict[str, Any] | None:
    """Everything that was touched from one revision to another, as windows are told: also what was touched and is as it
    was again, for somebody may have looked in between. None where that cannot be told.

    `straight`: what differs between the two, which is all there is where nothing lies in between.
    """
    if straight is not None and revision - known <= 1:
        return straight.as_dict()
    way = file.held_between(known, revision) if 0 <= revision - known <= MOST_MOVES else []
    if not way:
        return None
    out = Touched().as_dict()
    for before, after in pairwise(way):
        for part, now in touched(before, after).as_dict().items():
            out[part] = sorted({*out[part], *now}) if isinstance(now, list) else out[part] or now
    return out
