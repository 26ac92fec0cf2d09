"""What a check is: it looks at one variable and says what it noticed, with evidence and remedies."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Literal

from rowtag.core.memo import Memo, Same
from rowtag.core.study import Study, accepted_id

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True)
class Evidence:
    """One entry that a finding is about, as recorded, and how often it occurs."""

    entry: str
    count: int


@dataclass(frozen=True)
class Finding:
    """One thing a check noticed about a variable. `count` is how many entries (or 0) it concerns."""

    check: str
    severity: Severity
    variable: str
    message: str
    count: int = 0
    evidence: tuple[Evidence, ...] = ()


@dataclass(frozen=True)
class Check:
    """A kind of check: its name, the family under which the map shows it, and what finds."""

    name: str
    family: str
    find: Callable[[Study, str], Finding | None]


CHECKS: dict[str, Check] = {}
"""All checks under their names."""

FAMILIES: dict[str, None] = {}
"""Families of checks, in the order in which they were registered."""


def register(name: str, family: str) -> Callable[[Callable[[Study, str], Finding | None]], Check]:
    """Makes a check known under its name."""

    def known(find: Callable[[Study, str], Finding | None]) -> Check:
        CHECKS[name] = Check(name, family, find)
        FAMILIES[family] = None
        return CHECKS[name]

    return known


def is_accepted(study: Study, check: str, variable: str, entry: str = "") -> bool:
    """Whether somebody accepted this finding (or this entry of it)."""
    return accepted_id(check, variable, entry) in study.shelves["accepted"]


def findings_on(study: Study, id: str) -> tuple[Finding, ...]:
    """What all checks find on one variable; remembered for as long as nothing they look at changes."""
    return _memo.get(looked_at(study, id), lambda: _look(study, id), lambda found: 1_000 * len(found))


def looked_at(study: Study, id: str) -> tuple[Hashable, ...]:
    """Everything that is looked at on one variable, as a key: the same key, the same findings, fill and strip."""
    seen = (Same(study.variable(id)), Same(study.codes(id)))
    return id, *seen, study.column(id).serial, study.records.serial, study.accepted_on.get(id)


_memo = Memo(limit=64 * 2**20)


def forget() -> None:
    """Forgets all findings (for measuring from cold)."""
    _memo.clear()


def _look(study: Study, id: str) -> tuple[Finding, ...]:
    checks = [check for check in CHECKS.values() if not is_accepted(study, check.name, id)]
    return tuple(finding for check in checks if (finding := check.find(study, id)) is not None)


def run_checks(study: Study) -> list[Finding]:
    """What all checks find, worst first, then by how many entries they concern, then in codebook order."""
    found = [finding for id in study.order for finding in findings_on(study, id)]
    return sorted(found, key=lambda finding: (SEVERITIES.index(finding.severity), -finding.count))


def is_ready(study: Study, id: str) -> bool:
    """Whether a variable has what its tag wants and no open finding above a note."""
    return all(finding.severity == "note" for finding in findings_on(study, id))
