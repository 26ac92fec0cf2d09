"""Lines of the diary: steps in sentences with their accounts, those of one run of work told in one line."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from rowtag.core.reading import Fill
from rowtag.core.steps import Step
from rowtag.core.study import Study
from rowtag.core.touched import Touched

NOTHING_TOUCHED = Touched()
PAUSE = timedelta(minutes=10)
"""A longer pause than this begins a new line."""


def short(account: dict[str, Any]) -> dict[str, Any]:
    """An account as it is kept: without what is nothing, since most steps touch little."""
    kept = dict(account)
    for name in ("before", "after", "touched"):
        kept[name] = {key: value for key, value in account[name].items() if value and key != "stray"}
    return kept


def whole(kept: dict[str, Any]) -> dict[str, Any]:
    """An account that was kept short."""
    account = dict(kept)
    for name in ("before", "after"):
        fill = Fill(**{key: value for key, value in kept.get(name, {}).items() if key != "stray"})
        account[name] = {**vars(fill), "stray": fill.stray}
    account["touched"] = {**NOTHING_TOUCHED.as_dict(), **kept.get("touched", {})}
    return account


@dataclass(frozen=True)
class Outcome:
    """What an accepted step came to: the revision it made, its sentence and its account."""

    step_id: str
    revision: int
    state: int
    sentence: str
    account: dict[str, Any]
    at: str
    by: str


@dataclass(frozen=True)
class DiaryLine(Outcome):
    """A step in the diary; `current` tells whether the head's state includes it. `parent`: the state it was made on.
    `again`: it was done again as it was, since one before it was amended; `instead`: the id of that which it amends."""

    current: bool
    parent: int | None
    step: Step
    again: bool = False
    instead: str | None = None

    @property
    def do(self) -> str:
        """The registered name of its kind."""
        return str(type(self.step).model_fields["do"].default)


@dataclass(frozen=True)
class Passed:
    """A step on the way to the head: the state that it was made on, the one it made, and what the diary says of it."""

    id: str
    parent: int
    state: int
    step: Step
    sentence: str
    at: str
    by: str
    arrived: int
    """Records that had arrived then."""


@dataclass(frozen=True)
class Run:
    """Steps of one run of work, newest first, and the sentence that tells them together; most runs are one step."""

    sentence: str
    lines: tuple[DiaryLine, ...]


def runs(lines: Sequence[DiaryLine], study: Study) -> list[Run]:
    """Diary lines (newest first) as runs: what one person did on and on, each step on what the one before made."""
    groups: list[list[DiaryLine]] = []
    for line in lines:
        if groups and _goes_on(groups[-1][-1], line):
            groups[-1].append(line)
        else:
            groups.append([line])
    return [Run(_sentence(group, study), tuple(group)) for group in groups]


def _goes_on(later: DiaryLine, earlier: DiaryLine) -> bool:
    return (
        later.parent == earlier.state
        and later.by == earlier.by
        and later.current == earlier.current
        and later.step.continues(earlier.step)
        and datetime.fromisoformat(later.at) - datetime.fromisoformat(earlier.at) <= PAUSE
    )


def _sentence(group: list[DiaryLine], study: Study) -> str:
    if len(group) == 1:
        return group[0].sentence
    steps = [line.step for line in reversed(group)]
    return type(steps[-1]).told_together(steps, study)
